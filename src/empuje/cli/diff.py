"""empuje diff OLD NEW"""

from __future__ import annotations

import argparse
import math
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING

from . import FINE, NOT_MET, Refusal, common, flags, outputs, saying

if TYPE_CHECKING:
    from collections.abc import Iterator

HTML = {"html": "html", "htm": "html"}


def options(command: argparse.ArgumentParser) -> None:
    command.add_argument("old", metavar="OLD", help="the model as it was; with --against the model as it is")
    command.add_argument("new", metavar="NEW", nargs="?", help="the model as it is")
    command.add_argument(
        "--against",
        metavar="REVISION",
        help="OLD as it was at a revision of git, such as HEAD or a tag, in place of NEW",
    )
    flags.add_under(command, "all combinations")
    command.add_argument(
        "--tolerance", default="0.1%", metavar="SHARE",
        help="results that differ by no more than this are the same, such as 2%% (default: 0.1%%)",
    )  # fmt: skip
    command.add_argument("--any", action="store_true", help="exit code 1 where anything changed, not only limits")
    flags.add_output(command, ("html",))
    flags.add_cache(command)


def run(arguments: argparse.Namespace) -> int:
    from ..show.changes_text import changes_as_markdown, changes_for_eyes, changes_page, changes_table
    from ..study.differences import compared

    if (arguments.new is None) == (arguments.against is None):
        raise Refusal("give two models, OLD and NEW, or one and --against REVISION")
    style = outputs.style_of(arguments, HTML)
    tolerance = _share(arguments.tolerance)
    new_path = arguments.new or arguments.old
    arguments.model = new_path
    new = common.read(arguments)
    output, arguments.output = arguments.output, None  # the other file is only read
    with _old_path(arguments) as old_path:
        arguments.model = str(old_path)
        old = common.read(arguments)
        arguments.output = output
        outputs.claim(output, arguments, [*new.study.inputs, *old.study.inputs])
        with common.refusing("--under"):
            under = flags.split(arguments.under)
            found = common.refusing_mechanisms(new.study, lambda: compared(old.study, new.study, under, tolerance))
    for names, whose in zip(found.failed, ("the old model", "the new model"), strict=True):
        if names:
            shown = ", ".join(names[:4]) + (", ..." if len(names) > 4 else "")
            saying.say(f"warning: without an answer in {whose}, and not compared: {shown}")
    was = f"{arguments.old} at {arguments.against}" if arguments.against else arguments.old
    about = (f"{was} -> {new_path}; values over {found.under[0]} and {found.under[1]} results, "
             f"listed where they differ by more than {100 * tolerance:g} %")  # fmt: skip
    title = new.project.title or new.project.file
    picked = outputs.picked(arguments)
    if style == "html":
        from ..report.as_html import as_html

        outputs.put_text(as_html(changes_page(found.changes, new.display, title, about)), arguments.output)
    elif style == "md" and not picked:
        outputs.put_text(changes_as_markdown(found.changes, new.display, title), arguments.output)
    else:
        outputs.put(
            changes_table(found.changes, new.display), new, arguments, changes_for_eyes(found.changes, new.display)
        )
    saying.say(about)
    for change in found.turned:
        saying.say(f"changed verdict: limit {change.group}, {change.of}: utilisation {change.after:.3g}")
    if found.lost:
        saying.say(
            f"changed verdict: {len(found.lost)} result{'s have' if len(found.lost) > 1 else ' has'} no answer any more"
        )
    return NOT_MET if found.turned or found.lost or (arguments.any and found.changes) else FINE


@contextmanager
def _old_path(arguments: argparse.Namespace) -> Iterator[Path]:
    """Where the old model is to be read."""
    from ..files.kept.revisions import NoRevision, at_revision

    if arguments.against is None:
        yield Path(arguments.old)
        return
    try:
        with at_revision(Path(arguments.old), arguments.against) as path:
            yield path
    except NoRevision as error:
        raise Refusal(f"--against {arguments.against}: {error}") from None


def _share(text: str) -> float:
    """A share, as a number or in per cent."""
    try:
        value = float(text.rstrip("% ")) / (100 if text.rstrip().endswith("%") else 1)
    except ValueError:
        value = math.nan
    if not 0 <= value < 1:
        raise Refusal(f"--tolerance {text}: write a share such as 2% or 0.02")
    return value
