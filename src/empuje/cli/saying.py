"""What is said to whoever called: results on standard output, everything else on standard error."""

from __future__ import annotations

import sys
from typing import TextIO


def say(text: str) -> None:
    """Everything that is not a result goes to standard error."""
    tell(text, sys.stderr)


def tell(text: str, stream: TextIO | None = None) -> None:
    """Sentences, wrapped at blanks on a terminal."""
    from ..show.layout import flowing, window

    stream = stream or sys.stdout
    print(flowing(text, window(stream)), file=stream)
