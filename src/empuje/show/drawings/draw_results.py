"""The deflected shape, and diagrams of the internal forces drawn on the tension side."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ...core.analysis.pieces import FORCES, build_pieces
from ...core.analysis.polynomials import square, summit, turning_points, value_at
from ...core.analysis.solution import Pieces, Solution
from ...core.answers.deflection import furthest_motions
from ...core.answers.envelope import extremes
from ...core.answers.slack import not_acting
from ...core.answers.table import MEMBER_KINDS
from ...core.model.project import Project
from ...core.model.results import Result
from ..display import Display
from .canvas import FAINT, INK, MINUS, OWN, PLATE, PLUS, SHAPE, SLACK, Sheet, Tops
from .draw_vehicle import draw_vehicles
from .symbols import draw_slack, draw_supports
from .view import View

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
POINTS = 17
"""Even points on every piece; where a curve turns come besides."""
DIAGRAM_HEIGHT, SHAPE_HEIGHT = 0.085, 0.06
NOTHING = 1e-9
"""Motions below this share of the frame, and forces below this share of others of their kind, are rounding."""
STEP = 1e-6
"""Values of neighbouring pieces that differ by less than this share of the largest are no jump."""
NOT_DRAWN = 0.004
"""Values below this share of the largest would only thicken the member's line."""
SIDE = {"N": (2, 1.0), "Vy": (1, 1.0), "Vz": (2, 1.0), "T": (2, 1.0), "My": (2, -1.0), "Mz": (1, -1.0)}
"""Member axis each diagram is drawn along, and its sign: moments on the tension side, which is the negative one."""

SIGNS = {"N": (("tension", PLUS), ("compression", MINUS)), "": (("positive", PLUS), ("negative", MINUS))}
"""What the colours of a diagram mean."""


def _points_on(project: Project, pieces: Pieces, turns: list[Floats]) -> tuple[Ints, Floats, Floats]:
    """Piece, position on it, and place in space of every drawn point: even ones, and those where the curve turns
    (pieces,) each."""
    t = np.sort(np.column_stack([pieces.length[:, None] * np.linspace(0, 1, POINTS), *turns]), axis=1)
    piece, t = np.repeat(np.arange(len(t)), t.shape[1]), t.ravel()
    return piece, t, on_axis(project, pieces.member[piece], pieces.start[piece] + t)


def on_axis(project: Project, member: Ints, x: Floats) -> Floats:
    """Places in space (n, 3) of positions x [m] on members."""
    return np.asarray(project.xyz[project.ends[member, 0]] + x[:, None] * project.axes[member, 0])


def _nice(value: float) -> float:
    """The largest of 1, 2, 5, 10, ... not above the value."""
    power = 10.0 ** np.floor(np.log10(value))
    return float(max(s for s in (1, 2, 5) if s * power <= value * (1 + 1e-9)) * power)


def draw_deflected(
    solution: Solution, result: Result, members: Ints, view: View, display: Display, times: float | None = None,
    tops: Tops = OWN,
) -> Sheet:  # fmt: skip
    """The deflected shape of one result, drawn so many times its true size."""
    project = solution.model.project
    at, moved, points, on = _moved(solution, result, members)
    sheet = Sheet(project, view, members, f"deflected under {result.name}",
                  result.what)  # fmt: skip
    x, furthest = furthest_motions(solution, result, members)
    size = np.linalg.norm(furthest, axis=1)
    of_plates = _moved_plates(solution, result)
    largest = max(float(size.max(initial=0)), float(np.linalg.norm(of_plates, axis=1).max(initial=0)))
    if largest <= NOTHING * sheet.size:  # a shape of rounding errors is none
        size, moved, furthest, of_plates, largest = 0 * size, 0 * moved, 0 * furthest, 0 * of_plates, 0.0
    sheet.tops["displacement"] = largest
    highest = max(largest, tops.get("displacement", 0.0))
    times = times or (_nice(SHAPE_HEIGHT * sheet.size / highest) if highest > 0 else 1.0)
    sheet.frame(FAINT, 1.0)
    draw_supports(sheet, False)
    sheet.grid()
    slack = not_acting(solution, result)[0]
    draw_slack(sheet, slack)
    _shape(sheet, (at + times * moved).reshape(-1, points, 3), slack[on])
    if len(of_plates):
        _plates(sheet, times * of_plates)
        k = int(np.linalg.norm(of_plates, axis=1).argmax())
        told = float(np.linalg.norm(of_plates[k])) * display.factor("displacement")
        sheet.label(project.places[k] + times * of_plates[k], f"{told:.3g}", SHAPE, 2.0)
    unit, factor = display.unit("displacement"), display.factor("displacement")
    where = on_axis(project, members, x) + times * furthest
    for i in np.flatnonzero(size > 0.25 * largest):
        sheet.label(where[i], f"{size[i] * factor:.3g}", SHAPE, float(size[i] / largest))
    text = f"drawn {times:g} times as large; figures are total displacements, largest {largest * factor:.4g} {unit}"
    text = text if largest else "nothing moves"
    sheet.say(text)
    draw_vehicles(sheet, solution.model, result, display)
    return sheet


def _moved_plates(solution: Solution, result: Result) -> Floats:
    """How the nodes of structural surfaces move (places, 3), all others nought; none without such surfaces."""
    plates = solution.model.project.plates
    if plates is None:
        return np.zeros((0, 3))
    out = np.zeros((len(solution.model.project.places), 3))
    used = np.unique(np.concatenate([g.node.ravel() for g in plates.groups]))
    out[used] = (solution.displacement[used, :3] @ solution.weights([result]))[:, :, 0]
    return out


LINES = 14
"""About so many lines across a structural surface show how it bends."""


def _plates(sheet: Sheet, moved: Floats) -> None:
    """Structural surfaces where they have moved to: their edges, and lines across them."""
    plates = sheet.project.plates
    assert plates is not None
    at = sheet.project.places + moved
    for group in plates.groups:
        sheet.faces += [(sheet.view.flat(at[node]), PLATE) for node in group.node]
    sheet.lines(list(at[plates.edge]), SHAPE, 1.4, order=4)
    four = plates.quadrilaterals
    for i in np.unique(four.surface).tolist():
        own, flat = four.node[four.surface == i], four.flat[four.surface == i]
        for axis in (0, 1):
            # Sides that lie on one of a few lines along the own axes of the surface.
            side = np.stack([own, np.roll(own, -1, axis=1)], axis=2).reshape(-1, 2)
            ends = np.stack([flat, np.roll(flat, -1, axis=1)], axis=2).reshape(-1, 2, 2)[..., axis]
            level = np.round(ends.mean(axis=1), 4)
            along = np.abs(np.diff(ends, axis=1))[:, 0] < 1e-4
            known = np.unique(level[along])
            every = max(1, round(len(known) / LINES))
            shown = along & np.isin(level, known[::every])
            sheet.lines(list(at[np.unique(np.sort(side[shown], axis=1), axis=0)]), SHAPE, 0.6, order=3)


def _moved(solution: Solution, result: Result, members: Ints) -> tuple[Floats, Floats, int, Ints]:
    """The drawn points, how these move, in global axes, how many there are to a piece, and the pieces' members."""
    project = solution.project
    pieces = build_pieces(solution, members, solution.weights([result]), displacements=True)
    assert pieces.shape is not None
    total = square(pieces.shape[:, :3]).sum(axis=1, keepdims=True)
    ends = [np.broadcast_to(v[:, None, None], total[:, :, 0].shape) for v in (0 * pieces.length, pieces.length)]
    piece, t, at = _points_on(project, pieces, [summit(total, ends[0], ends[1], 1.0)[:, 0]])
    local = value_at(pieces.shape[piece][:, :3], t)[:, :, 0]
    moved = np.einsum("nij,ni->nj", project.axes[pieces.member[piece]], local)
    return at, moved, max(len(t) // max(len(pieces.start), 1), 1), pieces.member


def _shape(sheet: Sheet, paths: Floats, slack: NDArray[np.bool_]) -> None:
    """The deflected pieces (n, points, 3), those of slack members dashed."""
    sheet.lines(list(paths[~slack]), SHAPE, 2.0, order=4)
    sheet.lines(list(paths[slack]), SHAPE, 1.2, order=4, style=SLACK)


def draw_buckled(solution: Solution, result: Result, what: str, members: Ints, view: View) -> Sheet:
    """A buckling shape; only its form has a meaning."""
    at, moved, points, _ = _moved(solution, result, members)
    of_plates = _moved_plates(solution, result)
    largest = max(float(np.linalg.norm(v, axis=1).max(initial=0)) for v in (moved, of_plates))
    sheet = Sheet(solution.model.project, view, members, what, result.what)
    sheet.frame(FAINT, 1.0)
    draw_supports(sheet, False)
    sheet.grid()
    times = SHAPE_HEIGHT * sheet.size / (largest or 1.0)
    sheet.lines(list((at + times * moved).reshape(-1, points, 3)), SHAPE, 2.0, order=4)
    if len(of_plates):
        _plates(sheet, times * of_plates)
    sheet.say("only the form of the shape has a meaning")
    return sheet


def draw_diagram(
    solution: Solution, result: Result, force: str, members: Ints, view: View, display: Display,
    tops: Tops = OWN,
) -> Sheet:  # fmt: skip
    """One internal force under one result, with the largest values; `tops`: the value drawn highest, else its own."""
    project = solution.project
    pieces = build_pieces(solution, members, solution.weights([result]))
    f = FORCES.index(force)
    c = pieces.force[:, f : f + 1]
    low, high = (np.broadcast_to(v[:, None, None], c[:, :, 0].shape) for v in (0 * pieces.length, pieces.length))
    piece, t, at = _points_on(project, pieces, [turn[:, 0] for turn in turning_points(c, low, high)])
    value = value_at(c[piece], t)[:, 0, 0]
    found = extremes(solution, [result], members)
    told = found.forces[:, f, :, f]
    alike = [i for i, (_, kind) in enumerate(MEMBER_KINDS) if kind == MEMBER_KINDS[f][1]]
    if np.abs(told).max(initial=0) <= NOTHING * np.abs(found.forces[..., alike]).max(initial=0):
        told, value = 0 * told, 0 * value
    axis, sign = SIDE[force]
    sheet = Sheet(project, view, members, f"{force} under {result.name}",
                  result.what)  # fmt: skip
    sheet.frame(INK, 1.4)
    draw_supports(sheet, False)
    sheet.grid()
    draw_slack(sheet, not_acting(solution, result)[0])
    own = float(np.abs(told).max(initial=0))
    sheet.tops[force] = own
    largest = max(own, tops.get(force, 0.0))
    kind = dict(MEMBER_KINDS)[force]
    if largest > 0:
        side = side_seen(project.axes[pieces.member[piece]], axis, force, view)
        scale = sign * DIAGRAM_HEIGHT * sheet.size / largest
        edge = at + scale * value[:, None] * side
        points = len(t) // len(pieces.start)
        _bands(sheet, at, edge, np.where(np.abs(value) > NOT_DRAWN * largest, value, 0.0), pieces.member, points)
        side = side_seen(project.axes[members], axis, force, view)
        for end in (0, 1):
            where = on_axis(project, members, found.x[:, f, end]) + scale * told[:, end, None] * side
            for i in np.flatnonzero(np.abs(told[:, end]) > 0.04 * largest):
                v = told[i, end]
                if not end or v != told[i, 0]:
                    text = _written(v * display.factor(kind), force)
                    sheet.label(where[i], text, PLUS if v > 0 else MINUS, abs(v) / largest)
    words = {"N": "T tension, C compression", "My": "drawn on the tension side", "Mz": "drawn on the tension side"}
    text = f"{force} [{display.unit(kind)}], largest {own * display.factor(kind):.4g}"
    sheet.say(f"{text}; {words[force]}" if force in words else text)
    if largest > 0:
        for sign, (name, colour) in zip((1, -1), SIGNS.get(force, SIGNS[""]), strict=True):
            if (sign * value > NOT_DRAWN * largest).any():
                sheet.explain(name, line=(colour, 3.0, "-"))
    draw_vehicles(sheet, solution.model, result, display)
    return sheet


def _written(value: float, force: str) -> str:
    """A value of a diagram; an axial force said as tension or compression."""
    return f"{abs(value):.4g} {'T' if value > 0 else 'C'}" if force == "N" else f"{value:.4g}"


def side_seen(axes: Floats, axis: int, force: str, view: View) -> Floats:
    """The direction of the diagram. N and T belong to no side: they take the one the view shows best."""
    side = axes[:, axis]
    if force not in ("N", "T"):
        return side
    flat_y, flat_z = (np.linalg.norm(view.flat(axes[:, i]), axis=1) for i in (1, 2))
    return np.where((flat_z >= flat_y)[:, None], axes[:, 2], axes[:, 1])


def _bands(sheet: Sheet, at: Floats, edge: Floats, value: Floats, member: Ints, points: int) -> None:
    """The area between member and diagram, in the colour of its sign."""
    foot, top, v = (a.reshape(-1, points, *a.shape[1:]) for a in (at, edge, value))
    for sign, colour in ((1, PLUS), (-1, MINUS)):
        keep = sign * v > 0
        clipped = np.where(keep[:, :, None], top, foot)
        # Where the sign changes between two points the band ends at the crossing, not at the next point.
        for near, far in ((slice(None, -1), slice(1, None)), (slice(1, None), slice(None, -1))):
            turns = ~keep[:, near] & keep[:, far]
            share = np.where(turns, v[:, near] / np.where(turns, v[:, near] - v[:, far], 1.0), 0.0)[:, :, None]
            crossing = foot[:, near] + share * (foot[:, far] - foot[:, near])
            clipped[:, near] = np.where(turns[:, :, None], crossing, clipped[:, near])
        some = keep.any(axis=1)
        sheet.areas([np.vstack([f, c[::-1]]) for f, c in zip(foot[some], clipped[some], strict=True)], colour)
        sheet.lines(list(clipped[some]), colour, 1.1, order=4)
        # The step at a jump, and the line that closes the diagram at an end.
        goes_on = (np.diff(member) == 0) & (np.abs(v[1:, 0] - v[:-1, -1]) <= STEP * np.abs(v).max())
        for i, inside in ((0, np.append(False, goes_on)), (-1, np.append(goes_on, False))):
            ends = np.flatnonzero(keep[:, i] & ~inside)
            sheet.lines([np.array([foot[e, i], top[e, i]]) for e in ends], colour, 0.7, order=4)
