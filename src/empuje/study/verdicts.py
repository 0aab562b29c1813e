"""Limits of a model judged: each under its own results, over all patterns and positions, nothing skipped.

>>> verdict = judged(Study.read("packing-house.toml"))                     # doctest: +SKIP
>>> [o.limit.name for o in verdict.outcomes if o.fails]                    # doctest: +SKIP
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import replace
from typing import TYPE_CHECKING, Any

from ..core.model.findings import listed
from ..core.model.limits import Limit
from ..core.model.results import Result
from ..core.model.words import LimitKind
from ..files.base.selectors import NothingMeant
from .study import Study

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from ..core.analysis.solution import Solution
    from ..core.answers.why import Why
    from ..core.steel.checked import Checked
    from ..core.verdict.found import Found
    from ..core.verdict.outcome import Outcome, Verdict

ALONE = (LimitKind.DEFLECTION, LimitKind.STABILITY, LimitKind.STEEL)
"""What is asked of single positions of moving cases."""


def judged(
    study: Study, names: Iterable[str] | None = None, every: bool = False, checked: Checked | None = None
) -> Verdict:
    """The limits (those of some names), the worst first; `every`: each place of each; `checked`: steel members as
    `checked_members` found them, for limits on some of them under the same results. Raises ModelError for a mechanism.
    """
    from ..core.verdict.outcome import Verdict, worst_first

    wanted = None if names is None else set(names)
    limits = [limit for limit in study.project.limits if wanted is None or limit.name in wanted]
    out = {limit.name: _unmeant(study, limit) for limit in limits}
    meant = [limit for limit in limits if not out[limit.name]]
    # Where positions of moving cases are picked the frame is solved with more cases: those limits come last.
    moved = [limit for limit in meant if _picks_positions(study, limit)]
    whole = [limit for limit in meant if limit not in moved]
    asked: list[tuple[Solution, list[Result]]] = []
    together = {r.index: r for limit in whole for r in _results(study, limit)}
    if together:
        solution = study.solution(list(together.values()))
        asked.append((solution, list(together.values())))
        for i, limit in enumerate(whole):
            study.tell("limits", i, len(limits))
            out[limit.name] = _judge(study, solution, limit, _results(study, limit), (), every, checked)
    for limit in moved:
        study.tell(f"positions for {limit.name}")
        results, notes = _stood(study, limit)
        solution = study.solution(results)
        asked.append((solution, results))
        out[limit.name] = _judge(study, solution, limit, results, notes, every, checked)
    return Verdict(worst_first([o for limit in limits for o in out[limit.name]]), asked)


def _results(study: Study, limit: Limit) -> list[Result]:
    """Those of the model, mixes of others too where these may govern; single positions that joined them on the way are
    in the moving ones."""
    return [
        r for r in study.under(limit.under, not limit.convex) if r.name not in study.placed or r.name in limit.under
    ]


def _unmeant(study: Study, limit: Limit) -> list[Outcome]:
    """What to say of a limit whose words mean no result."""
    from ..core.verdict.outcome import unanswered

    try:
        _results(study, limit)
    except NothingMeant as error:
        return [unanswered(limit, bound, "nowhere", f"under: {error.args[0]}") for bound in limit.bounds]
    return []


def _picks_positions(study: Study, limit: Limit) -> bool:
    return limit.kind in ALONE and any(r.moving for r in _results(study, limit))


def _stood(study: Study, limit: Limit) -> tuple[list[Result], tuple[str, ...]]:
    """The results of a limit with moving cases in the positions that are worst for it, and what to say of these."""
    import numpy as np

    results = _results(study, limit)
    along = None
    if limit.kind == LimitKind.DEFLECTION:
        along = study.furthest(results, np.array(limit.on, np.intp))
    stood, said = study.stand(results, along)
    return stood, tuple(said)


def _judge(
    study: Study, solution: Solution, limit: Limit, results: Sequence[Result], notes: tuple[str, ...], every: bool,
    checked: Checked | None,
) -> list[Outcome]:  # fmt: skip
    """A limit under results that may have no answer; these fail it."""
    from ..core.verdict.outcome import judged as judged_at
    from ..core.verdict.outcome import unanswered

    lost = [r for r in results if r in solution.failed]
    left = [r for r in results if r not in solution.failed]
    out: list[Outcome] = []
    of = _maker(study, solution, left, limit, checked) if left else None
    for bound in limit.bounds:
        for r in lost if every else lost[:1]:
            more = f" and {len(lost) - 1} more" if len(lost) > 1 and not every else ""
            gone = unanswered(limit, bound, "everywhere", f"{r.name}{more}: {solution.failed[r].message}")
            out.append(replace(gone, case=r.name))
        if of is not None:
            found = of(bound.of)
            found = replace(found, notes=(*found.notes, *notes))
            out += judged_at(limit, bound, found, every)
    return out


def _maker(
    study: Study, solution: Solution, results: Sequence[Result], limit: Limit, checked: Checked | None
) -> Callable[[str], Found]:  # fmt: skip
    """From a component of a limit to its extremes."""
    from functools import partial

    from ..core.answers.patterns import TooMany
    from ..core.verdict import members, motions, plates, reactions
    from ..core.verdict.found import nothing

    at_once = {
        LimitKind.FORCE: members.forces_of, LimitKind.STRESS: members.stresses_of,
        LimitKind.DEFLECTION: members.deflections_of,
    }  # fmt: skip
    if limit.kind in at_once:
        return at_once[limit.kind](solution, results, limit)
    if limit.kind == LimitKind.STEEL:
        if checked is not None and checked.is_of(limit.on, results):
            return members.steel_found(study.project, checked, limit.on, checked.withheld)
        try:
            found = _checked_under(study, solution, results, limit.on)
        except TooMany as error:
            unseen = nothing([("its members", f"{error}: too many to check one by one")])
            return lambda of: unseen
        return members.steel_found(study.project, found, limit.on, withheld(study, solution, results))
    if limit.kind == LimitKind.STABILITY:
        return lambda of: _critical(study, solution, results)
    each = {
        LimitKind.REACTION: reactions.reactions_found, LimitKind.DISPLACEMENT: motions.displacements_found,
        LimitKind.DRIFT: motions.drifts_found, LimitKind.TILT: motions.tilts_found,
        LimitKind.PLATE: plates.plates_found, LimitKind.CUT: plates.cuts_found,
    }  # fmt: skip
    return partial(each[limit.kind], solution, results, limit)


def _critical(study: Study, solution: Solution, results: Sequence[Result]) -> Found:
    """The lowest critical load factor of results; infinite where nothing buckles."""
    import numpy as np

    from ..core.answers.patterns import TooMany
    from ..core.answers.stability import buckles_in
    from ..core.answers.table import said
    from ..core.model.words import How
    from ..core.verdict.found import Found, nothing

    def lowest() -> tuple[float, str, str, str]:
        found = study.lowest_of(results)
        if found is None:
            return np.inf, "", "", ""
        worst, factor = found
        way = How.SUMMED if worst.absent else solution.how([worst])[0]
        return factor, buckles_in(study.prepared, worst), worst.name, said(way, worst.second_order_at)

    def again(arrays: Mapping[str, NDArray[Any]]) -> tuple[float, str, str, str]:
        where, case, how = map(str, arrays["words"])
        return float(arrays["factor"]), where, case, how

    try:
        value, where, case, how = study.kept_or_made(
            ("where it buckles", *(r.name for r in results)), again, lowest,
            lambda found: {"factor": np.array(found[0]), "words": np.array(found[1:])},
        )  # fmt: skip
    except TooMany as error:
        return nothing([("the frame", f"{error}: too many to look at one by one")])
    return Found([where or "the frame"], np.array([[value, value]]), lambda row, side: [(case, how)] * len(row))


def checked_members(study: Study, members: Sequence[int]) -> tuple[Solution, Checked, list[str]]:
    """Steel members checked by the model's code, the solution they were checked in, and what to say of how: results
    that have no answer are in `Checked.failed`. Raises NothingMeant where the rule's words mean no result, ModelError
    for a mechanism, TooMany for too many patterns."""
    solution, left, lost, notes = steel_results(study)
    found = _checked_under(study, solution, left, members)
    why = withheld(study, solution, left) if any(not words for words in found.lost) else ""
    return solution, replace(found, failed=lost, withheld=why), list(notes)


def _checked_under(study: Study, solution: Solution, results: Sequence[Result], members: Sequence[int]) -> Checked:
    """Steel members checked under results that have an answer, or these of more that were checked before. Raises
    TooMany."""
    import numpy as np

    from ..core.steel.checked import check_members
    from ..core.steel.packed import pack, unpack

    rule = study.project.steel
    assert rule is not None
    own = np.array(sorted(set(members)), np.intp)
    return study.kept_or_made(
        ("steel", *(r.name for r in results)),
        lambda arrays: unpack(solution, results, rule, arrays).some(own),
        lambda: check_members(solution, results, rule, own, study.tell),
        pack,
    )


def steel_results(study: Study) -> tuple[Solution, list[Result], list[Result], list[str]]:
    """The results that steel members are checked under, with an answer and without, moving cases in single positions;
    before them their solution; and what to say of positions. Raises NothingMeant, ModelError."""
    rule = study.project.steel
    assert rule is not None
    results = [r for r in study.under(rule.under, mixes=True) if r.name not in study.placed]
    notes: list[str] = []
    if any(r.moving for r in results):
        results, notes = study.stand(results)
    solution = study.solution(results)
    left = [r for r in results if r not in solution.failed]
    return solution, left, [r for r in results if r in solution.failed], notes


ASD_TIMES = 1.6
"""AISC 360, C2.1(d): loads of allowable strength design are so many times themselves by second order."""


def withheld(study: Study, solution: Solution, results: Sequence[Result]) -> str:
    """Why steel members cannot pass under results, "" where they can: results of service, strengths held against
    allowable loads or the other way round, first order where the code asks for second (EN 1993-1-1, 5.2.1; AISC 360,
    C1), results beyond their critical load."""
    from ..core.model.words import Design, How, Set, SteelCode

    project, rule = study.project, study.project.steel
    assert rule is not None
    aisc = rule.code == SteelCode.AISC
    design = rule.design if aisc else Design.LRFD
    why: dict[str, list[str]] = {}
    for r in results:
        c = r.combination
        if c is None or c.set == Set.SERVICE:
            why.setdefault("a load case or a combination of service is no factored load", []).append(r.name)
        elif c.design not in (None, design):
            words = f"{design} strengths are no match for combinations of {c.design}"
            why.setdefault(f"{words}: state steel.under, or steel.design", []).append(r.name)
        elif aisc and design == Design.ASD and project.is_second_order(c) and c.second_order_at < ASD_TIMES - 1e-9:
            words = "AISC 360, C2.1(d), asks for 1.6 times the loads by second order: second_order_at = 1.6"
            why.setdefault(words, []).append(r.name)
    plain = [r for r, how in zip(results, solution.how(results), strict=True) if how != How.SECOND_ORDER]
    for words, some in _asks_for_second_order(study, solution, [r for r in plain if r.combination is not None], aisc):
        why.setdefault(words, []).extend(r.name for r in some)
    return "; ".join(f"{listed(names, 3)}: {words}" for words, names in why.items() if names)


def _asks_for_second_order(
    study: Study, solution: Solution, plain: Sequence[Result], aisc: bool
) -> Iterator[tuple[str, Iterable[Result]]]:
    """Why first order will not do, or may not, and for which results of first order."""
    from ..core.answers.patterns import TooMany
    from ..core.answers.stability import buckles_in
    from ..core.answers.sway import swaying

    if not plain:
        return
    bound = AISC_FIRST if aisc else EN_FIRST
    clause = "AISC 360, C1, asks for second order" if aisc else "EN 1993-1-1, 5.2.1, asks for second order"
    remedy = 'state analysis = { strength = "second-order" }'
    try:
        found = swaying(study.prepared_as(solution), plain, bound, aisc, study.tell)
    except TooMany as error:
        yield f"{clause} below alpha_cr = {bound:g}, and {error}: too many to look at; {remedy}", plain
        return
    if found.factor:
        worst = min(found.factor, key=lambda r: found.factor[r])
        part = buckles_in(study.prepared_as(solution), worst)
        where = f" in the part of {part}" if part else ""
        words = f"{clause}: alpha_cr is down to {found.factor[worst]:.3g}{where}, below {bound:g}: {remedy}"
        yield words, found.factor
    unseen = f"where the frame sways below alpha_cr = {bound:g}; what buckles first are members by themselves"
    yield f"{clause} {unseen}: {remedy}", found.unknown
    yield "beyond the critical load: alpha_cr is below 1", found.beyond


EN_FIRST, AISC_FIRST = 10.0, 50.0
"""First order will do from this critical factor on: of the frame (EN 1993-1-1, 5.2.1(3)); of the frame and every member
in it, second order adds less than 2 % then (AISC 360, C1, with B1 and B2 of appendix 8)."""


def explained(study: Study, outcome: Outcome) -> list[Why]:
    """What made the value of an outcome: its sums, each with the shares of cases. Raises LookupError where it has no
    value that loads add up to."""
    from ..core.answers.why import Target, why
    from ..core.model.words import Sense

    if outcome.sums is None or not outcome.case:
        raise LookupError(outcome.reason or "Nothing made it")
    results = study.under([outcome.case])
    solution = study.solution(results)
    found = outcome.sums(solution, solution.weights(results)[:, 0])
    if not found:
        member = outcome.place.split(",")[0]
        ask = (
            f"members --on {member} --full derives it"
            if outcome.limit.kind == LimitKind.STEEL
            else (f"draw buckled --under {outcome.case} shows what buckles")
        )
        raise LookupError(f"{outcome.bound.of} is no sum of what loads make; {ask}")
    prepared = study.prepared_as(solution)
    return [why(prepared, solution, results, Target("sum", s.member, 0, s), Sense.LARGEST) for s in found]
