"""What the commands share: a model read and solved. Heavy imports wait until they run."""

from __future__ import annotations

import argparse
import os
import sys
from collections.abc import Callable, Iterable, Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path
from typing import TYPE_CHECKING, TypeVar

from ..core.model.telling import quiet
from . import FINE, NOT_MET, STOPPED, Refusal, flags, outputs, saying, threads

if TYPE_CHECKING:
    import numpy as np

    from ..core.analysis.solution import Solution
    from ..core.analysis.solve import Prepared
    from ..core.model.project import Project
    from ..core.model.results import Result, Results
    from ..core.resolved import Resolved
    from ..show.display import Display
    from ..study.study import Study

T = TypeVar("T")
LONG_WORK = 2000
"""From so many members on, someone at a terminal is told what is going on."""
VERY_LONG_WORK = 5000
LONG_READING = 1_000_000
"""Bytes from which reading takes longer than one likes to wait without a word."""


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

    def under(self, words: Iterable[str], default: Iterable[str] = (), mixes: bool = False) -> list[Result]:
        """The cases and combinations meant; see `Study.under`."""
        with refusing("--under"):
            found = self.study.under(flags.split(words) or list(default), mixes)
        if any(r.of_components for r in found):
            saying.say("The wind of components loads these alone: what it does to other members and to supports is no "
                       "answer.")  # fmt: skip
        return found

    def under_combinations(self, words: Iterable[str], mixes: bool = False) -> list[Result]:
        """As `under`, by default all combinations, or all cases where there are none; see `Study.under`."""
        with refusing("--under"):
            return self.study.under_combinations(flags.split(words), mixes)

    def refuse_without_members(self) -> None:
        """Says where to ask instead."""
        if not self.project.members:
            raise Refusal("the model has no members; `empuje plates` is about its surfaces")

    def members(self, words: Iterable[str]) -> np.ndarray:
        self.refuse_without_members()
        with refusing("--on"):
            return self.study.names.members_meant(flags.split(words))

    def nodes(self, words: Iterable[str], option: str = "--on") -> np.ndarray:
        with refusing(option):
            return self.study.names.nodes_meant(flags.split(words))

    def structural(self, words: Iterable[str]) -> list[int]:
        """The structural surfaces that words mean, all for none."""
        try:
            with refusing("--on"):
                return self.study.structural(flags.split(words))
        except LookupError as error:
            raise Refusal(f"{error.args[0]}: one has a `material` and a `thickness`") from None

    def nodes_and_members(self, words: Iterable[str]) -> tuple[np.ndarray, np.ndarray]:
        """Both; everything for no words."""
        import numpy as np

        patterns = flags.split(words)
        if not patterns:
            return np.arange(len(self.project.nodes)), np.arange(len(self.project.members))
        nodes, members, missed = self.study.names.select(patterns)
        if missed:
            raise Refusal(f"--on: nothing is called {missed[0]}; {self.study.names.like(missed[0])}")
        return np.array(nodes, np.intp), np.array(members, np.intp)


@contextmanager
def refusing(option: str) -> Iterator[None]:
    """Turn a word that means nothing into a refusal that names the option."""
    from ..files.base.selectors import NothingMeant

    try:
        yield
    except NothingMeant as error:
        raise Refusal(f"{option}: {error.args[0]}") from None


def study(arguments: argparse.Namespace) -> Study:
    """A model read and resolved, whatever was found."""
    from ..core.analysis.factor import NoSuchLibraryError, backend
    from ..study.study import NoSuchValue, Study, UnusableFile

    given = flags.values_given(arguments)
    try:
        backend()
    except NoSuchLibraryError as error:
        raise Refusal(str(error)) from None
    try:
        with _told_while_read(Path(arguments.model)):
            found = Study.read(
                arguments.model, not getattr(arguments, "no_cache", False), given, getattr(arguments, "quick", False)
            )
    except (UnusableFile, NoSuchValue) as error:
        raise Refusal(str(error.finding)) from None
    if hasattr(arguments, "force"):
        outputs.claim(arguments.output, arguments, found.inputs)
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
    from ..core.analysis.sizes import expected_bytes, parts_of

    parts, members = parts_of(study.project), len(study.project.members)
    if parts < LONG_WORK:
        return
    from ..core.analysis.factor import backend
    from .machine import memory

    needed, there = expected_bytes(study.project, backend()), memory()
    if there is not None and needed > there:
        fast = "; `pip install 'empuje[fast]'` needs far less" if backend() == "scipy" else ""
        elements = f", {parts - members:,} elements of structural surfaces" if parts > members else ""
        nodes = f"{len(study.project.places):,} nodes"
        sizes = f"{members:,} members{elements}, {nodes} and {len(study.project.cases)} cases"
        memories = f"about {needed / 1e9:.1f} GB of memory, and this machine has {there / 1e9:.1f}"
        raise Refusal(f"{study.path} has {sizes}: solving it takes {memories}{fast}; --anyway tries it")


def read(arguments: argparse.Namespace) -> Model:
    """A model without errors: they end the command with all findings; warnings are said."""
    from ..core.model.findings import in_short
    from ..show.display import Display

    found = study(arguments)
    if not found.sound:
        for finding in in_short(found.findings):
            saying.say(str(finding))
        count = sum(f.stands_for for f in found.findings if f.level == "error")
        raise Refusal(f"{found.path} has {count:,} error{'s' if count > 1 else ''}", NOT_MET)
    for finding in in_short([f for f in found.findings if f.level == "warning" or f.code == "value-set"]):
        saying.say(str(finding))
    return Model(found, Display(found.project.display, outputs.width(arguments)))


def prepare(model: Model) -> Prepared:
    """The first-order solution; a mechanism ends the command with what moves."""
    return refusing_mechanisms(model.study, lambda: model.study.prepared)


def watched(study: Study, work: Callable[[], T]) -> T:
    """Does what may take long: of a large model whoever waits at a terminal sees what it is at, and can stop it at
    once. Nothing may be written meanwhile."""
    from ..core.analysis.factor import backend
    from ..core.analysis.sizes import parts_of

    members, parts = len(study.project.members), parts_of(study.project)
    threads.suit(parts)
    if members > VERY_LONG_WORK and backend() == "scipy":
        saying.say(
            f"note: {members} members are solved by SciPy; with `pip install 'empuje[fast]'` a frame of this size "
            "takes about a tenth of the time"
        )
    if parts <= LONG_WORK:
        return work()
    from ..show.progress import bar, beside

    try:
        with bar() as study.tell:
            return beside(work)
    except KeyboardInterrupt:
        saying.say("stopped; no output was changed")
        sys.stderr.flush()
        os._exit(STOPPED)  # whatever a library is still at
    finally:
        study.tell = quiet


def refusing_mechanisms(study: Study, work: Callable[[], T]) -> T:
    """Does the work; a mechanism ends the command with what moves."""
    from ..study.study import ModelError

    try:
        return watched(study, work)
    except ModelError as error:
        for finding in error.findings:
            saying.say(str(finding))
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
        saying.say(str(finding))
    if not left:
        raise Refusal("none of these results has a stable answer", NOT_MET)
    some_fail = [r.name for r, f in zip(failed, found, strict=True) if f.level == "error"]
    model.failed = list(dict.fromkeys([*model.failed, *some_fail]))
    return left


def stand(model: Model, results: Results, along: Mapping[int, np.ndarray] | None = None) -> list[Result]:
    """The results with those that move in single positions, which is said."""
    if not any(r.moving for r in results):
        return list(results)
    stood, said = refusing_mechanisms(model.study, lambda: model.study.stand(results, along))
    for words in said:
        saying.say(f"note: {words}")
    return stood


def solve(
    model: Model, results: Results, over_patterns: bool = False, over_positions: bool = False,
    along: Mapping[int, np.ndarray] | None = None,
) -> tuple[Solution, list[Result]]:  # fmt: skip
    """Solve all cases and combinations; returns the solution and those of the results with a stable answer. Unless what
    follows is `over_positions` of moving cases, these stand in some, also the worst at places [m] `along` members.

    `over_patterns`: what follows is over all patterns of cases that may be absent; else a note says it is not.
    """
    from ..core.answers.reactions import result_findings

    if not over_positions:
        results = stand(model, results, along)
    solution = refusing_mechanisms(model.study, lambda: model.study.solution(results))
    free = [r.name for r in results if r.free]
    if free and not over_patterns:
        more = f" and {len(free) - 1} more" if len(free) > 1 else ""
        saying.say(f"note: {free[0]}{more} with all cases that may be absent; envelopes are over every pattern of them")
    for finding in result_findings(solution, results):
        saying.say(str(finding))
    return solution, standing(model, solution, results)


def explained_how(solution: Solution, results: Results, all_but_sums: bool = False) -> list[str]:
    """What each way in which these results came about means, said once; of sums only unless `all_but_sums`."""
    from ..core.model.words import How
    from ..show.summary import explained

    how = zip(results, solution.how(results), strict=True)
    return explained([(h, r.second_order_at) for r, h in how if not (all_but_sums and h == How.SUMMED)])
