"""What the commands share: options, a model read and solved, a table put out. Heavy imports wait until they run."""

from __future__ import annotations

import argparse
import os
import sys
from collections.abc import Callable, Iterable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path
from typing import TYPE_CHECKING, TextIO, TypeVar

from ..core.model.telling import quiet
from . import FINE, NOT_MET, STOPPED, Refusal

if TYPE_CHECKING:
    import numpy as np

    from ..core.analysis.solution import Solution
    from ..core.analysis.solve import Prepared
    from ..core.answers.table import Table
    from ..core.model.project import Project
    from ..core.model.results import Result, Results
    from ..core.resolve.resolved import Resolved
    from ..show.display import Display
    from ..study import Study

T = TypeVar("T")
FEW_MEMBERS = 1000
LONG_WORK = 2000
"""From so many members on, someone at a terminal is told what is going on."""
VERY_LONG_WORK = 5000
LONG_READING = 1_000_000
"""Bytes from which reading takes longer than one likes to wait without a word."""
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
    add_force(command)
    command.add_argument("--sort", metavar="COLUMN", help="sort by a column: numbers by size, largest first")
    command.add_argument("--rows", type=int, metavar="N", help="no more than N rows")


def add_force(command: argparse.ArgumentParser) -> None:
    """The option that lets a file be replaced which this tool did not write."""
    command.add_argument("--force", action="store_true", help="replace the file even if it is not one of ours")


def claim(output: str | None, arguments: argparse.Namespace, inputs: Iterable[Path] = ()) -> None:
    """Refuses, before any work is done, a file that may not be written."""
    from ..show.output import NotWritten, check_file

    if output is None:
        return
    try:
        check_file(Path(output), inputs, arguments.force)
    except NotWritten as error:
        raise Refusal(str(error)) from None


FEW = 3
"""Up to so many results are shown each; of more what governs, unless --each."""


def add_each(command: argparse.ArgumentParser, what: str) -> None:
    command.add_argument("--each", action="store_true", help=f"every result; otherwise of more than {FEW} {what}")


def each_of(arguments: argparse.Namespace, results: Results) -> bool:
    """Whether every result is shown: a few, those named one by one, and all on request; else it is said that what
    governs is."""
    named = set(split(arguments.under))
    if arguments.each or len(results) <= FEW or named == {r.name for r in results}:
        return True
    say(f"what governs of {len(results)} results; --each lists every one")
    return False


MOST_SHAPES = 12


def refuse_shapes(number: int, option: str) -> None:
    """So many buckling shapes, or the shape of that number, can be asked for."""
    if not 1 <= number <= MOST_SHAPES:
        raise Refusal(f"{option}: give a number from 1 to {MOST_SHAPES}")


def split(words: Iterable[str]) -> list[str]:
    """--on a,b --on c as [a, b, c]."""
    return [w.strip() for word in words for w in word.split(",") if w.strip()]


def say(text: str) -> None:
    """Everything that is not a result goes to standard error."""
    tell(text, sys.stderr)


def tell(text: str, stream: TextIO | None = None) -> None:
    """Sentences, wrapped at blanks on a terminal."""
    from ..show.layout import flowing, window

    stream = stream or sys.stdout
    print(flowing(text, window(stream)), file=stream)


@dataclass
class Model:
    """A study, as commands see it: words that mean nothing are refused, and what has no answer is remembered."""

    study: Study
    display: Display
    failed: list[str] = field(default_factory=list)

    @property
    def project(self) -> Project:
        return self.study.project

    @property
    def resolved(self) -> Resolved:
        return self.study.resolved

    @property
    def verdict(self) -> int:
        """The exit code: not met where a result that was asked for has no answer."""
        return NOT_MET if self.failed else FINE

    def under(self, words: Iterable[str], default: Iterable[str] = ()) -> list[Result]:
        """The cases and combinations meant."""
        with refusing("--under"):
            return self.study.under(split(words) or list(default))

    def under_combinations(self, words: Iterable[str]) -> list[Result]:
        """As `under`, by default all combinations, or all cases where there are none."""
        with refusing("--under"):
            return self.study.under_combinations(split(words))

    def members(self, words: Iterable[str]) -> np.ndarray:
        with refusing("--on"):
            return self.study.names.members_meant(split(words))

    def nodes(self, words: Iterable[str]) -> np.ndarray:
        with refusing("--on"):
            return self.study.names.nodes_meant(split(words))

    def nodes_and_members(self, words: Iterable[str]) -> tuple[np.ndarray, np.ndarray]:
        """Both; everything for no words."""
        import numpy as np

        patterns = split(words)
        if not patterns:
            return np.arange(len(self.project.nodes)), np.arange(len(self.project.members))
        nodes, members, missed = self.study.names.select(patterns)
        if missed:
            raise Refusal(f"--on: nothing is called {missed[0]}; {self.study.names.like(missed[0])}")
        return np.array(nodes, np.intp), np.array(members, np.intp)


@contextmanager
def refusing(option: str) -> Iterator[None]:
    """Turn a word that means nothing into a refusal that names the option."""
    from ..files.selectors import NothingMeant

    try:
        yield
    except NothingMeant as error:
        raise Refusal(f"{option}: {error.args[0]}") from None


def add_cache(command: argparse.ArgumentParser) -> None:
    command.add_argument("--no-cache", action="store_true", help="solve anew, and keep nothing for the next question")
    command.add_argument("--anyway", action="store_true", help="solve even what may need more memory than there is")


def study(arguments: argparse.Namespace) -> Study:
    """A model read and resolved, whatever was found."""
    from ..study import Study, UnusableFile

    try:
        with _told_while_read(Path(arguments.model)):
            found = Study.read(arguments.model, cache=not getattr(arguments, "no_cache", False))
    except UnusableFile as error:
        raise Refusal(str(error.finding)) from None
    if hasattr(arguments, "force"):
        claim(arguments.output, arguments, found.inputs)
    if found.sound and not getattr(arguments, "anyway", True):
        _refuse_too_large(found)
    return found


@contextmanager
def _told_while_read(path: Path) -> Iterator[None]:
    """Whoever waits at a terminal for large tables sees that they are being read."""
    beside = [path, *path.parent.glob("*.csv"), *path.parent.glob("*.xlsx")] if sys.stderr.isatty() else []
    if sum(p.stat().st_size for p in beside if p.is_file()) < LONG_READING:
        yield
        return
    from ..show.progress import bar

    with bar() as tell:
        tell(f"reading {path.name} and what it names")
        yield


def _refuse_too_large(study: Study) -> None:
    """Refuses, before memory is spent, what the machine has not enough of for."""
    members = len(study.project.members)
    if members < LONG_WORK:
        return
    from ..core.analysis.factor import backend
    from ..core.analysis.sizes import expected_bytes
    from .machine import memory

    needed, there = expected_bytes(study.project, backend()), memory()
    if there is not None and needed > there:
        fast = "; `pip install 'empuje[fast]'` needs far less" if backend() == "scipy" else ""
        sizes = f"{members:,} members, {len(study.project.nodes):,} nodes and {len(study.project.cases)} cases"
        memories = f"about {needed / 1e9:.1f} GB of memory, and this machine has {there / 1e9:.1f}"
        raise Refusal(f"{study.path} has {sizes}: solving it takes {memories}{fast}; --anyway tries it")


def read(arguments: argparse.Namespace) -> Model:
    """A model without errors: they end the command with all findings; warnings are said."""
    from ..core.model.findings import in_short
    from ..show.display import Display

    found = study(arguments)
    if not found.sound:
        for finding in in_short(found.findings):
            say(str(finding))
        count = sum(f.stands_for for f in found.findings if f.level == "error")
        raise Refusal(f"{found.path} has {count:,} error{'s' if count > 1 else ''}", NOT_MET)
    for finding in in_short([f for f in found.findings if f.level == "warning"]):
        say(str(finding))
    return Model(found, Display(found.project.display, width(arguments)))


def width(arguments: argparse.Namespace) -> int | None:
    """The window's width, where a table for eyes goes to one."""
    from ..show.layout import window

    there = window()
    to_window = getattr(arguments, "output", None) is None and getattr(arguments, "format", None) in (None, "table")
    return there.width if there is not None and to_window else None


def prepare(model: Model) -> Prepared:
    """The first-order solution; a mechanism ends the command with what moves."""
    return refusing_mechanisms(model.study, lambda: model.study.prepared)


def spare_threads(members: int) -> None:
    """Small matrices are worked on by one thread: handing them out to several costs more than it saves."""
    if members < FEW_MEMBERS:
        from threadpoolctl import threadpool_limits

        threadpool_limits(1, user_api="blas")
        os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")  # for what is loaded later


def watched(study: Study, work: Callable[[], T]) -> T:
    """Does what may take long: of a large model whoever waits at a terminal sees what it is at, and can stop it at
    once. Nothing may be written meanwhile."""
    from ..core.analysis.factor import backend

    members = len(study.project.members)
    spare_threads(members)
    if members > VERY_LONG_WORK and backend() == "scipy":
        say(
            f"note: {members} members are solved by SciPy; with `pip install 'empuje[fast]'` a frame of this size "
            "takes about a tenth of the time"
        )
    if members <= LONG_WORK:
        return work()
    from ..show.progress import bar, beside

    try:
        with bar() as study.tell:
            return beside(work)
    except KeyboardInterrupt:
        say("stopped; no output was changed")
        sys.stderr.flush()
        os._exit(STOPPED)  # whatever a library is still at
    finally:
        study.tell = quiet


def refusing_mechanisms(study: Study, work: Callable[[], T]) -> T:
    """Does the work; a mechanism ends the command with what moves."""
    from ..study import ModelError

    try:
        return watched(study, work)
    except ModelError as error:
        for finding in error.findings:
            say(str(finding))
        raise Refusal(f"{study.path} cannot be analysed: {error.why}", NOT_MET) from None


def standing(model: Model, solution: Solution, results: Results) -> list[Result]:
    """Those of the results that have a stable answer; the others are told, stand first in every table, and are
    remembered for the exit code. A case that cannot stand alone where every combination can is left out of a whole set.
    """
    from ..core.model.findings import in_short

    left = [r for r in results if r not in solution.failed]
    failed = [r for r in results if r in solution.failed]
    found = solution.no_answer(failed)
    for finding in in_short(found):
        say(str(finding))
    if not left:
        raise Refusal("none of these results has a stable answer", NOT_MET)
    some_fail = [r.name for r, f in zip(failed, found, strict=True) if f.level == "error"]
    model.failed = list(dict.fromkeys([*model.failed, *some_fail]))
    return left


def solve(model: Model, results: Results, over_patterns: bool = False) -> tuple[Solution, list[Result]]:
    """Solve all cases and combinations; returns the solution and those of the results with a stable answer.

    `over_patterns`: what follows is over all patterns of cases that may be absent; else a note says it is not.
    """
    from ..core.answers.reactions import result_findings

    solution = refusing_mechanisms(model.study, lambda: model.study.solution(results))
    free = [r.name for r in results if r.free]
    if free and not over_patterns:
        more = f" and {len(free) - 1} more" if len(free) > 1 else ""
        say(f"note: {free[0]}{more} with all cases that may be absent; envelopes are over every pattern of them")
    for finding in result_findings(solution, results):
        say(str(finding))
    return solution, standing(model, solution, results)


def explained_how(solution: Solution, results: Results, all_but_sums: bool = False) -> list[str]:
    """What each way in which these results came about means, said once; of sums only unless `all_but_sums`."""
    from ..core.model.words import How
    from ..show.summary import explained

    how = zip(results, solution.how(results), strict=True)
    return explained([(h, r.second_order_at) for r, h in how if not (all_but_sums and h == How.SUMMED)])


@dataclass
class Shown:
    """What a table needs that comes from no model: its units."""

    display: Display
    failed: tuple[str, ...] = ()


def put(
    table: Table, model: Model | Shown, arguments: argparse.Namespace, text: str | None = None,
    unseen: Sequence[str] = (),
) -> None:  # fmt: skip
    """A table to standard output or to a file, results without an answer first. For eyes `text` replaces it, or it
    goes without `unseen` columns."""
    from ..core.answers.table import failed_first
    from ..core.model.findings import listed
    from ..show.tables import as_text

    if text is not None and model.failed:
        text = f"No answer: {listed(model.failed)}\n\n{text}"
    if arguments.sort or arguments.rows is not None:
        table, text = _picked(table, model.display, arguments), None
    table = failed_first(table, model.failed)
    style = arguments.format or _style_of(arguments.output)
    if style == "xlsx":
        put_workbook(table, model, arguments.output)
        return
    if style == "table":
        table = table.without(unseen)
    body = text if text is not None and style == "table" else as_text(table, model.display, style)
    put_text(body, arguments.output)


def _picked(table: Table, display: Display, arguments: argparse.Namespace) -> Table:
    """In the order and number asked for."""
    import numpy as np

    from ..core.model.findings import did_you_mean

    if arguments.sort:
        by_head = {display.head(c): c for c in table.columns} | {c.name: c for c in table.columns}
        column = by_head.get(arguments.sort)
        if column is None:
            known = [c.name for c in table.columns]
            raise Refusal(f"--sort: there is no column {arguments.sort}; {did_you_mean(arguments.sort, known)}")
        values = np.asarray(column.values)
        key = values.astype(str) if column.kind == "text" else -np.abs(np.nan_to_num(values.astype(float)))
        table = table.rows(np.argsort(key, kind="stable"))
    if arguments.rows is not None:
        if arguments.rows < 1:
            raise Refusal("--rows: give a number from 1 on")
        if arguments.rows < len(table):
            say(f"{arguments.rows} of {len(table)} rows")
        table = table.rows(np.arange(min(arguments.rows, len(table))))
    return table


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
        _write_or_page(body)
        return
    try:
        write_text(Path(output), body)
    except NotWritten as error:
        raise Refusal(str(error)) from None
    say(f"wrote {output}")


def _write_or_page(body: str) -> None:
    """What is longer than the window is paged there."""
    from ..show.layout import window

    there = window()
    if there is None or body.count("\n") < there.height or not sys.stdin.isatty():
        sys.stdout.write(body)
        return
    import os
    import pydoc

    os.environ.setdefault("LESS", "FRX")
    pydoc.pager(body)


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
