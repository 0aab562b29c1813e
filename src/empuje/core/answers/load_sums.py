"""Sums of what cases put on the frame, by case, family, member or level, and where they act."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ..actions.totals import between_heights, halfway
from ..model.loads import PlainLoads
from ..model.results import Results
from ..resolved import Resolved
from .on_plates import SURFACES, surface_of_rows
from .table import Column, Table

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
By = Literal["case", "family", "member", "level"]
NODES = "(nodes)"
"""What loads on nodes are counted under where the others are by family."""
NONE = 1e-9
"""A sum below this share of its parts' sizes is none."""


def load_sums(
    model: Resolved, results: Results, members: Ints, nodes: Ints, surfaces: Ints, by: By,
    levels: Sequence[tuple[str, float]] = (),
) -> Table:  # fmt: skip
    """The forces on the chosen members, nodes and structural surfaces of those results that are cases, in global axes
    [N]: for every case and family, member or level their sums; x and y, the centre of the vertical forces, and z, the
    height of the horizontal ones along their sum [m]. Moments have no place, and are no part of it. `levels`: names and
    heights [m], from the lowest; each has what acts between half the storeys below and above it, members that rise
    exactly cut.
    """
    project, loads = model.project, model.loads
    wanted = np.zeros(model.load_columns, bool)
    wanted[model.case_numbers(results)] = True
    on_member, on_node = np.zeros(len(project.members), bool), np.zeros(len(project.nodes), bool)
    on_member[members], on_node[nodes] = True, True
    of_surface = surface_of_rows(project, loads)
    here = np.isin(of_surface, surfaces)
    own_nodes = of_surface < 0
    here[own_nodes] = on_node[loads.nodes.node[own_nodes]]
    kept = wanted[loads.nodes.case] & here
    of_surface = of_surface[kept]
    own = PlainLoads(
        loads.lines.take(wanted[loads.lines.case] & on_member[loads.lines.member]),
        loads.points.take(wanted[loads.points.case] & on_member[loads.points.member]),
        loads.nodes.take(kept),
    )
    families = list(dict.fromkeys(m.family for m in project.members))
    place = {name: i for i, name in enumerate(families)}
    before = len(project.members), len(project.members) + len(project.nodes)
    alike = np.zeros(len(project.members), np.intp), np.zeros(len(own.nodes), np.intp)
    groups = {
        "case": ([""], *alike),
        "family": ([*families, NODES, SURFACES], np.array([place[m.family] for m in project.members], np.intp),
                   len(families) + (of_surface >= 0)),
        "member": ([*(m.name for m in project.members), *(n.name for n in project.nodes),
                    *(s.name for s in project.surfaces)], np.arange(len(project.members)),
                   np.where(of_surface >= 0, before[1] + of_surface, before[0] + own.nodes.node)),
        "level": ([name for name, _ in levels], *alike),
    }  # fmt: skip
    called, of_member, of_row = groups[by]
    parts = []
    for k, (low, high) in enumerate(halfway([z for _, z in levels])):
        of_line, of_point = of_member[own.lines.member] + k, of_member[own.points.member] + k
        of = (of_line, of_line, of_point, of_row + k)
        parts += [(*part, group) for part, group in zip(between_heights(project, own, low, high), of, strict=True)]
    forces, where, case, group = (np.concatenate(each) for each in zip(*parts, strict=True))
    first = where[:, :, None] * forces[:, None, :]
    key, at = np.unique(case * len(called) + group, return_inverse=True)
    total, size, moment = np.zeros((len(key), 3)), np.zeros((len(key), 3)), np.zeros((len(key), 3, 3))
    np.add.at(total, at, forces)
    np.add.at(size, at, np.abs(forces))
    np.add.at(moment, at, first)
    total = np.where(np.abs(total) > NONE * size.max(axis=1, initial=0.0)[:, None], total, 0.0)
    there = (total != 0).any(axis=1)
    key, total, moment = key[there], total[there], moment[there]
    with np.errstate(divide="ignore", invalid="ignore"):
        down = np.where(total[:, 2:] != 0, moment[:, :2, 2] / total[:, 2:], np.nan)
        level = total[:, :2]
        up = np.where((level != 0).any(axis=1), (moment[:, 2, :2] * level).sum(axis=1) / (level**2).sum(axis=1), np.nan)
    heads = [Column("case", "text", np.array(project.case_names, object)[key // len(called)])]
    if by != "case":
        head = "on" if by == "member" else by
        heads.append(Column(head, "text", np.array(called, object)[key % len(called)]))
    return Table(
        "load-sums",
        (
            *heads,
            *(Column(f, "force", total[:, i]) for i, f in enumerate(("Fx", "Fy", "Fz"))),
            Column("x", "length", down[:, 0]), Column("y", "length", down[:, 1]), Column("z", "length", up),
        ),
    )  # fmt: skip
