"""Whether a line's end still hangs together with the ground when the line itself is taken away: a tip does not,
whatever stubs and brackets sit on it.

Lines and nodes are the two kinds of points of a graph, the ground is one more; one walk in depth finds what each line
cuts off (Hopcroft and Tarjan, articulation points).
"""

from __future__ import annotations

from collections import defaultdict

from ..model.project import Project
from .lines import Lines
from .on_surfaces import OnSurfaces


class Grounded:
    """Asked for each line and node on it."""

    def __init__(self, project: Project, lines: Lines, surfaces: OnSurfaces) -> None:
        self.of_node: dict[int, set[int]] = defaultdict(set)
        for m, pair in enumerate(project.ends.tolist()):
            for node in pair:
                self.of_node[node].add(int(lines.of[m]))
        for m, node, _ in zip(*(v.tolist() for v in project.nodes_on_members), strict=True):
            if not project.members[m].bar:
                self.of_node[node].add(int(lines.of[m]))
        self.nodes: dict[int, list[int]] = defaultdict(list)
        for node, there in sorted(self.of_node.items()):
            for line in sorted(there):
                self.nodes[line].append(node)
        self.supported = {s.node for s in project.supports if any(s.held[:3]) or any(k > 0 for k in s.spring[:3])}
        # Nodes of one rigid floor hang together, and those of structural surfaces that share nodes.
        self.floors = [list(floor.nodes) for floor in project.diaphragms] + [body.nodes for body in surfaces.bodies]
        self.on_ground = [False] * len(project.diaphragms) + [body.supported for body in surfaces.bodies]
        self.floor_of: dict[int, list[int]] = defaultdict(list)
        for i, nodes in enumerate(self.floors):
            for node in nodes:
                self.floor_of[node].append(i)
        self._walk()

    def _beside(self, point: tuple[str, int]) -> list[tuple[str, int]]:
        kind, i = point
        if kind == "ground":
            held = [("floor", i) for i, supported in enumerate(self.on_ground) if supported]
            return [("node", n) for n in sorted(self.supported) if n in self.of_node] + held
        if kind == "line":
            return [("node", n) for n in self.nodes[i]]
        if kind == "floor":
            below = [("ground", 0)] if self.on_ground[i] else []
            return [("node", n) for n in self.floors[i] if n in self.of_node] + below
        out = [("line", line) for line in sorted(self.of_node[i])] + [("floor", f) for f in self.floor_of[i]]
        return [*out, ("ground", 0)] if i in self.supported else out

    def _walk(self) -> None:
        """Numbers in the order of a walk in depth from the ground: first and last of what hangs below each point, and
        the earliest that anything below it touches."""
        self.first: dict[tuple[str, int], int] = {}
        self.last: dict[tuple[str, int], int] = {}
        self.low: dict[tuple[str, int], int] = {}
        self.below: dict[tuple[str, int], list[tuple[str, int]]] = defaultdict(list)
        root = ("ground", 0)
        self.first[root] = self.low[root] = 0
        stack = [(root, iter(self._beside(root)))]
        count = 1
        while stack:
            point, left = stack[-1]
            for other in left:
                if other in self.first:
                    self.low[point] = min(self.low[point], self.first[other])
                    continue
                self.first[other] = self.low[other] = count
                count += 1
                self.below[point].append(other)
                stack.append((other, iter(self._beside(other))))
                break
            else:
                stack.pop()
                self.last[point] = count - 1
                if stack:
                    above = stack[-1][0]
                    self.low[above] = min(self.low[above], self.low[point])

    def without(self, line: int, node: int) -> bool:
        """Whether the node hangs together with the ground without the line."""
        cut, point = ("line", line), ("node", node)
        if point not in self.first:
            return False
        if cut not in self.first:
            return True
        return not any(
            self.first[child] <= self.first[point] <= self.last[child] and self.low[child] >= self.first[cut]
            for child in self.below[cut]
        )

    def dead_end(self, line: int, node: int) -> bool:
        """Whether nothing but the line leads on from the node: a stub."""
        others = [n for n in self.nodes[line] if n != node]
        return all(self.of_node[n] == {line} and n not in self.supported and n not in self.floor_of for n in others)
