"""The model in space for a page: its members at stations, and under some results displacements, forces and loads.

Values are those of the pieces' polynomials at the stations, and each member's exact extremes beside them. Arrays are
32-bit floats in base 64, in display units.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..core.analysis.pieces import build_pieces
from ..core.analysis.polynomials import value_at
from ..core.analysis.solution import Solution
from ..core.answers.envelope import extremes
from ..core.answers.slack import not_acting
from ..core.answers.table import MEMBER_KINDS, Kind
from ..core.model.project import Project
from ..core.model.results import Result, Results
from ..core.resolved import Resolved
from ..show.blocks import Scene
from ..show.display import Display
from ..show.drawings.symbols import MEANING, kinds_of_supports
from .sheets import Sheets, SurfaceForces, packed, patch_of

Floats = NDArray[np.float64]
MOST_STATIONS, FEW_STATIONS = 9, 2
MOST_BYTES, FEW_RESULTS = 3_500_000, 6
"""So much all results may take, but for the first few; of more these are there."""
UNITS: tuple[Kind, ...] = ("length", "force", "moment", "displacement", "line", "pressure")
POINTS_WISH = 30_000
"""About so many stations a frame has at the most, so that browsers turn it smoothly."""
MOST_ARROWS, MOST_ON_ONE = 4_000, 8
"""Of the line loads of a case; and of one line load."""


def scene(
    solution: Solution, results: Results, display: Display, rows: Mapping[int, list[list[str]]], left: int
) -> Scene:
    """`rows`: by member what a table says of it: of, value, where, under what, anchor. `left`: how many results of the
    model are not among these."""
    project = solution.project
    every = np.arange(len(project.members))
    zero = np.zeros((len(solution.mix), 1))
    pieces = build_pieces(solution, every, zero)
    stations = int(np.clip(POINTS_WISH // max(len(pieces.start), 1), FEW_STATIONS, MOST_STATIONS))
    t = (pieces.length[:, None] * np.linspace(0, 1, stations)).ravel()
    piece = np.repeat(np.arange(len(pieces.start)), stations)
    member, x = pieces.member[piece], pieces.start[piece] + t
    at = project.xyz[project.ends[member, 0]] + x[:, None] * project.axes[member, 0]
    plates = Sheets.of(solution) if project.plates is not None else None
    size = 4 * (len(x) * 9 + len(every) * 24 + (len(plates.at) * 11 if plates is not None else 0))
    shown = list(results)[: max(FEW_RESULTS, MOST_BYTES // max(size, 1))]
    metres = display.factor("length")
    supports = [
        [
            *np.round(project.xyz[n] * metres, 6).tolist(),
            f"{project.nodes[n].name}: {', '.join(MEANING[k] for k in kinds)}",
        ]
        for n, kinds in _apart(project, kinds_of_supports(project)).items()
    ]
    data: dict[str, Any] = {
        "units": {kind: display.unit(kind) for kind in UNITS},
        "names": [m.name for m in project.members], "families": [m.family for m in project.members],
        "sections": [f"{m.section.name}, {m.material.name}" for m in project.members],
        "member": packed(member.astype(float)), "x": packed(x * metres), "at": packed(at * metres),
        "y": packed(project.axes[:, 1]), "z": packed(project.axes[:, 2]), "stations": stations,
        "size": float(np.ptp(project.places, axis=0).max() * metres), "supports": supports,
        "plates": plates.data(display) if plates is not None else None,
        "gathered": f"{patch_of(project) * metres:.3g} {display.unit('length')}" if plates is not None else "",
        "forces": [[f, display.unit(kind)] for f, kind in MEMBER_KINDS],
        "displacement": display.factor("length") / display.factor("displacement"),
        "results": [
            _result(solution, r, display, piece, t, member) | (plates.under(r, display) if plates is not None else {})
            for r in shown
        ],
        "left": left + len(results) - len(shown), "loads": _loads(solution, shown, display),
        "rows": {str(m): lines for m, lines in rows.items()},
    }  # fmt: skip
    return Scene(data)


def _apart(project: Project, kinds: dict[int, list[str]]) -> dict[int, list[str]]:
    """Supports by node; of those along lines of surfaces, which stand close together, some."""
    first = project.plates.first if project.plates is not None else len(project.nodes)
    out, taken = {}, set()
    for node, kind in kinds.items():
        cell = tuple(np.floor(project.xyz[node] / patch_of(project) + 0.5))
        if node < first or cell not in taken:
            out[node] = kind
            taken.add(cell)
    return out


def _result(
    solution: Solution, result: Result, display: Display, piece: NDArray[np.intp], t: Floats, member: NDArray[np.intp]
) -> dict[str, Any]:
    project = solution.project
    every = np.arange(len(project.members))
    pieces = build_pieces(solution, every, solution.weights([result]), displacements=True)
    assert pieces.shape is not None
    unit = np.array([display.factor(kind) for _, kind in MEMBER_KINDS])
    force = value_at(pieces.force[piece], t)[:, :, 0] * unit
    local = value_at(pieces.shape[piece][:, :3], t)[:, :, 0]
    moved = np.einsum("nij,ni->nj", project.axes[member], local) * display.factor("displacement")
    found = extremes(solution, [result], every)
    own = np.arange(6)
    value = found.forces[:, own, :, own].transpose(1, 0, 2) * unit[:, None]
    ends = np.stack([value, found.x * display.factor("length")], axis=-1)
    slack = np.flatnonzero(not_acting(solution, result)[0]).tolist()
    return {
        "name": result.name, "what": result.what, "case": result.is_case,
        "factors": dict(_factors(solution.model, result)), "f": packed(force), "u": packed(moved), "e": packed(ends),
        "slack": slack,
    }  # fmt: skip


def _column_names(model: Resolved) -> list[str]:
    """What columns of plain loads are called: cases, notional loads of each, what is taken off reduced live loads."""
    cases = model.project.case_names
    notional = [f"{cases[own]} of {cases[case]}" for own, case in model.project.notional_pairs]
    return [*cases, *notional, *(f"{cases[c]} reduced, {k + 1}" for k, c in enumerate(model.reduction.cases))]


def _factors(model: Resolved, result: Result) -> list[tuple[str, float]]:
    """The columns that a result has, by name, and how much of each."""
    weights = model.weights([result])[:, 0].tolist()
    return [(name, w) for name, w in zip(_column_names(model), weights, strict=True) if w]


def _loads(solution: Solution, results: Sequence[Result], display: Display) -> dict[str, Any]:
    """By column of loads: arrows of line loads [foot, value vector] and of forces; values in display units."""
    model, project = solution.model, solution.project
    loads = model.loads
    wanted = {name for r in results for name, _ in _factors(model, r)}
    metres, line, force = (display.factor(k) for k in ("length", "line", "force"))
    out: dict[str, Any] = {}
    lines = loads.lines
    # So many arrows each as its length asks for, in the middles of equal parts.
    reach = patch_of(project)
    on_surfaces = SurfaceForces.of(project, loads, reach)
    count = np.clip(np.round((lines.s1 - lines.s0) / reach), 1, MOST_ON_ONE).astype(np.intp)
    start, along = project.xyz[project.ends[:, 0]], project.axes[:, 0]
    for c, name in enumerate(_column_names(model)):
        if name not in wanted:
            continue
        own = lines.take(lines.case == c)
        n = count[lines.case == c]
        n = n if n.sum() <= MOST_ARROWS else np.minimum(n, 1)
        row = np.repeat(np.arange(len(n)), n)
        share = ((np.arange(len(row)) - np.repeat(np.cumsum(n) - n, n) + 0.5) / n[row])[:, None]
        m = own.member[row]
        s = own.s0[row, None] + share * (own.s1 - own.s0)[row, None]
        foot = start[m] + s * along[m]
        q = own.q0[row] + share * (own.q1 - own.q0)[row]
        points = loads.points.take(loads.points.case == c)
        nodes = loads.nodes.take((loads.nodes.case == c) & (on_surfaces.surface < 0))
        gathered, total = on_surfaces.narrow(c)
        pressed, pressure = on_surfaces.wide(c)
        at = np.vstack([start[points.member] + points.s[:, None] * along[points.member], project.places[nodes.node],
                        gathered])  # fmt: skip
        f = np.vstack([points.f[:, :3], nodes.f[:, :3], total])
        some = np.abs(f).max(axis=1) > 0 if len(f) else np.zeros(0, bool)
        out[name] = {
            "line": packed(foot * metres), "q": packed(q * line), "point": packed(at[some] * metres),
            "p": packed(f[some] * force), "area": packed(pressed * metres),
            "w": packed(pressure * display.factor("pressure")),
        }  # fmt: skip
    return out
