"""What governs: of many results those that are worst for each support, member and node."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ..analysis.moving.places import plain
from ..analysis.pieces import FORCES
from ..analysis.solution import Solution
from ..model.results import Results
from .envelope import Extremes, envelope
from .foundations import reaction_envelope
from .line_reactions import by_lines
from .moving import fixed_extremes
from .reactions import closing_error, reactions, resultants
from .table import FORCE_KINDS, MEMBER_KINDS, Column, Table, case_column, how_column, leading_only, sense, six, stacked

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]


def governing_reactions(solution: Solution, results: Results, nodes: Ints | None = None) -> Table:
    """Of every support the least and the greatest vertical reaction, over all patterns, and the largest horizontal one:
    with the result that makes it, and the other components there and then."""
    solution = by_lines(solution, results)
    upright = reaction_envelope(solution, results, nodes, ("Fz",))
    every = reactions(solution, [r for r in results if not r.moving], nodes)
    every = stacked([every, *_level_of_moving(solution, [r for r in results if r.moving], nodes)])
    flat = np.hypot(every["Fx"], np.nan_to_num(every["Fy"]))
    rows: list[tuple[Table, int, str]] = []
    names = list(dict.fromkeys(every["node"].tolist()))
    of_node = {name: np.flatnonzero(every["node"] == name) for name in names}
    upright_of = {name: np.flatnonzero(upright["node"] == name) for name in names}
    for name in names:
        rows += [(upright, int(i), f"Fz {upright['extreme'][i]}") for i in upright_of[name]]
        own = of_node[name]
        rows.append((every, int(own[flat[own].argmax()]), "horizontal max"))
    heads = ["case", *(kind for kind, _ in FORCE_KINDS), "how"]
    cells = {head: [table[head][i] for table, i, _ in rows] for head in heads}
    held = {solution.project.nodes[n].name: own for n, own in zip(solution.support_node, solution.held, strict=True)}
    there = np.array([held[str(table["node"][i])] for table, i, _ in rows]).reshape(-1, 6)
    return Table(
        "governing-reactions",
        (
            Column("node", "text", [str(table["node"][i]) for table, i, _ in rows]),
            Column("extreme", "text", [words for _, _, words in rows]),
            Column("case", "text", cells["case"]),
            *(
                Column(head, kind, np.where(there[:, k], np.array(cells[head], float), np.nan))
                for k, (head, kind) in enumerate(FORCE_KINDS)
            ),
            Column("how", "text", cells["how"]),
        ),
    )


DIRECTIONS = 16


def _level_of_moving(solution: Solution, results: Results, nodes: Ints | None) -> list[Table]:
    """Of results that move, every support's reaction where it is largest in a level direction, for a fan of these."""
    if not results:
        return []
    supported = solution.support_node
    chosen = np.arange(len(supported)) if nodes is None else np.flatnonzero(np.isin(supported, nodes))
    angle = np.arange(DIRECTIONS) * np.pi / DIRECTIONS
    which, turn = np.repeat(chosen, DIRECTIONS), np.tile(angle, len(chosen))

    def along(table: Floats) -> Floats:
        c, s = np.cos(turn)[:, None], np.sin(turn)[:, None]
        return np.asarray(c * table[which, 0] + s * table[which, 1])

    found = fixed_extremes(solution, results, along(solution.reaction), lambda units: plain(along(units.reaction)))
    row, side = np.repeat(np.arange(len(which)), 2), np.tile([0, 1], len(which))
    of_rows = found.at_once(solution, results, lambda table: table.reaction[which], row, side)
    names = found.names(solution, results, row, side)
    result = found.result[row, side]
    labels = [solution.project.nodes[n].name for n in supported[which[row]]]
    return [
        Table("reactions", (
            Column("node", "text", labels), Column("case", "text", names), *six(FORCE_KINDS, of_rows),
            how_column(results, solution.how(results), result),
        ))
    ]  # fmt: skip


def largest_forces(
    solution: Solution, results: Results, members: Ints, of: Sequence[str] = FORCES, found: Extremes | None = None
) -> Table:
    """Of every member and force the extreme that is largest in magnitude, where, and under what. `found`: the extremes,
    where they are known already."""
    table = envelope(solution, results, members, tuple(of), found)
    pairs = len(table) // 2
    value = np.array([table[f][i] for i, f in enumerate(table["of"].tolist())]).reshape(pairs, 2)
    # Of equal extremes the greatest is told.
    side = (np.abs(value[:, 1]) >= np.abs(value[:, 0]) * (1 - 1e-12)).astype(np.intp)
    picked = leading_only(table.rows(2 * np.arange(pairs) + side))
    assert picked is not None
    return replace(picked.without(["extreme"]), name="largest-forces")


def furthest_nodes(solution: Solution, results: Results, nodes: Ints) -> Table:
    """Of every node the result under which it moves most, its displacement u, and its parts."""
    motion = solution.displacement[nodes, :3] @ solution.weights(results)
    size = np.linalg.norm(motion, axis=1)
    worst = size.argmax(axis=1) if len(results) else np.zeros(len(nodes), np.intp)
    row = np.arange(len(nodes))
    parts = np.where(solution.undefined[nodes, :3], np.nan, motion[row, :, worst])
    return Table(
        "furthest-nodes",
        (
            Column("node", "text", [solution.project.nodes[i].name for i in nodes]),
            case_column(results, worst),
            Column("u", "displacement", size[row, worst]),
            *(Column(f"u{axis}", "displacement", parts[:, k] + 0.0) for k, axis in enumerate("xyz")),
            how_column(results, solution.how(results), worst),
        ),
    )


def balance_in_short(solution: Solution, results: Results) -> Table:
    """What is applied in each result, forces, and the difference to the reactions as a share of the largest load."""
    put_on, _ = resultants(solution, results)
    each = np.arange(len(results))
    return Table(
        "balance-in-short",
        (
            case_column(results, each),
            *(Column(f"F{axis} applied", "force", put_on[k] + 0.0) for k, axis in enumerate("xyz")),
            Column("relative", "number", closing_error(solution, results)),
        ),
    )


def governing_forces(solution: Solution, found: Table) -> Table:
    """For each family and force the member and combination with the largest magnitude in the envelope `found`."""
    family_of = {m.name: m.family for m in solution.project.members}
    families = list(dict.fromkeys(family_of.values()))
    member, of = found["member"], found["of"]
    rows = []
    for family in families:
        in_family = np.array([family_of[m] == family for m in member])
        for force in FORCES:
            index = np.flatnonzero(in_family & (of == force))
            if not len(index):
                continue
            best = index[np.abs(found[force][index]).argmax()]
            value = found[force][best]
            if abs(value) > 1e-9 * max(np.nanmax(np.abs(found[force])), 1e-12):
                rows.append((family, force, value, member[best], found["x"][best], found["case"][best]))
    kinds = dict(MEMBER_KINDS)
    forces = np.array([r[2] if kinds[r[1]] == "force" else np.nan for r in rows])
    moments = np.array([r[2] if kinds[r[1]] == "moment" else np.nan for r in rows])
    return Table(
        "governing",
        (
            Column("family", "text", [r[0] for r in rows]),
            Column("of", "text", [r[1] for r in rows]),
            Column("force", "force", forces),
            sense(np.array([r[2] if r[1] == "N" else np.nan for r in rows], float)),
            Column("moment", "moment", moments),
            Column("member", "text", [r[3] for r in rows]),
            Column("x", "length", np.array([r[4] for r in rows], float)),
            Column("case", "text", [r[5] for r in rows]),
        ),
    )
