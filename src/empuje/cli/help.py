"""empuje help [TOPIC ...]"""

from __future__ import annotations

import argparse
import re
import sys
from contextlib import nullcontext
from importlib.resources import files
from pathlib import Path

from . import Refusal

MOST = 6
"""So many parts or rows that fit are shown."""
PAGES = (
    "first-hour", "tour", "cookbook", "model-file", "commands", "python", "glossary", "theory", "verification",
    "performance", "safety",
)  # fmt: skip


def options(command: argparse.ArgumentParser) -> None:
    command.add_argument("topic", metavar="TOPIC", nargs="*", help=f"a page, a head in one, or words of a head: "
                         f"{', '.join(PAGES)} (default: what there is)")  # fmt: skip


def run(arguments: argparse.Namespace) -> int:
    topic = " ".join(arguments.topic).strip()
    if not topic:
        text = "".join(f"- `{name}`: {_first_line(page(name))}\n" for name in PAGES)
    else:
        text = found(topic)
    if sys.stdout.isatty():
        from rich.console import Console
        from rich.markdown import Markdown

        console = Console()
        long = text.count("\n") > console.height
        with console.pager(styles=True) if long else nullcontext():
            console.print(Markdown(text))
    else:
        print(text, end="")
    return 0


def page(name: str) -> str:
    """A page of the documentation, as it lies in the package, or beside the source."""
    room = files("empuje").joinpath("docs", f"{name}.md")
    if room.is_file():
        return room.read_text(encoding="utf-8")
    return (Path(__file__).parents[3] / "docs" / f"{name}.md").read_text(encoding="utf-8")


def found(topic: str) -> str:
    """The page, or the part of one, that a topic names. Raises Refusal where none does."""
    from ..core.model.findings import did_you_mean

    wanted = _plain(topic)
    if wanted.replace(" ", "-") in PAGES:
        return page(wanted.replace(" ", "-"))
    parts = [part for name in PAGES for part in _parts(page(name))]
    for fits in (
        [text for head, text in parts if _plain(head) == wanted],
        _rows("glossary", wanted),
        _rows("model-file", wanted),
        [text for head, text in parts if set(wanted.split()) <= set(_plain(head).split())],
    ):
        if fits:
            return "\n".join(fits[:MOST])
    terms = [_plain(row[0]) for row in _table("glossary")]
    near = did_you_mean(wanted, [*PAGES, *terms, *(_plain(head) for head, _ in parts)])
    raise Refusal(f"no page has a head, a term or a key {topic}; {near}")


def _rows(name: str, wanted: str) -> list[str]:
    """Rows of the tables of a page whose first cell it is: terms of the glossary, keys of the model file."""
    own = [row for row in _table(name) if wanted in re.split(r", ?", _plain(row[0], commas=True))]
    return [f"**{row[0]}**: {'; '.join(w for w in row[1:] if w.strip('- '))}\n" for row in own]


def _table(name: str) -> list[list[str]]:
    """The rows of all tables of a page."""
    lines = (line for line in page(name).splitlines() if line.startswith("| "))
    return [[cell.strip() for cell in re.split(r"(?<!\\)\|", line.strip("| "))] for line in lines]


def _parts(text: str) -> list[tuple[str, str]]:
    """The heads of a page with all that is below each, down to the next of its rank."""
    lines, out, fenced = text.splitlines(keepends=True), [], False
    heads = []
    for i, line in enumerate(lines):
        fenced ^= line.startswith("```")
        if not fenced and re.match(r"#{2,3} ", line):
            heads.append((i, line.index(" "), line.strip("# \n")))
    for k, (i, rank, head) in enumerate(heads):
        stop = next((j for j, other, _ in heads[k + 1 :] if other <= rank), len(lines))
        out.append((head, "".join(lines[i:stop])))
    return out


def _plain(text: str, commas: bool = False) -> str:
    text = re.sub(r"[-_]", " ", re.sub(r"^\d+\. ", "", text.lower()).replace("`", ""))
    return re.sub(r"\s+", " ", text if commas else text.replace(",", " ")).strip()


def _first_line(text: str) -> str:
    """The title of a page."""
    return text.splitlines()[0].lstrip("# ")
