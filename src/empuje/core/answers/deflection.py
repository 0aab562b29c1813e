"""Deflections of members, in member axes: against the chord of each bay, of the whole member, or one of its ends.

chord   in every bay the straight line between the displaced places that hold the member (bearing.py); beyond the
        last one, on an overhang, the level of that place
whole   the straight line between the member's displaced ends
start, end   that end, without its rotation
ground  where the member was before anything moved

    held      held
o====+=========+=====o
     |<- bay ->|<--->| overhang
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from ..analysis.pieces import build_pieces
from ..analysis.polynomials import horner, square, summit, turning_points, value_at
from ..analysis.solution import Columns, Pieces, Solution
from ..load_path.bearing import Bearing, bearing
from ..model.loads import Position
from ..model.project import Project
from ..model.results import Result, Results
from ..model.words import Reference
from .along import stations
from .table import Column, Table, case_column, how_column

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
SAME_PLACE = 1e-6


@dataclass(frozen=True)
class Stretch:
    """Part of a member from x0 to x1 [m] that is measured against one line: through the displaced nodes `near` and
    `far` at xa, xb [m] of its axis, or at the level of `near` where there is no `far` (-1); its span [m], and words."""

    x0: float
    x1: float
    near: int
    far: int
    xa: float
    xb: float
    span: float
    words: str


def stretches(project: Project, members: Sequence[int]) -> list[list[Stretch]]:
    """The bays and overhangs of members."""
    rests = bearing(project)
    on: dict[int, list[tuple[float, int]]] = {}
    for m, k, s in zip(*(v.tolist() for v in project.nodes_on_members), strict=True):
        on.setdefault(m, []).append((s, k))
    held = {s.node for s in project.supports}
    return [_upright(project, m, on.get(m, []), held) if rests.upright[m] else _lying(project, rests, m)
            for m in members]  # fmt: skip


def _upright(project: Project, m: int, inner: list[tuple[float, int]], held: set[int]) -> list[Stretch]:
    """Between its ends, and supports on it."""
    start, end = project.ends[m].tolist()
    places = [(0.0, start), *((s, k) for s, k in inner if k in held), (float(project.lengths[m]), end)]
    return [_between(project, a, b, a[0], b[0]) for a, b in pairwise(places)]


def _between(project: Project, a: tuple[float, int], b: tuple[float, int], x0: float, x1: float) -> Stretch:
    span = float(np.linalg.norm(project.xyz[b[1]] - project.xyz[a[1]]))
    words = f"{project.nodes[a[1]].name} to {project.nodes[b[1]].name}"
    return Stretch(x0, x1, a[1], b[1], a[0], b[0], span, words)


def _lying(project: Project, rests: Bearing, m: int) -> list[Stretch]:
    start, end = project.ends[m].tolist()
    length, body = float(project.lengths[m]), rests.body(m)
    slope = float(project.axes[m, 0] @ body.axis)
    ends = (0.0, start), (length, end)
    if project.members[m].bar or not body.seats or abs(slope) < 0.1:
        return [_between(project, *ends, 0.0, length)]
    # Along the member, also of seats on other pieces of the same beam.
    origin = body.at(project.xyz[start])
    at_folds = {k: body.at(project.xyz[k]) for k in _folds(project, body.members)}
    places = {**at_folds, **{seat.node: seat.s for seat in body.seats}}
    seats = sorted(((s - origin) / slope, k) for k, s in places.items())
    reach = [(body.at(project.xyz[k]) - origin) / slope for i in body.members for k in project.ends[i]]
    out = []
    for k, (low, high) in enumerate(pairwise([-np.inf, *(x for x, _ in seats), np.inf])):
        x0, x1 = max(low, 0.0), min(high, length)
        if x1 - x0 <= SAME_PLACE:
            continue
        if 0 < k < len(seats):
            out.append(_between(project, seats[k - 1], seats[k], x0, x1))
            continue
        x, node = seats[0] if k == 0 else seats[-1]
        far = min(reach) if k == 0 else max(reach)
        out.append(Stretch(x0, x1, node, -1, x, x, abs(far - x), f"overhang beyond {project.nodes[node].name}"))
    return out


def _folds(project: Project, members: Sequence[int]) -> list[int]:
    """Nodes at which members of a body fold and one of them is hinged, as rafters are at a ridge: each side deflects
    against a line of its own there."""
    there: dict[int, list[tuple[int, int]]] = {}
    for m in members if len(members) > 1 else ():
        for end, node in enumerate(project.ends[m].tolist()):
            there.setdefault(node, []).append((m, end))
    out = []
    for node, own in there.items():
        hinged = any(min(project.members[m].joints[6 * end + 4 : 6 * end + 6]) == 0 for m, end in own)
        folded = any(abs(float(project.axes[a, 0] @ project.axes[b, 0])) < FOLD for a, _ in own for b, _ in own)
        if hinged and folded:
            out.append(node)
    return out


FOLD = 0.9986
"""Members whose axes have less than this cosine, three degrees, fold."""


def deflections(
    solution: Solution,
    results: Results,
    members: Ints,
    against: Reference,
    positions: list[Position],
    breaks: bool = False,
) -> Table:
    """At positions: member, case, x, the deflection along the member's x y z, across it, the span, and span over
    deflection."""
    pieces, shape, part = _against(solution, solution.weights(results), members, against)
    rank, t, piece, x = stations(solution, pieces, members, positions, breaks)
    first = np.append(True, (np.diff(rank) != 0) | (np.abs(np.diff(x)) > 1e-9))
    rank, x = rank[first], x[first]
    value = value_at(shape[piece[first]], t[first])
    station, case = np.tile(np.arange(len(x)), len(results)), np.repeat(np.arange(len(results)), len(x))
    order = np.lexsort((station, case, rank[station]))
    station, case = station[order], case[order]
    own = part.of_piece[piece[first]][station]
    return _table(solution, results, members[rank[station]], case, x[station], value[station, :, case], part, own)


def largest_deflections(solution: Solution, results: Results, members: Ints, against: Reference) -> Table:
    """The same where each bay of a member (or the whole, by what it is measured against) deflects most across its axis,
    exactly, under each case."""
    pieces, shape, part = _against(solution, solution.weights(results), members, against)
    best, t = _furthest(square(shape[:, 1:]).sum(axis=1, keepdims=True), pieces.length)
    new = np.flatnonzero(np.append(True, np.diff(part.of_piece) != 0))
    stop = np.append(new[1:], len(best))
    piece = np.array([b + best[b:e].argmax(axis=0) for b, e in zip(new, stop, strict=True)])
    own, case = np.repeat(part.of_piece[new], len(results)), np.tile(np.arange(len(results)), len(new))
    at = piece.ravel()
    value = np.einsum("nck,nk->nc", shape[at, :, :, case], t[at, case][:, None] ** np.arange(shape.shape[2]))
    x = pieces.start[at] + t[at, case]
    return _table(solution, results, pieces.member[at], case, x, value, part, own)


@dataclass(frozen=True)
class Extreme:
    """Of each bay of members (or the whole, by what they are measured against): the member, its span [m] and words
    (n,); of the deflections across, along y and along z the least and greatest (n, 3, 2) [m], where [m], and under
    which result. Across there is no least: it is 0."""

    member: Ints
    span: Floats
    words: list[str]
    value: Floats
    x: Floats
    result: Ints


AT_ONCE = 3_000_000
"""Coefficients held at a time."""


def extreme_deflections(solution: Solution, weights: Floats, members: Ints, against: Reference) -> Extreme:
    """The exact extremes over results that weights (columns, results) form."""
    each = 24 * weights.shape[1] * (2 + len(solution.terms.a) // max(len(solution.mesh.member), 1))
    block = max(1, AT_ONCE // each)
    parts = [_extreme(solution, weights, members[i : i + block], against) for i in range(0, len(members), block)]
    member, span, value, x, result = (
        np.concatenate([getattr(p, k) for p in parts]) for k in ("member", "span", "value", "x", "result")
    )
    return Extreme(member, span, [w for p in parts for w in p.words], value, x, result)


def _extreme(solution: Solution, weights: Floats, members: Ints, against: Reference) -> Extreme:
    pieces, shape, part = _against(solution, weights, members, against)
    new = np.flatnonzero(np.append(True, np.diff(part.of_piece) != 0))
    stop = np.append(new[1:], len(pieces.start))
    whole = np.broadcast_to(pieces.length[:, None, None], shape[:, 1:, 0].shape)
    at = [np.zeros_like(whole), whole, *turning_points(shape[:, 1:], np.zeros_like(whole), whole)]
    values = np.stack([horner(shape[:, 1:], t) for t in at])
    squared, t_across = _furthest(square(shape[:, 1:]).sum(axis=1, keepdims=True), pieces.length)
    n = len(new)
    value, x, result = np.zeros((n, 3, 2)), np.zeros((n, 3, 2)), np.zeros((n, 3, 2), np.intp)
    for k, (b, e) in enumerate(zip(new, stop, strict=True)):
        p, r = np.unravel_index(int(squared[b:e].argmax()), squared[b:e].shape)
        value[k, 0, 1] = np.sqrt(max(squared[b + p, r], 0.0))
        x[k, 0], result[k, 0] = pieces.start[b + p] + t_across[b + p, r], r
        for c in (0, 1):
            own = values[:, b:e, c]
            for side, best in enumerate((own.argmin(), own.argmax())):
                i, p, r = np.unravel_index(int(best), own.shape)
                value[k, 1 + c, side], result[k, 1 + c, side] = own[i, p, r], r
                x[k, 1 + c, side] = pieces.start[b + p] + at[i][b + p, c, r]
    own_part = part.of_piece[new]
    return Extreme(pieces.member[new], part.span[own_part], [part.words[i] for i in own_part.tolist()], value, x,
                   result)  # fmt: skip


def deflection_at(solution: Columns, weights: Floats, members: Ints, x: Floats, against: Reference) -> Floats:
    """Along y and z at one x (1,) [m] of one member (1,): (2, results) [m]."""
    pieces, shape, _ = _against(solution, weights, members, against)
    piece = max(int(np.searchsorted(pieces.start, x[0] + 1e-9, side="right")) - 1, 0)
    t = np.clip(x - pieces.start[piece], 0.0, pieces.length[piece])
    return np.asarray(value_at(shape[piece : piece + 1, 1:], t)[0])


def deflections_at(
    solution: Solution, weights: Floats, members: Ints, against: Reference, steps: int
) -> tuple[Floats, Ints]:
    """Deflections along y and z at even steps of every piece, (n, 2, results) [m], and the part (n,) of each."""
    pieces, shape, part = _against(solution, weights, members, against)
    share = np.linspace(0.0, 1.0, steps)
    t = (pieces.length[:, None] * share).ravel()
    return value_at(np.repeat(shape[:, 1:], steps, axis=0), t), np.repeat(part.of_piece, steps)


def furthest_motions(solution: Solution, result: Result, members: Ints) -> tuple[Floats, Floats]:
    """Where each member moves most under a result, x (members,) [m], and how, in global axes (members, 3) [m]."""
    if not len(members):
        return np.zeros(0), np.zeros((0, 3))
    pieces = build_pieces(solution, members, solution.weights([result]), displacements=True)
    assert pieces.shape is not None
    best, t = _furthest(square(pieces.shape[:, :3]).sum(axis=1, keepdims=True), pieces.length)
    new = np.flatnonzero(np.append(True, np.diff(pieces.member) != 0))
    stop = np.append(new[1:], len(best))
    at = np.array([b + int(best[b:e, 0].argmax()) for b, e in zip(new, stop, strict=True)], np.intp)
    local = value_at(pieces.shape[at, :3], t[at, 0])[:, :, 0]
    axes = solution.project.axes[pieces.member[at]]
    return pieces.start[at] + t[at, 0], np.einsum("nij,ni->nj", axes, local)


def _furthest(squared: Floats, length: Floats) -> tuple[Floats, Floats]:
    """The greatest of squares (pieces, 1, powers, results) on each piece, and where: (pieces, results)."""
    whole = np.broadcast_to(length[:, None, None], squared[:, :, 0].shape)
    places = np.concatenate([np.zeros_like(whole), whole, summit(squared, np.zeros_like(whole), whole, 1.0)], axis=1)
    values = np.concatenate([horner(squared, places[:, [i]]) for i in range(3)], axis=1)
    return values.max(axis=1), np.take_along_axis(places, values.argmax(axis=1)[:, None], 1)[:, 0]


@dataclass(frozen=True)
class _Parts:
    """Spans [m] and words of all parts of members, and the part of every piece."""

    span: Floats
    words: list[str]
    of_piece: Ints


def _against(solution: Columns, weights: Floats, members: Ints, against: Reference) -> tuple[Pieces, Floats, _Parts]:
    """Pieces, their displacements (n, 3, powers, results) in member axes against what is meant under results that
    weights (columns, results) form, and their parts."""
    project = solution.project
    pieces = build_pieces(solution, members, weights, displacements=True)
    assert pieces.shape is not None
    shape = pieces.shape[:, :3].copy()
    first = np.append(True, np.diff(pieces.member) != 0)
    of = np.cumsum(first) - 1
    if against == Reference.CHORD:
        return pieces, *_against_bays(solution, pieces, shape, weights, of, members)
    last = np.append(np.diff(pieces.member) != 0, True)
    begin, stop = shape[first][:, :, 0], value_at(shape[last], pieces.length[last])
    length = project.lengths[pieces.member[first]]
    if against == Reference.GROUND:
        return pieces, shape, _Parts(length, ["whole member, from where it was"] * len(length), of)
    if against == Reference.WHOLE:
        slope = (stop - begin) / length[:, None, None]
        shape[:, :, 0] -= begin[of] + slope[of] * pieces.start[:, None, None]
        shape[:, :, 1] -= slope[of]
    else:
        shape[:, :, 0] -= (begin if against == Reference.START else stop)[of]
    words = "whole member" + ("" if against == Reference.WHOLE else f", from its {against}")
    return pieces, shape, _Parts(length, [words] * len(length), of)


def _against_bays(
    solution: Columns, pieces: Pieces, shape: Floats, weights: Floats, of: Ints, members: Ints
) -> tuple[Floats, _Parts]:
    project = solution.project
    each = stretches(project, members.tolist())
    begin = np.cumsum([0, *map(len, each)])
    flat = [s for own in each for s in own]
    middle = pieces.start + pieces.length / 2
    edges = [np.array([s.x1 for s in own[:-1]]) for own in each]
    part = np.array([begin[r] + np.searchsorted(edges[r], x) for r, x in zip(of, middle, strict=True)], np.intp)
    near, far = (np.array([getattr(s, k) for s in flat], np.intp) for k in ("near", "far"))
    xa, xb, span = (np.array([getattr(s, k) for s in flat]) for k in ("xa", "xb", "span"))
    axes = project.axes[pieces.member]
    moved = [np.einsum("nij,njr->nir", axes, solution.displacement[node[part], :3] @ weights) for node in (near, far)]
    bay = (far[part] >= 0)[:, None, None]
    slope = np.where(bay, (moved[1] - moved[0]) / np.where(far >= 0, xb - xa, 1.0)[part][:, None, None], 0.0)
    shape[:, :, 0] -= moved[0] + slope * (pieces.start - xa[part])[:, None, None]
    shape[:, :, 1] -= slope
    return shape, _Parts(span, [s.words for s in flat], part)


def _table(
    solution: Solution, results: Results, member: Ints, case: Ints, x: Floats, value: Floats, part: _Parts, own: Ints
) -> Table:
    project = solution.project
    labels = np.array([m.name for m in project.members], object)
    across = np.hypot(value[:, 1], value[:, 2])
    span = part.span[own]
    with np.errstate(divide="ignore"):
        ratio = np.where(across > 1e-9 * span, span / across, np.nan)
    y, z = value[:, 1], value[:, 2]
    if project.plane:
        level = np.abs(project.axes[member][:, 1, 1]) > 0.5
        y, z = np.where(level, np.nan, y), np.where(level, z, np.nan)
    return Table(
        "deflections",
        (
            Column("member", "text", labels[member]),
            case_column(results, case),
            Column("x", "length", x),
            Column("along", "displacement", value[:, 0] + 0.0),
            Column("y", "displacement", y + 0.0),
            Column("z", "displacement", z + 0.0),
            Column("across", "displacement", across),
            Column("span", "text", np.array(part.words, object)[own]),
            Column("L", "length", span),
            Column("L/across", "factor", ratio),
            how_column(results, solution.how(results), case),
        ),
    )
