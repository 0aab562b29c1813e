"""What each case puts on the frame: every plain load with its source, and the totals."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ..model.loads import PlainLoads
from ..model.project import Project
from .table import MOTION_KINDS, Column, Table

Floats = NDArray[np.float64]


def applied_loads(project: Project, loads: PlainLoads, cases: list[str], members: NDArray, nodes: NDArray) -> Table:
    """Each load on the chosen members and nodes, in global axes: where, from, to, the values, and where it came from.

    Line loads [N/m] have a value at both ends; forces [N], moments [N m], settlements [m, rad] and strains of members
    (temperature, gradients along y and z, misfit) one. `kind` says which.
    """
    names = project.case_names
    wanted = {names.index(c) for c in cases}
    loads = _as_listed(loads)
    rows: list[tuple] = []
    blank = (np.nan,) * 3

    def add(
        case: int, on: str, kind: str, span: tuple, q0: Floats, q1: Floats, f: Floats, source: int, other: tuple = ()
    ) -> None:
        record = loads.sources[source]
        more = other or (np.nan,) * 10
        rows.append((case, on, kind, *span, *q0, *q1, *f, *more, record.text, str(record.place)))

    on_member, on_node = set(members.tolist()), set(nodes.tolist())
    none3 = np.array(blank)
    none6 = np.array(blank * 2)
    for i in range(len(loads.line_case)):
        if loads.line_member[i] in on_member and loads.line_case[i] in wanted:
            add(
                loads.line_case[i], project.members[loads.line_member[i]].name, "line",
                (loads.line_s0[i], loads.line_s1[i]), loads.line_q0[i], loads.line_q1[i], none6, loads.line_source[i],
            )  # fmt: skip
    for i in range(len(loads.point_case)):
        if loads.point_member[i] in on_member and loads.point_case[i] in wanted:
            name = project.members[loads.point_member[i]].name
            span = (loads.point_s[i], np.nan)
            add(loads.point_case[i], name, "point", span, none3, none3, loads.point_f[i], loads.point_source[i])
    for i in range(len(loads.node_case)):
        if loads.node_node[i] in on_node and loads.node_case[i] in wanted:
            name, span = project.nodes[loads.node_node[i]].name, (np.nan, np.nan)
            add(loads.node_case[i], name, "node", span, none3, none3, loads.node_f[i], loads.node_source[i])
    nowhere = (np.nan, np.nan)
    for i in range(len(loads.strain_case)):
        if loads.strain_member[i] in on_member and loads.strain_case[i] in wanted:
            name, other = project.members[loads.strain_member[i]].name, (*loads.strain_v[i], *blank, *blank)
            add(loads.strain_case[i], name, "strain", nowhere, none3, none3, none6, loads.strain_source[i], other)
    for i in range(len(loads.settle_case)):
        if loads.settle_node[i] in on_node and loads.settle_case[i] in wanted:
            name, other = project.nodes[loads.settle_node[i]].name, (*(np.nan,) * 4, *loads.settle_d[i])
            add(loads.settle_case[i], name, "settlement", nowhere, none3, none3, none6, loads.settle_source[i], other)
    rows.sort(key=lambda row: row[0])
    heads = ["from", "to", "qx", "qy", "qz", "qx end", "qy end", "qz end", "Fx", "Fy", "Fz", "Mx", "My", "Mz",
             "warm", "gradient y", "gradient z", "misfit", *(name for name, _ in MOTION_KINDS)]  # fmt: skip
    kinds = ["length"] * 2 + ["line"] * 6 + ["force"] * 3 + ["moment"] * 3
    kinds += ["temperature", "gradient", "gradient", "displacement", *(kind for _, kind in MOTION_KINDS)]
    columns = list(zip(*rows, strict=True)) if rows else [()] * (5 + len(heads))
    numbers = [
        Column(head, kind, np.array(column, float) + 0.0)  # type: ignore[arg-type]
        for head, kind, column in zip(heads, kinds, columns[3:-2], strict=True)
    ]
    return Table(
        "loads",
        (
            Column("case", "text", [names[c] for c in columns[0]]),
            Column("on", "text", list(columns[1])),
            Column("kind", "text", list(columns[2])),
            *numbers,
            Column("source", "text", list(columns[-2])),
            Column("place", "text", list(columns[-1])),
        ),
    )


ALIKE, VANISHING = 1e-9, 1e-9
"""Line loads that go on in one line within this share of their largest value are one; smaller ones are none."""


def _as_listed(loads: PlainLoads) -> PlainLoads:
    """The loads with line loads of one source that go on in one line made one, and vanishing ones left out."""
    n = len(loads.line_case)
    if not n:
        return loads
    key = np.column_stack([loads.line_source, loads.line_case, loads.line_member])
    size = np.maximum(np.abs(loads.line_q0).max(axis=1), np.abs(loads.line_q1).max(axis=1))
    largest = np.zeros(int(loads.line_source.max()) + 1)
    np.maximum.at(largest, loads.line_source, size)
    scale = largest[loads.line_source]
    some = np.flatnonzero(size > VANISHING * scale)
    order = some[np.lexsort((loads.line_s0[some], *key[some].T[::-1]))]
    s0, s1, q0, q1 = (v[order] for v in (loads.line_s0, loads.line_s1, loads.line_q0, loads.line_q1))
    first = [0] if len(order) else []
    for i in range(1, len(order)):
        j = first[-1]
        goes_on = (key[order[i]] == key[order[i - 1]]).all() and abs(s0[i] - s1[i - 1]) < ALIKE
        if goes_on:
            # What the line from the first piece's start to this one's end has at this one's start.
            between = q0[j] + (q1[i] - q0[j]) * ((s0[i] - s0[j]) / (s1[i] - s0[j]))
            off = max(np.abs(between - q0[i]).max(), np.abs(between - q1[i - 1]).max())
            goes_on = off < ALIKE * scale[order[i]]
        if not goes_on:
            first.append(i)
    begin = np.array(first, np.intp)
    end = np.append(begin[1:], len(order))[: len(begin)] - 1
    back = np.argsort(order[begin], kind="stable")
    begin, end = begin[back], end[back]
    return replace(
        loads, line_case=loads.line_case[order[begin]], line_member=loads.line_member[order[begin]],
        line_source=loads.line_source[order[begin]], line_s0=s0[begin], line_s1=s1[end], line_q0=q0[begin],
        line_q1=q1[end],
    )  # fmt: skip


def load_totals(project: Project, applied: Floats, names: list[str]) -> Table:
    """The resultant force of each case or combination from its applied loads (6, cases and more)."""
    weights = project.weights(names)
    total = (applied[:, : len(weights)] @ weights).T
    title = {c.name: c.title or c.action for c in project.cases} | {c.name: c.formula for c in project.combinations}
    return Table(
        "load-totals",
        (
            Column("case", "text", names),
            Column("what", "text", [title[n] for n in names]),
            *(Column(f, "force", total[:, i] + 0.0) for i, f in enumerate(("Fx", "Fy", "Fz"))),
        ),
    )
