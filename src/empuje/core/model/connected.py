"""Which parts of a frame hang together: by joints, by nodes that members pass, by rigid floors.

>>> empty = Project("m.toml", "", False, ("kN", "m"), ("kN", "m", "mm", "MPa"), (), (), (), (), ())
>>> part_of_nodes(empty)
array([], dtype=int64)
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from .project import Project

Ints = NDArray[np.intp]


def part_of_nodes(project: Project) -> Ints:
    """The number of the part that each node belongs to (nodes,); bars pass nodes by."""
    from scipy.sparse import csr_matrix
    from scipy.sparse.csgraph import connected_components

    n, places = len(project.nodes), len(project.places)
    if not n:
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
    return np.asarray(connected_components(links, directed=False)[1], np.intp)[:n]


def nodes_of_plates(project: Project) -> Ints:
    """The project's own nodes (n,) that structural surfaces have."""
    if project.plates is None:
        return np.zeros(0, np.intp)
    every = project.plates.joints
    return every[every < project.plates.first]


def parts(project: Project) -> list[Ints]:
    """The members (indices) of every part that has any, the largest first."""
    of_member = part_of_nodes(project)[project.ends[:, 0]] if project.members else np.zeros(0, np.intp)
    found = [np.flatnonzero(of_member == k) for k in dict.fromkeys(of_member.tolist())]
    return sorted(found, key=lambda own: (-len(own), int(own[0])))


def called(project: Project, members: Ints) -> str:
    """What a part is called: after its first member, and how many more there are."""
    first = project.members[int(members[0])].name
    return first if len(members) == 1 else f"{first} and {len(members) - 1} more"
