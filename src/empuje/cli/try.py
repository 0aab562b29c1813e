"""empuje try MODEL"""

from __future__ import annotations

import argparse
from concurrent.futures import BrokenExecutor
from pathlib import Path
from typing import TYPE_CHECKING

from . import FINE, NOT_MET, Refusal, common, flags, outputs, saying

if TYPE_CHECKING:
    from ..core.answers.table import Table
    from ..study.sections import Trial

USUAL = 40


def options(command: argparse.ArgumentParser) -> None:
    flags.add_model(command)
    flags.add_on(command, "families whose sections are tried, several together")
    command.add_argument(
        "--sections", action="append", required=True, metavar="NAMES",
        help='sections, and series from one to another: "IPE 240 .. IPE 400, HEA 200"',
    )  # fmt: skip
    command.add_argument("--runs", type=int, default=USUAL, metavar="N", help=f"analyses at most (default: {USUAL})")
    command.add_argument("--write", action="store_true", help="put the lightest that passes into the model file")
    flags.add_output(command)
    command.add_argument("--anyway", action="store_true", help="try even what may need more memory than there is")


def run(arguments: argparse.Namespace) -> int:
    from ..files.kept.written import digest_of
    from ..show.progress import bar
    from ..study.sections import choices, frame_limited, lighter_left, named_sections, tried, unchecked_families

    arguments.no_cache = True
    path = Path(arguments.model)
    as_read = digest_of(path) if arguments.write and path.is_file() else ""
    model = common.read(arguments)
    families = _families(model, arguments.on)
    if model.project.steel is None and not model.project.limits:
        raise Refusal(f"{model.study.path} has neither [steel] nor [[limits]]: there is nothing to pass")
    loose = unchecked_families(model.project, families)
    if loose and not frame_limited(model.project):
        raise Refusal(f"--on: nothing checks all of {', '.join(loose)}: put them into steel.on, or under a limit on "
                      "forces, stresses or deflections; else any section would pass")  # fmt: skip
    if loose:
        saying.say(
            f"warning: nothing checks the members of {', '.join(loose)}: only limits on the frame say whether one "
            "fails; steel.on, or a limit on forces, stresses or deflections, says it of them"
        )
    if arguments.write and arguments.set:
        raise Refusal("--write with --set: the sections would be chosen for other values than the file has")
    if arguments.runs < 1:
        raise Refusal("--runs: give a number from 1 on")
    own = [m.section.name for m in model.project.members]
    try:
        names = named_sections(flags.split(arguments.sections), own)
    except LookupError as error:
        raise Refusal(f"--sections: {error.args[0]}") from None
    every = choices(model.project, families, names)
    mixes = len(every)
    if mixes > arguments.runs:
        saying.say(
            f"note: {mixes} mixes; {arguments.runs} analyses at most, going up from the lightest, then lighter ones"
        )
    try:
        with bar() as tell:
            found = tried(path, families, names, arguments.runs, tell, given=flags.values_given(arguments))
    except BrokenExecutor:
        raise Refusal("a process that analysed a choice was ended from outside, often for want of memory") from None
    outputs.put(table_of(found, families), model, arguments)
    passing = [t for t in found if t.passes]
    said = f"{len(found)} analyses, "
    if len(found) == mixes:
        saying.say(f"{said}every mix: {len(passing)} pass")
    else:
        left = _left(len(lighter_left(every, found)), len(found), bool(passing))
        saying.say(f"{said}of {mixes} mixes: {len(passing)} pass{left}")
    if not passing:
        return NOT_MET
    if arguments.write:
        _write(path, families, passing[0], as_read)
    return FINE


def _left(left: int, runs: int, passes: bool) -> str:
    """Whether what was found is the lightest of all mixes."""
    if not left:
        return ", and no lighter mix does" if passes else ""
    return f"; {'lighter mixes' if passes else 'mixes'} not tried: {left} (--runs {runs + left} tries them)"


def _families(model: common.Model, words: list[str]) -> list[str]:
    """The families named; members alone have no section of their own."""
    from ..core.model.findings import did_you_mean

    asked = flags.split(words)
    known = list(model.study.names.of_family)
    if not asked:
        raise Refusal("--on: name the families whose sections are tried")
    for word in asked:
        if word not in known:
            raise Refusal(f"--on: there is no family {word}; {did_you_mean(word, known)}")
    return asked


def table_of(found: list[Trial], families: list[str]) -> Table:
    """A row for each choice, in their order."""
    import numpy as np

    from ..core.answers.table import Column, Table

    return Table(
        "trials",
        (
            *(Column(f, "text", [t.choice[i] for t in found]) for i, f in enumerate(families)),
            Column("verdict", "text", ["passes" if t.passes else "no answer" if t.wrong else "fails" for t in found]),
            Column("mass [kg]", "count", np.array([t.mass for t in found])),
            Column("utilisation", "factor", np.array([t.used for t in found])),
            Column("check", "text", [t.check for t in found]),
            Column("member", "text", [t.member for t in found]),
            Column("case", "text", [t.case for t in found]),
            Column("limit", "text", [t.limit or t.wrong for t in found]),
            Column(
                "of limit", "factor", np.array([t.limit_used if np.isfinite(t.limit_used) else np.nan for t in found])
            ),
            Column("all [kg]", "count", np.array([t.whole for t in found])),
        ),
    )


def _write(path: Path, families: list[str], best: Trial, read: str) -> None:
    """The sections into the model file, which has to be as it was `read` (a digest)."""
    from ..files.base.edit import CannotEdit, with_sections
    from ..files.kept.written import digest_of
    from ..show.output import NotWritten, write_text

    if digest_of(path) != read:
        raise Refusal(f"--write: {path} was changed while sections were tried, and is left as it is; try again")
    data = path.read_bytes()
    mark = b"\xef\xbb\xbf" if data.startswith(b"\xef\xbb\xbf") else b""
    text = data.decode("utf-8-sig")
    try:
        changed = with_sections(text, dict(zip(families, best.choice, strict=True)))
        write_text(path, mark.decode("utf-8") + changed)
    except (CannotEdit, NotWritten) as error:
        raise Refusal(f"--write: {error}") from None
    saying.say(f"wrote {', '.join(f'{f} = {n}' for f, n in zip(families, best.choice, strict=True))} into {path}")
