"""python -m empuje, and the command `empuje`."""

import os
import signal
import sys

# While the command is still being loaded there is nothing to tell whoever stops it: no traceback either. Where the
# signal is ignored, as in the background, it stays so.
LISTENING = signal.getsignal(signal.SIGINT) is signal.default_int_handler
if LISTENING:
    signal.signal(signal.SIGINT, signal.SIG_DFL)

from .cli import main  # noqa: E402


def start() -> int:
    """Runs the command line of this process; returns its exit code."""
    if LISTENING:
        signal.signal(signal.SIGINT, signal.default_int_handler)
    if "_ARGCOMPLETE" in os.environ:  # a shell asks what may come next
        from .cli import parser
        from .cli.completing import complete

        complete(parser())
    return main()


if __name__ == "__main__":
    sys.exit(start())
