"""Writes the commands and their options into docs/commands.md, from what the command line itself says of them.

python tools/commands_page.py           # between <!-- commands --> and <!-- end -->
"""

from __future__ import annotations

import argparse
import re
from pathlib import Path

from empuje.cli import parser

PAGE = Path(__file__).parents[1] / "docs" / "commands.md"
MARKED = re.compile(r"(<!-- commands -->\n).*?(<!-- end -->)", re.S)


def with_commands(text: str) -> str:
    """The page with every command as it should be."""
    top = parser()
    commands = next(a for a in top._actions if isinstance(a, argparse._SubParsersAction))
    listed = "".join(_command(name, one) for name, one in commands.choices.items())
    return MARKED.sub(lambda found: f"{found[1]}\n{listed}{found[2]}", text)


def _command(name: str, command: argparse.ArgumentParser) -> str:
    shown = [a for a in command._actions if not isinstance(a, argparse._HelpAction) and a.help != argparse.SUPPRESS]
    rows = [_row(a) for a in shown]
    head = f"## {name}\n\n{command.description}\n\n"
    if command.epilog:
        head += f"    {command.epilog.removeprefix('Example: ')}\n\n"
    return head + "| option | meaning |\n| --- | --- |\n" + "".join(rows) + "\n"


def _row(action: argparse.Action) -> str:
    shown = action.metavar or (
        "{" + ",".join(map(str, action.choices)) + "}" if action.choices is not None else action.dest.upper()
    )
    if isinstance(shown, tuple):
        shown = " ".join(shown)
    takes = "" if action.nargs == 0 else f" {shown}"
    name = f"{', '.join(action.option_strings)}{takes}".strip()
    words = (action.help or "").replace("%%", "%")
    return f"| `{name.replace('|', '/')}` | {words.replace('|', '/')} |\n"


if __name__ == "__main__":
    PAGE.write_text(with_commands(PAGE.read_text(encoding="utf-8")), encoding="utf-8", newline="\n")
