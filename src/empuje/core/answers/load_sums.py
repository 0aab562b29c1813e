"""Sums of what cases put on the frame, by case, family or member, and where they act."""

from __future__ import annotations

from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ..model.results import Results
from ..resolve.resolved import Resolved
from .table import Column, Table

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
By = Literal["case", "family", "member"]
BYS: tuple[By, ...] = ("case", "family", "member")
NODES = "(nodes)"
"""What loads on nodes are counted under where the others are by family."""
NONE = 1e-9
"""A sum below this share of its parts' sizes is none."""


def load_sums(model: Resolved, results: Results, members: Ints, nodes: Ints, by: By) -> Table:
    """The forces on the chosen members and nodes of those results that are cases, in global axes [N]: for every case
    and family or member their sums; x and y, the centre of the vertical forces, and z, the level of the horizontal ones
    along their sum [m]. Moments have no place, and are no part of it.
    """
    project, loads = model.project, model.loads
    wanted = np.zeros(model.load_columns, bool)
    wanted[[r.index for r in results if r.is_case]] = True
    on_member, on_node = np.zeros(len(project.members), bool), np.zeros(len(project.nodes), bool)
    on_member[members], on_node[nodes] = True, True
    lines = loads.lines.take(wanted[loads.lines.case] & on_member[loads.lines.member])
    points = loads.points.take(wanted[loads.points.case] & on_member[loads.points.member])
    at_nodes = loads.nodes.take(wanted[loads.nodes.case] & on_node[loads.nodes.node])
    start, x = project.xyz[project.ends[:, 0]], project.axes[:, 0]
    # Where it acts: of a trapezium  int q s ds = s0 F + (q0 + 2 q1) L^2/6.
    L = (lines.s1 - lines.s0)[:, None]
    force = (lines.q0 + lines.q1) * (L / 2)
    along = lines.s0[:, None] * force + (lines.q0 + 2 * lines.q1) * (L**2 / 6)
    first = [
        start[lines.member][:, :, None] * force[:, None] + x[lines.member][:, :, None] * along[:, None],
        (start[points.member] + points.s[:, None] * x[points.member])[:, :, None] * points.f[:, None, :3],
        project.xyz[at_nodes.node][:, :, None] * at_nodes.f[:, None, :3],
    ]
    families = list(dict.fromkeys(m.family for m in project.members))
    place = {name: i for i, name in enumerate(families)}
    groups = {
        "case": ([""], np.zeros(len(project.members), np.intp), np.zeros(len(project.nodes), np.intp)),
        "family": ([*families, NODES], np.array([place[m.family] for m in project.members], np.intp),
                   np.full(len(project.nodes), len(families), np.intp)),
        "member": ([*(m.name for m in project.members), *(n.name for n in project.nodes)],
                   np.arange(len(project.members)), len(project.members) + np.arange(len(project.nodes))),
    }  # fmt: skip
    called, of_member, of_node = groups[by]
    case = np.concatenate([lines.case, points.case, at_nodes.case])
    group = np.concatenate([of_member[lines.member], of_member[points.member], of_node[at_nodes.node]])
    forces = np.concatenate([force, points.f[:, :3], at_nodes.f[:, :3]])
    key, at = np.unique(case * len(called) + group, return_inverse=True)
    total, size, moment = np.zeros((len(key), 3)), np.zeros((len(key), 3)), np.zeros((len(key), 3, 3))
    np.add.at(total, at, forces)
    np.add.at(size, at, np.abs(forces))
    np.add.at(moment, at, np.concatenate(first))
    total = np.where(np.abs(total) > NONE * size.max(axis=1, initial=0.0)[:, None], total, 0.0)
    there = (total != 0).any(axis=1)
    key, total, moment = key[there], total[there], moment[there]
    with np.errstate(divide="ignore", invalid="ignore"):
        down = np.where(total[:, 2:] != 0, moment[:, :2, 2] / total[:, 2:], np.nan)
        level = total[:, :2]
        up = np.where((level != 0).any(axis=1), (moment[:, 2, :2] * level).sum(axis=1) / (level**2).sum(axis=1), np.nan)
    heads = [Column("case", "text", np.array(project.case_names, object)[key // len(called)])]
    if by != "case":
        heads.append(Column("family" if by == "family" else "on", "text", np.array(called, object)[key % len(called)]))
    return Table(
        "load-sums",
        (
            *heads,
            *(Column(f, "force", total[:, i]) for i, f in enumerate(("Fx", "Fy", "Fz"))),
            Column("x", "length", down[:, 0]), Column("y", "length", down[:, 1]), Column("z", "length", up),
        ),
    )  # fmt: skip
