"""What each case puts on the frame: every plain load with its source, and the totals."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..model.loads import PlainLoads, Rows, Source, T
from ..model.results import Results, names
from ..resolved import Resolved
from .on_plates import by_source, surface_of_rows
from .table import FORCE_KINDS, MOTION_KINDS, Column, Kind, Table

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]


HEADS: tuple[tuple[str, Kind], ...] = (
    ("from", "length"), ("to", "length"),
    ("qx", "line"), ("qy", "line"), ("qz", "line"), ("qx end", "line"), ("qy end", "line"), ("qz end", "line"),
    *FORCE_KINDS,
    ("temperature", "temperature"), ("gradient y", "gradient"), ("gradient z", "gradient"),
    ("lack of fit", "displacement"),
    *MOTION_KINDS,
)  # fmt: skip
"""The numbers a load may have."""


def applied_loads(model: Resolved, results: Results, members: Ints, nodes: Ints, surfaces: Ints) -> Table:
    """Each load on the chosen members, nodes and structural surfaces of those results that are cases, in global axes:
    where, from, to, the values, and where it came from.

    Line loads [N/m] have a value at both ends; forces [N], moments [N m], settlements [m, rad] and strains of members
    (temperature, gradients along y and z, lack of fit) one. `kind` says which.
    """
    project, loads = model.project, _as_listed(model.loads)
    wanted = np.zeros(model.load_columns, bool)
    wanted[model.case_numbers(results)] = True
    on_member, on_node = np.zeros(len(project.members), bool), np.zeros(len(project.nodes), bool)
    on_member[members], on_node[nodes] = True, True

    def chosen(table: T, on: NDArray[np.intp], there: NDArray[np.bool_]) -> T:
        return table.take(wanted[table.case] & there[on])

    lines = chosen(loads.lines, loads.lines.member, on_member)
    points = chosen(loads.points, loads.points.member, on_member)
    strains = chosen(loads.strains, loads.strains.member, on_member)
    of_surface = surface_of_rows(project, loads)
    at_nodes = chosen(loads.nodes.take(of_surface < 0), loads.nodes.node[of_surface < 0], on_node)
    put = np.flatnonzero((of_surface >= 0) & wanted[loads.nodes.case] & np.isin(of_surface, surfaces))
    first, total = by_source(loads, put)
    of_surfaces = np.array([s.name for s in project.surfaces], object)
    settled = chosen(loads.settlements, loads.settlements.node, on_node)
    of_member = np.array([m.name for m in project.members], object)
    of_node = np.array([n.name for n in project.nodes], object)
    parts = [
        _part("line", lines, of_member[lines.member], {0: lines.s0, 1: lines.s1, 2: lines.q0, 5: lines.q1}),
        _part("point", points, of_member[points.member], {0: points.s, 8: points.f}),
        _part("node", at_nodes, of_node[at_nodes.node], {8: at_nodes.f}),
        _part("surface", loads.nodes.take(first), of_surfaces[of_surface[first]], {8: total}),
        _part("strain", strains, of_member[strains.member], {14: strains.v}),
        _part("settlement", settled, of_node[settled.node], {18: settled.d}),
    ]
    case, source, on, kind, values = (np.concatenate(column) for column in zip(*parts, strict=True))
    order = np.argsort(case, kind="stable")
    case, source, on, kind, values = (v[order] for v in (case, source, on, kind, values))
    said = np.array([(s.text, str(s.place)) for s in loads.sources], object).reshape(-1, 2)[source]
    return Table(
        "loads",
        (
            Column("case", "text", np.array(project.case_names, object)[case]),
            Column("on", "text", on),
            Column("kind", "text", kind),
            *(Column(head, of, values[:, i] + 0.0) for i, (head, of) in enumerate(HEADS)),
            Column("source", "text", said[:, 0]),
            Column("place", "text", said[:, 1]),
        ),
    )


def derived(model: Resolved, results: Results, members: Ints, nodes: Ints, surfaces: Ints) -> list[Source]:
    """Where the loads on the chosen members, nodes and structural surfaces of cases come from, each source that has
    steps once."""
    loads = model.loads
    wanted = np.zeros(model.load_columns, bool)
    wanted[model.case_numbers(results)] = True
    of_surface = surface_of_rows(model.project, loads)
    tables: tuple[tuple[Rows, NDArray[np.bool_]], ...] = (
        (loads.lines, np.isin(loads.lines.member, members)), (loads.points, np.isin(loads.points.member, members)),
        (loads.nodes, np.isin(loads.nodes.node, nodes) & (of_surface < 0)),
        (loads.nodes, np.isin(of_surface, surfaces)),
    )  # fmt: skip
    there = [np.unique(rows.source[wanted[rows.case] & chosen]) for rows, chosen in tables]
    found = [loads.sources[i] for i in np.unique(np.concatenate(there)).tolist()]
    return list({(s.case, s.text, s.steps): s for s in found if s.steps}.values())


def _part(
    kind: str, rows: Rows, on: NDArray[Any], values: dict[int, Floats]
) -> tuple[Ints, Ints, NDArray[Any], NDArray[Any], Floats]:
    """Rows of one kind as case, source, what they are on, kind, and numbers from the given columns of HEADS on."""
    table = np.full((len(rows), len(HEADS)), np.nan)
    for first, value in values.items():
        wide = value if value.ndim == 2 else value[:, None]
        table[:, first : first + wide.shape[1]] = wide
    return rows.case, rows.source, on, np.full(len(rows), kind, object), table


ALIKE, VANISHING = 1e-9, 1e-9
"""Line loads that go on in one line within this share of their largest value are one; smaller ones are none."""


def _as_listed(loads: PlainLoads) -> PlainLoads:
    """The loads with line loads of one source that go on in one line made one, and vanishing ones left out."""
    n = len(loads.lines.case)
    if not n:
        return loads
    key = np.column_stack([loads.lines.source, loads.lines.case, loads.lines.member])
    size = np.maximum(np.abs(loads.lines.q0).max(axis=1), np.abs(loads.lines.q1).max(axis=1))
    largest = np.zeros(int(loads.lines.source.max()) + 1)
    np.maximum.at(largest, loads.lines.source, size)
    scale = largest[loads.lines.source]
    some = np.flatnonzero(size > VANISHING * scale)
    order = some[np.lexsort((loads.lines.s0[some], *key[some].T[::-1]))]
    s0, s1, q0, q1 = (v[order] for v in (loads.lines.s0, loads.lines.s1, loads.lines.q0, loads.lines.q1))
    k, scale = key[order], scale[order]
    goes_on = (k[1:] == k[:-1]).all(axis=1) & (np.abs(s0[1:] - s1[:-1]) < ALIKE)
    begin = np.flatnonzero(np.append(True, ~goes_on)[: len(order)])
    stops = np.append(begin[1:], len(order))[: len(begin)]
    # Only where several go on, each piece is compared with the line from the first one's start.
    for run in np.flatnonzero(stops - begin > 1).tolist():
        j, stop = int(begin[run]), int(stops[run])
        for i in range(j + 1, stop):
            between = q0[j] + (q1[i] - q0[j]) * ((s0[i] - s0[j]) / (s1[i] - s0[j]))
            off = max(np.abs(between - q0[i]).max(), np.abs(between - q1[i - 1]).max())
            if not off < ALIKE * scale[i]:
                goes_on[i - 1], j = False, i
    begin = np.flatnonzero(np.append(True, ~goes_on)[: len(order)])
    end = np.append(begin[1:], len(order))[: len(begin)] - 1
    back = np.argsort(order[begin], kind="stable")
    begin, end = begin[back], end[back]
    joined = replace(loads.lines.take(order[begin]), s1=s1[end], q1=q1[end])
    return replace(loads, lines=joined)


def load_totals(model: Resolved, put_on: Floats, results: Results) -> Table:
    """The resultant force of each case or combination from what is put on (6, cases and more)."""
    weights = model.weights(results)
    total = (put_on[:, : len(weights)] @ weights).T
    return Table(
        "load-totals",
        (
            Column("case", "text", names(results)),
            Column("what", "text", [r.what for r in results]),
            *(Column(f, "force", total[:, i] + 0.0) for i, f in enumerate(("Fx", "Fy", "Fz"))),
        ),
    )
