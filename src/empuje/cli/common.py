"""What the commands share: options, a model read and solved, a table put out. Heavy imports wait until they run."""

from __future__ import annotations

import argparse
import sys
from collections.abc import Iterable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path
from typing import TYPE_CHECKING

from . import FINE, NOT_MET, Refusal

if TYPE_CHECKING:
    import numpy as np

    from ..core.analysis.solve import Prepared, Solution
    from ..core.answers.table import Table
    from ..core.model.findings import Finding
    from ..core.model.loads import PlainLoads
    from ..core.model.project import Project
    from ..files.selectors import Names
    from ..show.display import Display

LONG_WORK = 2000
"""From so many members on, someone at a terminal is told what is going on."""
VERY_LONG_WORK = 5000
FORMATS = ("table", "csv", "json", "md", "xlsx")


def add_model(command: argparse.ArgumentParser) -> None:
    command.add_argument("model", metavar="MODEL", help="the model file (TOML)")


def add_on(command: argparse.ArgumentParser, what: str) -> None:
    command.add_argument(
        "--on", action="append", default=[], metavar="SELECTOR",
        help=f"{what}: a name, a family, a glob; several with commas or by repeating; !X leaves X out",
    )  # fmt: skip


def add_under(command: argparse.ArgumentParser, default: str = "every case and combination") -> None:
    command.add_argument(
        "--under", action="append", default=[], metavar="NAME",
        help="cases, combinations or sets: a name, a glob, cases, combinations, strength, service, ... "
        f"(default: {default})",
    )  # fmt: skip


def add_of(command: argparse.ArgumentParser, known: str) -> None:
    command.add_argument("--of", action="append", default=[], metavar="VALUE", help=f"{known} (default: all)")


def components(words: Iterable[str], known: Sequence[str]) -> tuple[str, ...]:
    """Those of the known components that --of names; all of them for no words."""
    from ..core.model.findings import did_you_mean

    chosen = tuple(split(words)) or tuple(known)
    for word in chosen:
        if word not in known:
            raise Refusal(f"--of: there is no {word}; {did_you_mean(word, known)}")
    return chosen


def add_output(command: argparse.ArgumentParser) -> None:
    command.add_argument("--format", choices=FORMATS, help="table is for eyes; csv, json and xlsx carry full precision")
    command.add_argument("-o", dest="output", metavar="FILE", help="write to a file; its ending sets the format")


def split(words: Iterable[str]) -> list[str]:
    """--on a,b --on c as [a, b, c]."""
    return [w.strip() for word in words for w in word.split(",") if w.strip()]


def say(text: str) -> None:
    """Everything that is not a result goes to standard error."""
    print(text, file=sys.stderr)


def progress(text: str) -> None:
    """What long work is at, for someone who waits; nothing in a pipe."""
    if sys.stderr.isatty():
        say(text)


@dataclass
class Model:
    """A model that could be read, and the names in it; patterns that --under names join its combinations."""

    path: Path
    project: Project
    names: Names
    findings: list[Finding]
    display: Display
    loads: PlainLoads
    failed: list[str] = field(default_factory=list)

    @property
    def verdict(self) -> int:
        """The exit code: not met where a result that was asked for has no answer."""
        return NOT_MET if self.failed else FINE

    def under(self, words: Iterable[str], default: Iterable[str] = ()) -> list[str]:
        """Names of cases and combinations."""
        from ..files.under import results_meant, with_patterns

        chosen = split(words) or list(default)
        self.project = with_patterns(self.project, chosen)
        with refusing("--under"):
            return results_meant(self.project, chosen)

    def under_combinations(self, words: Iterable[str]) -> list[str]:
        """As `under`, by default all combinations, or all cases where there are none."""
        return self.under(words, ["combinations" if self.project.combinations else "cases"])

    def members(self, words: Iterable[str]) -> np.ndarray:
        with refusing("--on"):
            return self.names.members_meant(split(words))

    def nodes(self, words: Iterable[str]) -> np.ndarray:
        with refusing("--on"):
            return self.names.nodes_meant(split(words))

    def nodes_and_members(self, words: Iterable[str]) -> tuple[np.ndarray, np.ndarray]:
        """Both; everything for no words."""
        import numpy as np

        patterns = split(words)
        if not patterns:
            return np.arange(len(self.project.nodes)), np.arange(len(self.project.members))
        nodes, members, missed = self.names.select(patterns)
        if missed:
            raise Refusal(f"--on: nothing is called {missed[0]}; {self.names.like(missed[0])}")
        return np.array(nodes, np.intp), np.array(members, np.intp)


@contextmanager
def refusing(option: str) -> Iterator[None]:
    """Turn a word that means nothing into a refusal that names the option."""
    from ..files.selectors import NothingMeant

    try:
        yield
    except NothingMeant as error:
        raise Refusal(f"{option}: {error.args[0]}") from None


def read(path: str) -> Model:
    """Read a model; errors end the command with all findings, warnings are said."""
    from ..files.reader import UnusableFile, read_model
    from ..show.display import Display

    try:
        reading = read_model(path)
    except UnusableFile as error:
        raise Refusal(str(error.finding)) from None
    if reading.project is None:
        for finding in reading.findings:
            say(str(finding))
        count = sum(f.level == "error" for f in reading.findings)
        raise Refusal(f"{path} has {count} error{'s' if count > 1 else ''}", NOT_MET)
    for finding in reading.findings:
        if finding.level == "warning":
            say(str(finding))
    return Model(
        Path(path), reading.project, reading.names, reading.findings, Display(reading.project.display), reading.loads
    )


def prepare(model: Model) -> Prepared:
    """The first-order solution; a mechanism ends the command with what moves."""
    from ..core.analysis.solve import first_order

    with refusing_mechanisms(model):
        return first_order(model.project, model.loads)


@contextmanager
def refusing_mechanisms(model: Model) -> Iterator[None]:
    from ..core.analysis.factor import backend
    from ..core.analysis.solve import Unstable

    project = model.project
    if len(project.members) > LONG_WORK:
        progress(f"solving {len(project.members)} members, {len(project.cases)} cases ...")
    if len(project.members) > VERY_LONG_WORK and backend() == "scipy":
        say(
            f"note: {len(project.members)} members are solved by SciPy; with `pip install 'empuje[fast]'` a frame of "
            "this size takes about a tenth of the time"
        )
    try:
        yield
    except Unstable as error:
        for finding in error.findings:
            say(str(finding))
        raise Refusal(f"{model.path} cannot be analysed: the frame can move", NOT_MET) from None


def standing(model: Model, solution: Solution, names: list[str]) -> list[str]:
    """Those of the named results that have a stable answer; the others are told, stand first in every table, and are
    remembered for the exit code. A case that cannot stand alone where every combination can is left out of a whole set.
    """
    left = [n for n in names if n not in solution.failed]
    failed = [n for n in names if n in solution.failed]
    from ..core.model.findings import in_short

    found = solution.no_answer(failed)
    for finding in in_short(found):
        say(str(finding))
    if not left:
        raise Refusal("none of these results has a stable answer", NOT_MET)
    some_fail = [n for n, f in zip(failed, found, strict=True) if f.level == "error"]
    model.failed = list(dict.fromkeys([*model.failed, *some_fail]))
    return left


def solve(model: Model, names: list[str], over_patterns: bool = False) -> tuple[Solution, list[str]]:
    """Solve all cases and combinations; returns the solution and those of the named results with a stable answer.

    `over_patterns`: what follows is over all patterns of cases that may be absent; else a note says it is not.
    """
    from ..core.analysis.solve import solve as solved
    from ..core.answers.reactions import result_findings

    with refusing_mechanisms(model):
        solution = solved(model.project, model.loads, names)
    free = [c.name for c in model.project.combinations if c.free and c.name in names]
    if free and not over_patterns:
        more = f" and {len(free) - 1} more" if len(free) > 1 else ""
        say(f"note: {free[0]}{more} with all cases that may be absent; envelopes are over every pattern of them")
    for finding in result_findings(solution, names):
        say(str(finding))
    return solution, standing(model, solution, names)


def why_not_summed(solution: Solution, names: list[str]) -> list[str]:
    """Why some of these results are not sums of cases, said once."""
    from ..show.summary import explained

    return explained([how for how in solution.how(names) if how != "summed"])


@dataclass
class Shown:
    """What a table needs that comes from no model: its units."""

    display: Display
    failed: tuple[str, ...] = ()


def put(table: Table, model: Model | Shown, arguments: argparse.Namespace, text: str | None = None) -> None:
    """A table to standard output or to a file, results without an answer first. `text` replaces the plain table for
    eyes."""
    from ..core.answers.table import failed_first
    from ..core.model.findings import listed
    from ..show.tables import as_text

    if text is not None and model.failed:
        text = f"No answer: {listed(model.failed)}\n\n{text}"
    table = failed_first(table, model.failed)
    style = arguments.format or _style_of(arguments.output)
    if style == "xlsx":
        put_workbook(table, model, arguments.output)
        return
    body = text if text is not None and style == "table" else as_text(table, model.display, style)
    put_text(body, arguments.output)


def put_workbook(table: Table, model: Model | Shown, output: str | None) -> None:
    from ..show.output import NotWritten
    from ..show.workbook import write_workbook

    if output is None:
        raise Refusal("--format xlsx: a workbook goes to a file; name one with -o")
    try:
        write_workbook(Path(output), table, model.display)
    except NotWritten as error:
        raise Refusal(str(error)) from None
    say(f"wrote {output}")


def put_text(body: str, output: str | None) -> None:
    from ..show.output import NotWritten, write_text

    if output is None:
        sys.stdout.write(body)
        return
    try:
        write_text(Path(output), body)
    except NotWritten as error:
        raise Refusal(str(error)) from None
    say(f"wrote {output}")


def _style_of(output: str | None) -> str:
    """The format a file's ending asks for."""
    ending = Path(output).suffix.lower().removeprefix(".") if output else ""
    if ending in ("", "txt"):
        return "table"
    if ending not in FORMATS:
        raise Refusal(
            f"-o {output}: cannot tell the format from .{ending}; use .csv, .json, .md, .xlsx or .txt, or --format"
        )
    return ending
