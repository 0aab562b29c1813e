"""What line loads of any source come to together on each member: one row for every straight piece.

q0  ___________                 ____            two loads of a case, one over all of the member,
   |           |___     +  ____/    |           and what they are together: three pieces
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..model.results import Results, names
from ..resolved import Resolved
from .table import Column, Table

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
SAME_PLACE, NONE = 1e-9, 1e-9
"""Places nearer than this [m] are one; loads below this share of the greatest on their member are none."""
AXES = ("x", "y", "z")


def net_line_loads(model: Resolved, results: Results, members: Ints, local: bool = False) -> Table:
    """Line loads of each result on the chosen members, summed up over all that makes them: from, to [m], the values at
    both ends [N/m], in global axes or in those of the member, and what the piece comes to [N]. What moves is not in it;
    forces at points are not lines."""
    project, lines = model.project, model.loads.lines
    weights = model.weights(results)
    chosen = np.zeros(len(project.members), bool)
    chosen[members] = True
    own = np.flatnonzero((lines.case < len(weights)) & chosen[lines.member] & (lines.s1 > lines.s0 + SAME_PLACE))
    factor = weights[lines.case[own]]
    row, result = np.nonzero(factor)
    line, factor = own[row], factor[row, result][:, None]
    q0, q1 = lines.q0[line] * factor, lines.q1[line] * factor
    if local:
        turn = project.axes[lines.member[line]]
        q0, q1 = (np.einsum("nij,nj->ni", turn, q) for q in (q0, q1))
    key = result * len(project.members) + lines.member[line]
    key, s, value, slope = _pieces(key, lines.s0[line], lines.s1[line], q0, q1)
    length = np.diff(s, axis=1)
    last = value + slope * length
    force = (value + last) / 2 * length
    on = project.members
    mark = "'" if local else ""
    return Table(
        "net-line-loads",
        (
            Column("case", "text", np.array(names(results), object)[key // len(on)]),
            Column("on", "text", np.array([m.name for m in on], object)[key % len(on)]),
            Column("from", "length", s[:, 0]), Column("to", "length", s[:, 1]),
            *(Column(f"q{a}{mark}", "line", value[:, k] + 0.0) for k, a in enumerate(AXES)),
            *(Column(f"q{a}{mark} end", "line", last[:, k] + 0.0) for k, a in enumerate(AXES)),
            *(Column(f"F{a}{mark}", "force", force[:, k] + 0.0) for k, a in enumerate(AXES)),
        ),
    )  # fmt: skip


def _pieces(key: Ints, s0: Floats, s1: Floats, q0: Floats, q1: Floats) -> tuple[Ints, Floats, Floats, Floats]:
    """Of lines (n,) by key the straight pieces of their sum: key, from and to (m, 2), value at the beginning and slope
    (m, 3), in order. At its beginning a line adds its value and its slope, at its end it takes both away."""
    slope = (q1 - q0) / np.maximum(s1 - s0, SAME_PLACE)[:, None]
    keys, place = np.concatenate([key, key]), np.concatenate([s0, s1])
    jump, bend = np.concatenate([q0, -q1]), np.concatenate([slope, -slope])
    order = np.lexsort((place, keys))
    keys, place, jump, bend = keys[order], place[order], jump[order], bend[order]
    new = np.append(True, (np.diff(keys) != 0) | (np.diff(place) > SAME_PLACE))[: len(keys)]
    at = np.cumsum(new) - 1
    count = int(at[-1]) + 1 if len(at) else 0
    jumps, bends, size = np.zeros((count, 3)), np.zeros((count, 3)), np.zeros((count, 3))
    np.add.at(jumps, at, jump)
    np.add.at(bends, at, bend)
    np.add.at(size, at, np.abs(jump))
    keys, place = keys[new], place[new]
    first = np.append(True, np.diff(keys) != 0)[:count]
    group = np.cumsum(first) - 1
    rank = np.arange(count) - np.flatnonzero(first)[group] if count else np.zeros(0, np.intp)
    value, steep = np.zeros((count, 3)), np.zeros((count, 3))
    for k in range(int(rank.max(initial=-1)) + 1):  # places in order, all members at once
        i = np.flatnonzero(rank == k)
        value[i], steep[i] = jumps[i], bends[i]
        if k:
            value[i] += value[i - 1] + steep[i - 1] * (place[i] - place[i - 1])[:, None]
            steep[i] += steep[i - 1]
    most = np.zeros(int(group[-1]) + 1 if count else 0)
    np.maximum.at(most, group, size.max(axis=1, initial=0.0))
    inner = np.flatnonzero(~np.append(first[1:], True)[:count])  # each place but the last of its member
    end = place[inner + 1]
    value, steep, scale = value[inner], steep[inner], most[group[inner]][:, None]
    L = (end - place[inner])[:, None]
    steep = np.where(np.abs(steep * L) > NONE * scale, steep, 0.0)
    value = np.where(np.abs(value) > NONE * scale, value, 0.0)
    last = value + steep * L
    some = np.flatnonzero((np.abs(value) + np.abs(last) > NONE * scale).any(axis=1))
    own, begin, end = keys[inner][some], place[inner][some], end[some]
    value, steep, last, scale = value[some], steep[some], last[some], scale[some]
    goes_on = (np.diff(own) == 0) & (np.abs(begin[1:] - end[:-1]) <= SAME_PLACE)
    near = NONE * scale[1:]
    goes_on &= (np.abs(value[1:] - last[:-1]) <= near).all(axis=1)
    goes_on &= (np.abs(steep[1:] - steep[:-1]) * np.maximum(end[1:] - begin[:-1], 1.0)[:, None] <= near).all(axis=1)
    start = np.flatnonzero(np.append(True, ~goes_on)[: len(own)])
    stop = np.append(start[1:], len(own))[: len(start)] - 1
    return own[start].astype(np.intp), np.column_stack([begin[start], end[stop]]), value[start], steep[start]
