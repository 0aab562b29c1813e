"""Grid lines and nodes of a model file.

A crossing of the grid becomes a node once a member uses it; free nodes are there from the start.
"""

from __future__ import annotations

import itertools
import math
import re
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ...core.model.findings import Place, did_you_mean
from ...core.model.frame import ON_LINE_TOLERANCE, Node
from ...core.model.near import near_pairs
from ..base.entry import Entry, Notes, shown
from ..base.positions import read_position
from ..tables.read import Rows
from .grid import LINE_NAME, Crossing, crossing_name
from .keys import NODE_BETWEEN

NODE_NAME = re.compile(r"[A-Za-z0-9_][A-Za-z0-9_@.~-]*")
FARTHEST = 1e5
"""Coordinates beyond this [m] are taken for a slip of units."""
MOST_SNAP = 0.05
"""No nodes farther apart than this [m] are joined."""
MOST_LINES = 2_000
"""Grid lines across one axis."""
MOST_NAMES = 20_000
"""Crossings among which the nearest name is looked for."""


@dataclass
class NodeBook:
    """Every node of the model, by name; crossings are entered when first used."""

    plane: bool
    lines: dict[str, dict[str, float]] = field(default_factory=dict)
    places: dict[str, Place] = field(default_factory=dict)
    nodes: list[Node] = field(default_factory=list)
    index: dict[str, int] = field(default_factory=dict)
    reach: float = ON_LINE_TOLERANCE
    """Nodes within this distance [m] of each other are one."""

    def line_names(self) -> dict[str, list[str]]:
        """The names of the grid lines of each axis."""
        return {axis: list(lines) for axis, lines in self.lines.items()}

    def xyz_of(self, crossing: Crossing) -> tuple[float, float, float]:
        """Where a crossing is [m]; 0 along an axis it does not name."""
        at = dict(zip(self.lines, crossing, strict=True))
        return tuple(self.lines[a][at[a]] if a in at else 0.0 for a in "xyz")  # type: ignore[return-value]

    def use(self, crossing: Crossing, place: Place) -> int:
        """The node at a crossing, entered if it is new."""
        name = crossing_name(dict(zip(self.lines, crossing, strict=True)))
        if name not in self.index:
            self.add(Node(name, self.xyz_of(crossing), place))
        return self.index[name]

    def add(self, node: Node) -> None:
        """Enters a node."""
        self.index[node.name] = len(self.nodes)
        self.nodes.append(node)

    def crossing(self, name: str) -> Crossing | None:
        """The crossing a name stands for, if it does. A grid has millions of them: they are not listed."""
        plan, at, level = name.partition("@")
        if not self.lines or not at or level not in self.lines["z"]:
            return None
        if "y" not in self.lines:
            return (plan, level) if plan in self.lines["x"] else None
        parts = ((plan[:i], plan[i:]) for i in range(1, len(plan)))
        return next(((x, y, level) for x, y in parts if x in self.lines["x"] and y in self.lines["y"]), None)

    def crossing_at(self, xyz: NDArray[np.float64]) -> Crossing | None:
        """The crossing within reach of a point, if there is one."""
        found: list[str] = []
        off: list[float] = []
        for axis, lines in self.lines.items():
            away = {name: abs(v - float(xyz["xyz".index(axis)])) for name, v in lines.items() if math.isfinite(v)}
            if not away:
                return None
            found.append(min(away, key=away.__getitem__))
            off.append(away[found[-1]])
        return tuple(found) if found and math.hypot(*off) <= self.reach else None

    def nearest(self, points: NDArray[np.float64]) -> dict[int, int]:
        """Of points (n, 3) those with a node within reach, and the nearest one."""
        there = np.array([n.xyz for n in self.nodes], float).reshape(-1, 3)
        i, j = near_pairs(points, np.full(len(points), self.reach), there)
        order = np.argsort(-np.linalg.norm(points[i] - there[j], axis=1), kind="stable")
        return dict(zip(i[order].tolist(), j[order].tolist(), strict=True))

    def some_crossings(self) -> list[str]:
        """Names of crossings of the grid, no more than can be looked through."""
        every = itertools.product(*self.lines.values()) if self.lines else iter(())
        return [crossing_name(dict(zip(self.lines, c, strict=True))) for c in itertools.islice(every, MOST_NAMES)]

    def find(self, name: str, place: Place) -> int | None:
        """The node of that name; a crossing is entered."""
        if name in self.index:
            return self.index[name]
        crossing = self.crossing(name)
        return None if crossing is None else self.use(crossing, place)

    def like(self, name: str) -> str:
        """A hint at the names most like one that is not there."""
        return did_you_mean(name, [*self.index, *self.some_crossings()])


def read_grid(model: Entry, plane: bool) -> NodeBook:
    """The grid lines."""
    book = NodeBook(plane)
    if not model.has("grid"):
        return book
    grid = model.child("grid")
    axes = ["x", "z"] if plane else ["x", "y", "z"]
    grid.known(axes)
    for axis in axes:
        book.lines[axis] = {}
        if not grid.has(axis):
            grid.missing(axis)
            continue
        lines = grid.child(axis)
        if len(lines.data) > MOST_LINES:
            grid.error("too-many", f"grid.{axis} has {len(lines.data):,} lines, more than {MOST_LINES:,}",
                       "place further nodes under [nodes] or in a table", axis)  # fmt: skip
            continue
        for name, value in lines.data.items():
            if not LINE_NAME.fullmatch(name):
                lines.error("bad-name", f"a grid line cannot be called {shown(name)}",
                            "use letters, digits and _", name)  # fmt: skip
                continue
            at = lines.as_quantity(value, name)
            if at is None:
                at = np.nan
            elif abs(at) > FARTHEST:
                lines.error("too-far", f"grid.{axis}.{name} is {at:.3g} m away", "check its unit", name)
                at = np.nan
            elif any(abs(at - other) <= ON_LINE_TOLERANCE for other in book.lines[axis].values()):
                lines.error("same-place", f"grid line {axis} '{name}' lies on another", "take one of them out", name)
            book.lines[axis][name] = at
    _refuse_ambiguous(grid, book)
    return book


def _refuse_ambiguous(grid: Entry, book: NodeBook) -> None:
    """x 'A1' with y '1' and x 'A' with y '11' would both be A11."""
    seen: dict[str, tuple[str, str]] = {}
    for x in book.lines.get("x", {}):
        for y in book.lines.get("y", {}):
            if x + y in seen:
                grid.error("ambiguous-name", f"x '{x}' with y '{y}' reads like x '{seen[x + y][0]}' with y "
                           f"'{seen[x + y][1]}'", "rename one of these grid lines", "x", x)  # fmt: skip
            seen.setdefault(x + y, (x, y))


def read_nodes(model: Entry, book: NodeBook) -> None:
    """The free nodes, in the order in which they can be placed."""
    nodes = model.child("nodes")
    for name, value in nodes.data.items():
        if not NODE_NAME.fullmatch(name):
            nodes.error("bad-name", f"a node cannot be called {shown(name)}", "use letters, digits, _ and -", name)
            continue
        if book.crossing(name) is not None:
            nodes.error("name-clash", f"node {name} has the name of a grid crossing", "rename it", name)
            continue
        xyz = _between(nodes, book, name, value) if isinstance(value, dict) else _placed(nodes, book, name, value)
        # A node that could not be read still counts as named, so that one slip gives one finding.
        book.add(Node(name, xyz or (np.nan,) * 3, nodes.notes.place((*nodes.path, name))))


def snap_nodes(model: Entry, book: NodeBook) -> None:
    """Joins written nodes that lie within [project] snap of an earlier one, or of a crossing of the grid, to that; all
    their names stand for it. What makers and copies lay joins within the same distance."""
    if not isinstance(model.data.get("project"), dict) or "snap" not in model.data["project"]:
        return
    entry = model.child("project")
    reach = entry.quantity("snap")
    if reach is None:
        return
    if not ON_LINE_TOLERANCE <= reach <= MOST_SNAP:
        entry.error("bad-quantity", f"project.snap = {shown(entry.data['snap'])}",
                    f"write {ON_LINE_TOLERANCE * 1e3:g} to {MOST_SNAP * 1e3:g} mm", "snap")  # fmt: skip
        return
    book.reach = reach
    written, book.nodes, book.index = book.nodes, [], {}
    xyz = np.array([n.xyz for n in written], float).reshape(-1, 3)
    placed = np.isfinite(xyz).all(axis=1)
    i, j = near_pairs(xyz, np.where(placed, reach, 0.0), np.where(placed[:, None], xyz, 2 * FARTHEST))
    earlier: dict[int, list[int]] = {}
    for a, b in zip(i.tolist(), j.tolist(), strict=True):
        if b < a:
            earlier.setdefault(a, []).append(b)
    kept: dict[int, int] = {}
    moved: list[tuple[float, str, str]] = []
    for k, node in enumerate(written):
        crossing = book.crossing_at(xyz[k]) if placed[k] else None
        own = [b for b in earlier.get(k, ()) if b in kept]
        if crossing is not None:
            at = book.use(crossing, node.place)
        elif own:
            at = kept[min(own, key=lambda b: float(np.linalg.norm(xyz[k] - xyz[b])))]
        else:
            kept[k] = len(book.nodes)
            book.add(node)
            continue
        book.index[node.name] = at
        to = book.nodes[at]
        book.nodes[at] = replace(to, also=(*to.also, (node.name, node.xyz)))
        moved.append((float(np.linalg.norm(xyz[k] - to.xyz)), node.name, to.name))
    if moved:
        far, name, to_ = max(moved)
        are = "nodes are" if len(moved) > 1 else "node is"
        message = (
            f"{len(moved)} {are} joined to others within {reach * 1e3:g} mm, {name} to {to_} from {far * 1e3:.3g} mm"
        )
        entry.notes.say("note", "nodes-joined", (*entry.path, "snap"), message)


def read_node_rows(table: Rows, book: NodeBook, notes: Notes) -> None:
    """The nodes of tables."""
    axes = ["x", "z"] if book.plane else ["x", "y", "z"]
    for entry in table.entries(notes):
        name, place = str(entry.data.get("name", "")), entry.place
        if not NODE_NAME.fullmatch(name):
            entry.error("bad-name", f"a node cannot be called {shown(name)}", "use letters, digits, _ and -")
            continue
        if name in book.index or book.crossing(name) is not None:
            entry.error("name-clash", f"there is a node {name} already", "rename one of them")
            continue
        at = [entry.quantity(axis) for axis in axes]
        if any(v is not None and abs(v) > FARTHEST for v in at):
            entry.error("too-far", f"node {name} is more than {FARTHEST:g} m away", "check its unit")
            at = [None]
        x, *y, z = at if None not in at else (np.nan,) * len(axes)
        book.add(Node(name, (x, y[0] if y else 0.0, z), place))  # type: ignore[arg-type]


def _placed(nodes: Entry, book: NodeBook, name: str, value: object) -> tuple[float, float, float] | None:
    count = 2 if book.plane else 3
    if not isinstance(value, list) or len(value) != count:
        nodes.error("bad-node", f"node {name} = {shown(value)} is no place",
                    f"write {'[x, z]' if book.plane else '[x, y, z]'}", name)  # fmt: skip
        return None
    at = [nodes.as_quantity(v, name) for v in value]
    if any(v is None for v in at):
        return None
    if any(abs(v) > FARTHEST for v in at if v is not None):
        nodes.error("too-far", f"node {name} = {shown(value)} is more than {FARTHEST:g} m away", "check its unit", name)
        return None
    return (at[0], 0.0, at[1]) if book.plane else tuple(at)  # type: ignore[return-value]


def _between(nodes: Entry, book: NodeBook, name: str, value: dict[Any, Any]) -> tuple[float, float, float] | None:
    entry = nodes.inner(value, NODE_BETWEEN, name).known()
    ends = entry.texts("between")
    position = read_position(entry, "at")
    if ends is None or position is None:
        return None
    if len(ends) != 2:
        entry.error("bad-node", f"node {name} lies between {len(ends)} nodes", 'write between = ["A", "B"]', "between")
        return None
    found = []
    for end in ends:
        crossing = book.crossing(end)
        if end in book.index:
            found.append(np.array(book.nodes[book.index[end]].xyz))
        elif crossing is not None:
            found.append(np.array(book.xyz_of(crossing)))
        else:
            entry.error("unknown-name", f"node {name}: there is no node {end}", book.like(end), "between")
    if len(found) != 2:
        return None
    length = float(np.linalg.norm(found[1] - found[0]))
    share = position.on(length) / length if length > 0 else 0.0
    if not -1e-9 <= share <= 1 + 1e-9:
        entry.error("position-off-member", f"node {name} would not lie between {ends[0]} and {ends[1]}",
                    f"they are {length:.4g} m apart", "at")  # fmt: skip
    x, y, z = found[0] + share * (found[1] - found[0])
    return float(x), float(y), float(z)
