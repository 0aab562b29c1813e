"""A study of one model, behind the command line and Python alike: read, resolved and solved, each made once and kept.

>>> study = Study.read("packing-house.toml")                               # doctest: +SKIP
>>> solution = study.solution(study.under(["strength"]))                   # doctest: +SKIP
"""

from __future__ import annotations

import gc
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, replace
from itertools import product
from pathlib import Path
from typing import TYPE_CHECKING, Any, TypeVar

from ..core.actions.traffic.standings import case_of, with_standings
from ..core.model.cases import Combination
from ..core.model.findings import Finding, did_you_mean, has_errors, in_order, in_short, listed, with_accepted
from ..core.model.project import Project
from ..core.model.results import Result, Results
from ..core.model.telling import Tell, quiet
from ..core.model.traffic import Standing, Traffic
from ..core.resolve import resolve
from ..core.resolved import Resolved
from ..files.base.includes import UnusableFile
from ..files.base.named_positions import NoPosition, position_in, read_standings
from ..files.base.quantities import Units
from ..files.base.result_selectors import (
    COMBINATIONS,
    limits_of_components,
    limits_of_nothing,
    patterns_named,
    results_meant,
)
from ..files.base.selectors import Names, NothingMeant
from ..files.base.values import NoSuchValue
from ..files.reader import NONE_GIVEN, Reading, read_model
from .beforehand import with_candidates, with_frequencies
from .meant import structural

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    from ..core.analysis.moving.mover import Mover
    from ..core.analysis.solution import Solution
    from ..core.analysis.solve import Prepared
    from ..core.answers.envelope import Extremes
    from ..core.answers.stability import Stability
    from ..core.answers.why import Target
    from ..core.model.loads import Position
    from ..core.model.words import Sense

    Arrays = Mapping[str, NDArray[Any]]

T = TypeVar("T")
COARSER = 0.5
"""How many times as fine the mesh is by which the error of a mesh is told."""
__all__ = ["ModelError", "NoSuchValue", "NothingMeant", "Study", "UnusableFile"]


class ModelError(ValueError):
    """The model has errors, or the frame is a mechanism, or a result has no stable answer; `findings` has them all."""

    def __init__(self, findings: Sequence[Finding], why: str = "") -> None:
        super().__init__("\n".join(map(str, findings)))
        self.findings = list(findings)
        self.why = why


@contextmanager
def _no_collection() -> Iterator[None]:
    """Reading makes millions of records and no circles of them; looking for such over and over takes half the time."""
    wanted = gc.isenabled()
    gc.disable()
    try:
        yield
    finally:
        if wanted:
            gc.enable()


@dataclass(frozen=True)
class Checked:
    """What a check of the analysis came to: what has no stable answer, what else there is to say, the worst balance of
    loads and reactions as a share of the loads, and whether second order was not analysed but shown to be possible."""

    failed: list[Finding]
    findings: list[Finding]
    worst: float
    shallow: bool


class Study:
    """A model with everything that follows from it. Raises ModelError where a step cannot be made."""

    def __init__(self, path: Path, reading: Reading, cache: bool = True, quick: bool = False) -> None:
        self.path = path
        self._digest = reading.digest if cache else None
        self.reading = reading
        self.names: Names = reading.names
        self.inputs = (path, *reading.files)
        self.values = reading.values
        project, chosen = with_frequencies(reading), list[Finding]()
        if not quick:
            project, chosen = with_candidates(project, reading, cache)
        self.resolved: Resolved = resolve(project, reading.findings)
        found = reading.with_more([*self.resolved.findings, *chosen, *limits_of_nothing(self.resolved),
                                  *limits_of_components(self.resolved)])  # fmt: skip
        self.findings = in_order([*with_accepted(found, project.accepted), *_not_found(found, project)])
        self._placed: tuple[Combination, ...] = ()
        self._prepared: Prepared | None = None
        self._beside: Prepared | None = None
        self._coarse: Resolved | None = None
        self._solved: dict[frozenset[int] | None, Solution] = {}
        self.tell: Tell = quiet

    def __getstate__(self) -> dict[str, object]:
        """What was read, decided and solved; factorised matrices are made anew where they are needed."""
        return {k: v for k, v in self.__dict__.items() if k != "movers"} | {
            "_prepared": None,
            "_beside": None,
            "tell": quiet,
        }

    @classmethod
    def read(
        cls, path: str | Path, cache: bool = True, given: Mapping[str, str] = NONE_GIVEN, quick: bool = False
    ) -> Study:
        """Read and resolve a model file; with `cache` solutions are kept for the next question, and used. `given`:
        values in place of those in the file, by name; `quick`: without the positions of traffic in which combinations
        are analysed. Raises UnusableFile where it cannot be read at all, and NoSuchValue; errors in it are among the
        findings."""
        with _no_collection():
            return cls(Path(path), read_model(path, given), cache, quick)

    @property
    def project(self) -> Project:
        """What was written."""
        return self.resolved.project

    @property
    def sound(self) -> bool:
        """Whether nothing found forbids an analysis."""
        return not has_errors(self.findings)

    def under(self, words: Sequence[str], mixes: bool = False) -> list[Result]:
        """The results that words mean, all of them for none. Patterns that words name join the combinations. `mixes`:
        of whole rule sets those combinations too that are mixes of others, for what is no convex function of results.
        Raises NothingMeant."""
        for pattern in patterns_named(self.resolved, words):
            self._add(pattern)
        known = [name for word in words for name in self._placed_by_name(word)]
        return results_meant(self.resolved, known, mixes)

    def _placed_by_name(self, word: str) -> list[str]:
        """A word; where it names positions of a traffic, alone or in a combination, these join the results, and the
        words are their names there. Raises NothingMeant."""
        parts = position_in(word.removeprefix("!"))
        if parts is None or any(r.name == word for r in self.resolved.results) or not self.resolved.laid:
            return [word]
        head, text = parts
        for r in (*self.resolved.results, *self._not_placed):
            for case in r.moving:
                laid = next((one for one in self.resolved.laid if one.traffic.case == case), None)
                if laid is None or not (head == r.name or head == f"{r.name} {case}"):
                    continue
                number = next(i for i, t in enumerate(self.project.traffic) if t.case == case)
                try:
                    standings = read_standings(laid, number, text, Units(*self.project.units))
                except NoPosition as error:
                    raise NothingMeant(str(error)) from None
                others = {name: [Standing("", self._number(name), ())] for name in r.moving if name != case}
                sign = "!" if word.startswith("!") else ""
                return [sign + one.name for one in self.stand_at([r], {case: standings, **others})]
        return [word]

    @property
    def placed(self) -> frozenset[str]:
        """The names of combinations with single positions of moving cases, which joined the results on the way."""
        return frozenset(c.name for c in self._placed)

    @property
    def _not_placed(self) -> list[Result]:
        """Moving cases, and combinations with them, that stand in positions alone, results being no sums."""
        whole, known = self.resolved.whole, {r.name for r in self.resolved.results}
        moving = {c.name: c for c in whole.cases if c.moves}
        combinations = [
            replace(c, moving=tuple(name for name, f in c.factors if name in moving and f))
            for c in self.resolved.written if c.name not in known
        ]  # fmt: skip
        cases = [Result(0, c) for name, c in moving.items() if name not in known]
        return [*cases, *(Result(0, c) for c in combinations)]

    def _number(self, case: str) -> int:
        return next(i for i, t in enumerate(self.project.traffic) if t.case == case)

    def under_combinations(self, words: Sequence[str], mixes: bool = False) -> list[Result]:
        """As `under`, by default all combinations, or all cases where there are none."""
        return self.under(words or ([COMBINATIONS] if self.resolved.combinations else []), mixes)

    def stand(
        self, results: Sequence[Result], along: Mapping[int, NDArray[np.float64]] | None = None
    ) -> tuple[list[Result], list[str]]:
        """The results with those that move replaced by single positions of theirs: those that are worst for reactions,
        forces and displacements, also at places [m] `along` members, which join the results of the study; and what to
        say of that."""
        if not any(r.moving for r in results):
            return list(results), []
        from ..core.answers.candidates import FEW, REACHED, candidates

        movers = self.movers
        wanted: dict[str, list[Standing]] = {}
        said = []
        for case in dict.fromkeys(name for r in results for name in r.moving):
            found = candidates(movers[case], along=along)
            wanted[case] = found.standings
            count = len(found.standings)
            share = f", together {int(100 * found.reached)} % or more of each" if found.reached < REACHED else ""
            said.append(f"{case} stands in {count} position{'s' if count != 1 else ''}, each the worst for some "
                        f"reaction, force or displacement{share}; envelopes are over all")  # fmt: skip
        if along and len(along) > FEW:
            said.append(f"more than {FEW} members: the worst positions for places along each are not looked for; name "
                        f"up to {FEW} for them")  # fmt: skip
        return self.stand_at(results, wanted), said

    def places_along(self, members: NDArray[np.intp], at: Sequence[Position]) -> dict[int, NDArray[np.float64]]:
        """Positions on members (n,) as places [m], by member."""
        import numpy as np

        lengths = self.project.lengths
        return {int(m): np.unique(np.clip([p.on(float(lengths[m])) for p in at], 0.0, lengths[m])) for m in members}

    def furthest(self, results: Sequence[Result], members: NDArray[np.intp]) -> dict[int, NDArray[np.float64]]:
        """Where [m] along members (n,) the moving cases of results move them most across their axes, by member."""
        import numpy as np

        from ..core.answers.candidates import furthest_places

        places: dict[int, list[float]] = {}
        for case in dict.fromkeys(name for r in results for name in r.moving):
            for m, at in furthest_places(self.movers[case], members).items():
                places.setdefault(m, []).extend(at.tolist())
        return {m: np.unique(at) for m, at in places.items()}

    def mover_along(self, words: Sequence[str]) -> Mover:
        """A force that goes along members that join, or through nodes in order. Raises NothingMeant, ModelError."""
        from ..core.actions.traffic.laid import lay_traffic
        from ..core.analysis.moving.mover import Mover
        from ..core.model.findings import Place
        from ..core.model.traffic import Axle, Vehicle, Way

        place = Place(self.project.file)
        if len(words) > 1 and all(word in self.names.node_index for word in words):
            points = tuple(self.project.nodes[self.names.node_index[word]].xyz for word in words)
            way = Way("-".join(words), place, points=points)
        else:
            members = self.names.members_meant(words)
            way = Way(", ".join(words), place, members=tuple(int(m) for m in members))
        vehicle = Vehicle("force", (Axle((0.0, 0.0), (1.0,)),), place)
        unit = Units(*self.project.units)
        traffic = Traffic("force", (vehicle,), (way,), place, unit=(unit.length, unit.plain_factors("length")[1]))
        laid, findings = lay_traffic(self.project, self.resolved.surfaces, traffic)
        if laid is None:
            raise NothingMeant(f"{findings[0].message}; {findings[0].remedy}")
        equations = self.prepared.equations
        return Mover(laid, equations)

    def at_step(self, result: Result | None, case: str, standings: Sequence[Standing]) -> list[Result]:
        """A result with one of its cases that move in each of these positions, or, for none, these positions by
        themselves. Other cases that move are away."""
        if result is not None and result.moving:
            others = {name: [Standing("", self._number(name), ())] for name in result.moving if name != case}
            return self.stand_at([result], {case: standings, **others})
        self.stand_at([], {case: standings})
        by_name = {r.name: r for r in self.resolved.results}
        return [by_name[case_of(self.project, s)] for s in standings]

    def worst_stood(self, results: Results, target: Target, sense: Sense, x: float | None = None) -> list[Result]:
        """The results for a question about one value: of those that move the one that makes most of it, in its worst
        position; the others as they are. Raises LookupError where the target has no value."""
        from ..core.answers.why import worst_position

        moving = [r for r in results if r.moving]
        if not moving:
            return list(results)
        worst, at = worst_position(self.solution(results), moving, target, sense, x)
        still = [r for r in results if not r.moving]
        if worst.absent:
            self._add(worst)
            worst = self.resolved.results[-1]
        return self.stand_at([worst, *still], {case: [s] for case, s in at.items()})

    @property
    def movers(self) -> dict[str, Mover]:
        """Every traffic on the analysed frame, by its case."""
        from ..core.answers.moving import movers_of

        return movers_of(self.prepared.solution)

    def stand_at(self, results: Sequence[Result], wanted: Mapping[str, Sequence[Standing]]) -> list[Result]:
        """The results, those that move once for each of the wanted positions of their cases, which join the results of
        the study: all that there were keep their numbers."""
        before = self.resolved.whole
        project = with_standings(before, [s for each in wanted.values() for s in each])
        named = {case: list(dict.fromkeys(case_of(project, s) for s in each)) for case, each in wanted.items()}
        placed: list[Combination] = []
        meant: list[int | str] = []
        for r in results:
            if not r.moving:
                meant.append(r.index)
                continue
            if r.combination is None:
                meant += named[r.name]
                continue
            for chosen in product(*(named[case] for case in r.moving)):
                placed.append(r.combination.standing(dict(zip(r.moving, chosen, strict=True))))
                meant.append(placed[-1].name)
        known = {c.name for c in self._placed}
        self._placed = (*self._placed, *(c for c in placed if c.name not in known))
        self.resolved = resolve(project, self.findings, self._placed).numbered_after(self.resolved)
        self._prepared, self._beside, self._solved = None, None, {}
        every = self.resolved.results
        by_name = {r.name: r for r in every if not r.absent}
        return [by_name[w] if isinstance(w, str) else every[w] for w in meant]

    def _add(self, pattern: Result) -> None:
        self._beside = None
        self.resolved, numbered = self.resolved.with_pattern(pattern)
        self._solved = {key: s.with_result(self.resolved, numbered) for key, s in self._solved.items()}
        if self._prepared is not None:
            first = self._prepared.solution.with_result(self.resolved, numbered)
            self._prepared = replace(self._prepared, solution=first)

    @property
    def prepared(self) -> Prepared:
        """The equations and the first-order solution."""
        from ..core.analysis.solve import Unstable, first_order

        if self._prepared is None:
            self.tell(f"solving {len(self.project.members)} members, {len(self.project.cases)} cases")
            try:
                self._prepared = first_order(self.resolved)
            except Unstable as error:
                raise ModelError(error.findings, "the frame can move") from None
        return self._prepared

    def structural(self, words: Sequence[str]) -> list[int]:
        """The structural surfaces that words mean; see `meant.structural`."""
        return structural(self.project, words)

    def on_coarser_mesh(self, results: Results) -> Solution:
        """The solution of first order on a mesh of structural surfaces twice as coarse, by which the error of the finer
        one is told; with the same results."""
        from ..core.analysis.solve import Unstable, solve

        if self._coarse is None:
            more = [r.combination for r in self.resolved.results if r.combination is not None]
            self._coarse = resolve(self.project, self.reading.findings, more, COARSER).numbered_after(self.resolved)
        try:
            return solve(self._coarse, results)
        except Unstable as error:
            raise ModelError(error.findings, "the frame can move") from None

    def prepared_as(self, solution: Solution) -> Prepared:
        """The equations behind a solution, which may have nodes that second order asked for."""
        from ..core.analysis.solve import first_order

        if solution.project is self.resolved.analysed:
            return self.prepared
        if self._beside is None or self._beside.solution.project is not solution.project:
            self._beside = first_order(self.resolved, solution.project)
        return self._beside

    def second_order(self, results: Results | None = None) -> list[Result]:
        """Those of the results, or of all, that are to be analysed by second order."""
        project = self.project
        return [
            r for r in (self.resolved.results if results is None else results)
            if r.combination is not None and project.is_second_order(r.combination)
        ]  # fmt: skip

    def solution(self, results: Results | None = None) -> Solution:
        """The solution with all results of first order and, of second order, those wanted (None: all)."""
        from ..core.analysis.solve import Unstable, solve_prepared

        wanted = self.second_order(results)
        key = None if len(wanted) == len(self.second_order()) else frozenset(r.index for r in wanted)
        for known in (None, key):
            if known not in self._solved:
                kept = self._kept(known)
                if kept is not None:
                    self._solved[known] = kept
            if known in self._solved:
                return self._solved[known]
        try:
            self._solved[key] = solve_prepared(self.prepared, wanted, self.tell)
        except Unstable as error:
            raise ModelError(error.findings, "the frame can move") from None
        self._keep(key, self._solved[key])
        return self._solved[key]

    def _entry(self, *words: str) -> str:
        """What the answer to a question is kept under; patterns are results too."""
        from ..core.analysis.factor import backend
        from ..files.kept.store import key_of

        assert self._digest is not None
        return key_of(self._digest, *words, backend(), *(r.name for r in self.resolved.results if r.absent),
                      *(s.case for s in self.project.standings), *(c.name for c in self._placed))  # fmt: skip

    def _name(self, key: frozenset[int] | None) -> str:
        """What the solution with these results of second order is kept under."""
        return self._entry("solution", "all" if key is None else " ".join(map(str, sorted(key))))

    def _kept(self, key: frozenset[int] | None) -> Solution | None:
        if self._digest is None:
            return None
        from ..core.analysis.packed import unpack
        from ..core.answers.reactions import CLOSE_ENOUGH, closing_error
        from ..files.kept.store import load

        arrays = load(self._name(key))
        if arrays is None:
            return None
        try:
            solution = unpack(self.resolved, arrays)
            # Loads as this model has them against the reactions that were kept.
            results = [r for r in solution.results if r not in solution.failed and not r.moving]
            balanced = not results or float(closing_error(solution, results).max()) < CLOSE_ENOUGH
        except (KeyError, ValueError, IndexError, TypeError):
            return None  # damaged: solved anew
        return solution if balanced else None

    def _keep(self, key: frozenset[int] | None, solution: Solution) -> None:
        if self._digest is None:
            return
        from ..core.analysis.packed import pack
        from ..files.kept.store import save

        save(self._name(key), pack(solution))

    def kept_or_made(
        self, words: Sequence[str], again: Callable[[Arrays], T], made: Callable[[], T], pack: Callable[[T], Arrays]
    ) -> T:
        """An answer, named by words, from the arrays that were kept of it; else made, and its arrays kept."""
        from ..files.kept.store import kept_or_made

        return kept_or_made(self._entry(*words) if self._digest is not None else None, again, made, pack)

    def stability(self, results: Results, shapes: int = 1) -> Stability:
        """How far results are from buckling, in so many shapes, and how they sway; kept as solutions are."""
        from ..core.answers.stability import Stability, stability

        names = ("factors", "node", "first", "second", "at", "part", "of")

        def again(arrays: Arrays) -> Stability:
            own = [arrays[name] for name in names]
            if max(arrays["of"].tolist(), default=-1) != len(results) - 1:
                raise ValueError("these arrays are of other results")
            return Stability([results[i] for i in arrays["of"].tolist()], *own)

        return self.kept_or_made(
            ("stability", str(shapes), *(r.name for r in results)),
            again,
            lambda: stability(self.prepared, list(results), shapes, self.tell),
            lambda found: {name: getattr(found, name) for name in names},
        )

    def with_worst_patterns(self, results: Results) -> list[Result]:
        """The results, combinations with cases that may be absent in the pattern nearest to buckling. The results of
        the study gain these patterns. Raises TooMany where there are too many to look at."""
        from ..core.answers.stability import lowest_critical

        out: list[Result] = []
        for r in results:
            found = lowest_critical(self.prepared, [r], self.tell) if r.free else None
            if found is None or not found[0].absent:
                out.append(r)
                continue
            self._add(found[0])
            out.append(self.resolved.results[-1])
        return out

    def checked(self, deep: bool) -> Checked:
        """Whether the frame stands and balances under every result; of second order by first order alone, unless
        `deep`. Raises ModelError for a mechanism."""
        from ..core.analysis.solve import second_order_results
        from ..core.answers.findings import all_findings
        from ..core.answers.reactions import closing_error

        shallow = bool(second_order_results(self.prepared.solution)) and not deep
        solution = self.prepared.solution if shallow else self.solution()
        standing = [r for r in solution.results if r not in solution.failed and not r.moving]
        worst = float(closing_error(solution, standing).max(initial=0))
        return Checked(solution.no_answer(list(solution.failed)), all_findings(solution), worst, shallow)

    def extremes(self, solution: Solution, results: Results, members: NDArray[np.intp]) -> Extremes:
        """The exact extremes of forces in members under results; those of results that stand still are kept as
        solutions are, and of more members than these taken from there."""
        import numpy as np

        from ..core.answers.envelope import EXTREMES, Extremes, extremes

        if any(r.moving for r in results):
            return extremes(solution, results, members)

        def again(arrays: Arrays) -> Extremes:
            known = {m: i for i, m in enumerate(arrays["members"].tolist())}
            row = np.array([known[m] for m in members.tolist()], np.intp)
            x, result, forces, there = (arrays[name][row] for name in EXTREMES)
            return Extremes(x, result, forces, there)

        return self.kept_or_made(
            ("extremes", *(r.name for r in results)),
            again,
            lambda: extremes(solution, results, members),
            lambda found: {"members": members, **{name: getattr(found, name) for name in EXTREMES}},
        )

    def lowest_critical(self, results: Results) -> tuple[Result, float] | None:
        """The lowest critical load factor of those of the results that are of second order, and whose it is."""
        asked = self.second_order(results)
        return self.lowest_of(asked) if asked else None

    def lowest_of(self, results: Results) -> tuple[Result, float] | None:
        """The lowest critical load factor of results that have an answer by first order, over all their patterns, and
        whose it is; None where nothing buckles; kept as solutions are. Raises TooMany."""
        import numpy as np

        from ..core.answers.stability import lowest_critical

        def again(arrays: Arrays) -> tuple[Result, float] | None:
            if not len(arrays["of"]):
                return None
            return results[int(arrays["of"][0])].pattern(map(str, arrays["absent"])), float(arrays["factor"][0])

        def pack(found: tuple[Result, float] | None) -> Arrays:
            if found is None:
                return {"of": np.zeros(0, np.intp)}
            worst, factor = found
            # One of the results as it is, which may be a pattern already, or a pattern of one of them.
            absent = [] if any(r.index == worst.index for r in results) else sorted(worst.absent)
            of = next(i for i, r in enumerate(results) if r.pattern(absent).of == worst.of)
            return {"of": np.array([of]), "absent": np.array(absent, str), "factor": np.array([factor])}

        def made() -> tuple[Result, float] | None:
            left = [r for r in results if r not in self.prepared.solution.failed]
            return lowest_critical(self.prepared, left, self.tell) if left else None

        return self.kept_or_made(("lowest critical", *(r.name for r in results)), again, made, pack)


SOLVED = ("moves-too-far", "too-much-tension", "digits-lost", "out-of-balance", "positions-chosen", "few-positions",
          "finds-no-column", "overstressed", "square-bay", "beyond-table", "light-load", "enclosure-assumed",
          "one-way-travel", "restraint-out-of-plane", "load-height")  # fmt: skip
"""Findings that only come with a solution, or with the decisions taken."""


def _not_found(found: Sequence[Finding], project: Project) -> list[Finding]:
    """What is accepted and not there: an error, something that only a solution shows, or nothing any more."""
    out = []
    for a in project.accepted:
        if a.code in SOLVED or any(f.code == a.code and (f.accepted == a.reason or a.takes(f)) for f in found):
            continue
        errors = any(f.code == a.code and f.level == "error" for f in found)
        on = f" on {listed(a.about)}" if a.about else ""
        remedy = (
            "an error has to be mended" if errors else f"take it out; {did_you_mean(a.code, {f.code for f in found})}"
        )
        out.append(
            Finding("warning", "accepted-nothing", f"there is no finding {a.code}{on} to accept", remedy, a.place)
        )
    return out


def told(findings: Iterable[Finding]) -> list[str]:
    """Findings as lines, those of a kind cut short."""
    return [str(f) for f in in_short(list(findings))]
