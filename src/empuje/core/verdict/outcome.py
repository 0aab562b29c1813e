"""What a limit comes to, place by place, and the worst of it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from functools import partial

import numpy as np
from numpy.typing import NDArray

from ..analysis.solution import Solution
from ..answers.reactions import result_findings
from ..answers.table import Kind
from ..answers.why import Sum
from ..model.findings import Finding, in_order
from ..model.limits import COMPONENTS, Bound, Limit
from ..model.results import Result
from ..model.words import Holds
from .found import Found

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Outcome:
    """A bound of a limit at a place, SI: the governing value, the bound that it is held against there, how much of that
    it uses, where along a member [m], and under what. NaN and `reason` where there is no answer.

    `places`, `failing`: how many places this stands for, and how many of them fail. `sums`: from a solution and the
    weights of the governing result in it to sums that explain the value.
    """

    limit: Limit
    bound: Bound
    kind: Kind
    place: str
    holds: Holds
    value: float = np.nan
    against: float = np.nan
    used: float = np.inf
    x: float = np.nan
    span: float = np.nan
    case: str = ""
    how: str = ""
    reason: str = ""
    places: int = 1
    failing: int = 0
    notes: tuple[str, ...] = ()
    sums: Callable[[Solution, Floats], list[Sum]] | None = field(default=None, repr=False, compare=False)

    @property
    def fails(self) -> bool:
        """Also where there is no answer."""
        return self.holds in (Holds.FAILS, Holds.UNANSWERED)


@dataclass(frozen=True)
class Verdict:
    """What limits come to, the worst first; and the solutions and results that they were held against."""

    outcomes: list[Outcome]
    asked: list[tuple[Solution, list[Result]]]

    @property
    def fails(self) -> bool:
        """Whether any limit is not met, or has no answer."""
        return any(o.fails for o in self.outcomes)

    def findings(self) -> list[Finding]:
        """What there is to say about the results."""
        return in_order(f for solution, results in self.asked for f in result_findings(solution, results))


def unanswered(limit: Limit, bound: Bound, place: str, reason: str) -> Outcome:
    """A bound that nothing can be said of: it fails."""
    kind: Kind = COMPONENTS[limit.kind][bound.of]  # type: ignore[assignment]
    return Outcome(limit, bound, kind, place, Holds.UNANSWERED, reason=reason, failing=1)


def judged(limit: Limit, bound: Bound, found: Found, every: bool) -> list[Outcome]:
    """A bound at all places, the worst first; or its worst place for all, and one for what has no answer."""
    lost = [unanswered(limit, bound, place, reason) for place, reason in found.lost]
    n = len(found.place)
    if not n:
        return _shortened(lost, every)
    kind: Kind = COMPONENTS[limit.kind][bound.of]  # type: ignore[assignment]
    span = found.span if len(found.span) else np.full(n, np.nan)
    x = found.x if len(found.x) else np.full((n, 2), np.nan)
    own = [bound.of_length(float(s)) for s in span]
    finite = np.abs(found.value[np.isfinite(found.value)])
    largest = float(finite.max(initial=0.0))
    used = np.array([b.used(v, largest) for b, v in zip(own, found.value, strict=True)])
    used = np.where(np.isnan(used), np.inf, used)  # no number is no pass
    side = used.argmax(axis=1)
    # Of values that use nothing of their bound the nearest to it is told.
    idle = used.max(axis=1) == 0
    nearest = np.where(np.isfinite(bound.most), 1, 0)
    side = np.where(idle, nearest, side)
    rank = np.arange(n)
    worst = used[rank, side]
    order = np.lexsort((-np.abs(found.value[rank, side]), -worst))
    failing = int((worst > 1).sum())
    picked = order if every else order[:1]
    made = found.made(picked, side[picked])
    out = []
    for i, (case, how) in zip(picked.tolist(), made, strict=True):
        share = float(worst[i])
        holds = Holds.FAILS if share > 1 else Holds.NEAR if share >= limit.warn_at else Holds.PASSES
        value = float(found.value[i, side[i]])
        least, most = own[i].least, own[i].most
        upward = not np.isfinite(least) or (np.isfinite(most) and _nearer_most(own[i], value, largest))
        out.append(Outcome(
            limit, own[i], kind, found.place[i], holds, value, most if upward else least, share,
            float(x[i, side[i]]), float(span[i]), case, how, places=1 if every else n,
            failing=int(share > 1) if every else failing, notes=found.notes,
            sums=partial(found.sums, i, int(side[i])),
        ))  # fmt: skip
    return [*_shortened(lost, every), *out]


def _nearer_most(bound: Bound, value: float, largest: float) -> bool:
    """Of a bound with two ends, whether a value uses more of the upper one."""
    upper, lower = Bound(bound.of, most=bound.most), Bound(bound.of, least=bound.least)
    one = np.array([value])
    return float(upper.used(one, largest)[0]) >= float(lower.used(one, largest)[0])


def _shortened(lost: Sequence[Outcome], every: bool) -> list[Outcome]:
    """One outcome for all places without an answer for the same reason."""
    if every or not lost:
        return list(lost)
    kinds: dict[str, list[Outcome]] = {}
    for one in lost:
        kinds.setdefault(one.reason, []).append(one)
    out = []
    for own in kinds.values():
        more = f" and {len(own) - 1} more" if len(own) > 1 else ""
        first = own[0]
        out.append(Outcome(first.limit, first.bound, first.kind, first.place + more, first.holds, reason=first.reason,
                           places=len(own), failing=len(own)))  # fmt: skip
    return out


def worst_first(outcomes: Sequence[Outcome]) -> list[Outcome]:
    """Those without an answer, then by how much of their bound they use; equal ones in the order of the file."""
    return sorted(outcomes, key=lambda o: (o.holds != Holds.UNANSWERED, -o.used))
