"""Which parts of a frame hang together: by joints, by nodes that members pass, by rigid floors.

>>> empty = Project("m.toml", "", False, ("kN", "m"), ("kN", "m", "mm", "MPa"), (), (), (), (), ())
>>> part_of_nodes(empty)
array([], dtype=int64)
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from .findings import Place
from .project import Project

Ints = NDArray[np.intp]


def part_of_nodes(project: Project) -> Ints:
    """The number of the part that each node belongs to (nodes,); bars pass nodes by."""
    return _part_of_places(project)[: len(project.nodes)]


def _part_of_places(project: Project) -> Ints:
    """The same of all places that elements have (places,)."""
    from scipy.sparse import csr_matrix
    from scipy.sparse.csgraph import connected_components

    places = len(project.places)
    if not places:
        return np.zeros(0, np.intp)
    pairs = [project.ends]
    member, node, _ = project.nodes_on_members
    whole = np.array([not m.bar for m in project.members], bool)[member]
    pairs.append(np.column_stack([project.ends[member[whole], 0], node[whole]]))
    if project.plates is not None:
        pairs += [np.stack([g.node, np.roll(g.node, 1, axis=1)], axis=2).reshape(-1, 2) for g in project.plates.groups]
        pairs.append(np.column_stack([project.plates.hinges.node, project.plates.hinges.other]))
    for floor in project.diaphragms:
        pairs.append(np.column_stack([np.full(len(floor.nodes) - 1, floor.nodes[0]), floor.nodes[1:]]))
    edges = np.vstack(pairs).reshape(-1, 2)
    links = csr_matrix((np.ones(len(edges)), (edges[:, 0], edges[:, 1])), shape=(places, places))
    return np.asarray(connected_components(links, directed=False)[1], np.intp)


def nodes_of_plates(project: Project) -> Ints:
    """The project's own nodes (n,) that structural surfaces have."""
    if project.plates is None:
        return np.zeros(0, np.intp)
    every = project.plates.joints
    return every[every < project.plates.first]


@dataclass(frozen=True)
class Part:
    """Members and structural surfaces that hang together, by their indices."""

    members: Ints
    surfaces: Ints

    def named(self, project: Project) -> list[str]:
        """Its members, then its surfaces."""
        own = [project.members[i].name for i in self.members.tolist()]
        return own + [project.surfaces[i].name for i in self.surfaces.tolist()]

    def place(self, project: Project) -> Place:
        """Where its first member or surface is written."""
        if len(self.members):
            return project.members[int(self.members[0])].place
        return project.surfaces[int(self.surfaces[0])].place


def parts(project: Project) -> list[Part]:
    """Every part that has members or structural surfaces, the one of most members first."""
    of_place = _part_of_places(project)
    of_member = of_place[project.ends[:, 0]] if project.members else np.zeros(0, np.intp)
    surface, first = np.zeros(0, np.intp), np.zeros(0, np.intp)
    if project.plates is not None:
        node = np.concatenate([g.node[:, 0] for g in project.plates.groups])
        surface, at = np.unique(project.plates.surface, return_index=True)
        first = of_place[node[at]]
    found = [
        Part(np.flatnonzero(of_member == k), surface[first == k])
        for k in dict.fromkeys([*of_member.tolist(), *first.tolist()])
    ]
    return sorted(found, key=lambda own: -len(own.members))


def together(some: list[Part]) -> Part:
    """Several parts as one."""
    members, surfaces = (np.concatenate([getattr(p, f) for p in some]) for f in ("members", "surfaces"))
    return Part(np.sort(members), np.sort(surfaces))


def called(project: Project, part: Part) -> str:
    """What a part is called: after its first member or surface, and how many more there are."""
    names = part.named(project)
    return names[0] if len(names) == 1 else f"{names[0]} and {len(names) - 1} more"
