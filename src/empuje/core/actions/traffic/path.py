"""The line a way follows: straight pieces one after another, by members that join or through points."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ...model.findings import Finding
from ...model.frame import VERTICAL_TOLERANCE
from ...model.project import Project
from ...model.traffic import Way

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
SHORTEST = 1e-3
"""Points nearer than this [m] are one."""


@dataclass(frozen=True)
class Path:
    """Straight pieces: start (n, 3), unit direction along (n, 3), begin (n + 1,) [m] from where the way begins; member
    (n,) that each is, or -1; turned (n,): passed from its end to its start."""

    start: Floats
    along: Floats
    begin: Floats
    member: Ints
    turned: NDArray[np.bool_]

    @property
    def length(self) -> float:
        """Of the whole way [m]."""
        return float(self.begin[-1])

    @property
    def left(self) -> Floats:
        """Level unit vectors to the left of each piece (n, 3)."""
        flat = np.column_stack([-self.along[:, 1], self.along[:, 0], np.zeros(len(self.along))])
        return np.asarray(flat / np.linalg.norm(flat, axis=1, keepdims=True))

    def piece_at(self, s: Floats) -> Ints:
        """The piece that places s (n,) [m] lie on; the later one where two meet."""
        return np.clip(np.searchsorted(self.begin, s, side="right") - 1, 0, len(self.start) - 1)

    def at(self, s: Floats, aside: float = 0.0) -> Floats:
        """Points (n, 3) at places s [m], so far to the left."""
        k = self.piece_at(s)
        return np.asarray(self.start[k] + (s - self.begin[k])[:, None] * self.along[k] + aside * self.left[k])


def path_of(project: Project, way: Way) -> tuple[Path | None, list[Finding]]:
    """The line of a way, or why it has none."""
    return _by_members(project, way) if way.members else _through_points(way)


def _wrong(way: Way, code: str, message: str, remedy: str) -> tuple[None, list[Finding]]:
    return None, [Finding("error", code, message, remedy, way.place)]


def _through_points(way: Way) -> tuple[Path | None, list[Finding]]:
    points = np.array(way.points, float).reshape(-1, 3)
    step = np.diff(points, axis=0)
    length = np.linalg.norm(step, axis=1)
    if len(points) < 2 or length.min(initial=np.inf) < SHORTEST:
        return _wrong(way, "bad-way", f"the way {way.text} has two points in one place, or only one",
                      "name two or more different points")  # fmt: skip
    none = np.full(len(step), -1)
    return _checked(way, Path(points[:-1], step / length[:, None], np.append(0.0, np.cumsum(length)), none, none > 0))


def _by_members(project: Project, way: Way) -> tuple[Path | None, list[Finding]]:
    """Members end to end, from the free end of the row that the first of them is nearer to."""
    ends = project.ends[list(way.members)]
    node, count = np.unique(ends, return_counts=True)
    free = node[count == 1]
    if len(way.members) > 1 and (len(free) != 2 or count.max() > 2):
        names = [project.nodes[n].name for n in free[:4]]
        message = f"the members of the way {way.text} do not join end to end in one line"
        if len(free) > 2:
            message += f": it has a gap or a branch, with loose ends at {', '.join(names)}"
        return _wrong(way, "gap-in-way", message, "name members that follow one another, or points: way = "
                      "[\"A1@mezz\", \"D1@mezz\"]")  # fmt: skip
    order = _chained(ends, int(free[0]) if len(free) else int(ends[0, 0]))
    if order is None:
        return _wrong(way, "gap-in-way", f"the members of the way {way.text} do not join end to end in one line",
                      "name members that follow one another")  # fmt: skip
    place = [k for k, _ in order]
    turned = np.array([t for _, t in order], bool)
    if place.index(0) > len(place) - 1 - place.index(0) or (len(place) == 1 and turned[0]):
        place, turned = place[::-1], ~turned[::-1]
    member = np.array(way.members, np.intp)[place]
    first = np.where(turned, project.ends[member, 1], project.ends[member, 0])
    along = project.axes[member, 0] * np.where(turned, -1.0, 1.0)[:, None]
    begin = np.append(0.0, np.cumsum(project.lengths[member]))
    return _checked(way, Path(project.xyz[first], along, begin, member, turned))


def _chained(ends: Ints, node: int) -> list[tuple[int, bool]] | None:
    """Rows of ends (n, 2) one after another from a node, and which are turned; None where they do not join."""
    at: dict[int, list[int]] = {}
    for k, pair in enumerate(ends.tolist()):
        for n in pair:
            at.setdefault(n, []).append(k)
    order: list[tuple[int, bool]] = []
    seen: set[int] = set()
    while True:
        ahead = [k for k in at[node] if k not in seen]
        if not ahead:
            return order if len(order) == len(ends) else None
        k = ahead[0]
        seen.add(k)
        turned = int(ends[k, 1]) == node
        order.append((k, turned))
        node = int(ends[k, 0 if turned else 1])


def _checked(way: Way, path: Path) -> tuple[Path | None, list[Finding]]:
    if (np.hypot(path.along[:, 0], path.along[:, 1]) < VERTICAL_TOLERANCE).any():
        return _wrong(way, "bad-way", f"the way {way.text} goes straight up", "vehicles take level or sloping ways")
    return path, []
