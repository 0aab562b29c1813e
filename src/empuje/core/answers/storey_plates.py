"""What slabs and walls carry through a level cut: the forces of the elements that it crosses, on the nodes below.

    level + a hair   - - +----+----+ - -      F = what the nodes o put on these elements
                         o----o----o          load that lies on them above the cut, and comes to the nodes o, is added

Of that load the nodes above tell how much lies there: by their own part of it over the area around them.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ..analysis.displaced_plates import plates_on_nodes
from ..analysis.solution import Solution
from ..model.plates import ElementGroup, Plates
from ..surfaces.mesh.shapes import rule_of
from .on_plates import surface_of_rows

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]


def plates_cut(solution: Solution, weights: Floats, height: float, about: Floats) -> tuple[Floats, Floats]:
    """What passes down through the cut in plates: forces [N] and moments [N m] about a point (3,), (3, results) each,
    of the results that weights (columns, results) make."""
    project, results = solution.project, weights.shape[1]
    force, moment = np.zeros((3, results)), np.zeros((3, results))
    plates, xyz = project.plates, project.xyz
    if plates is None:
        return force, moment
    up = xyz[:, 2] > height
    crossed = [_some(g, up[g.node]) for g in plates.groups]
    if not any(len(g.node) for g in crossed):
        return force, moment
    few = replace(plates, triangles=crossed[0], quadrilaterals=crossed[1])
    at_nodes, pulled = plates_on_nodes(solution, few, weights)
    if solution.second_order_from is not None:
        # Results of second order have a column of their own; the others move by first order alone.
        at_nodes = at_nodes + pulled * (solution.at @ (weights[solution.second_order_from :] != 0))
    low = np.flatnonzero(~up)
    F = at_nodes[low, :3]
    force = -F.sum(axis=0)
    moment = -(np.cross((xyz[low] - about)[:, :, None], F, axis=1) + at_nodes[low, 3:]).sum(axis=0)
    more, place = _between(solution, plates, crossed, up, height, weights)
    force += more.sum(axis=0)
    place[:, 2] = np.minimum(place[:, 2], height)
    return force, moment + np.cross((place - about)[:, :, None], more, axis=1).sum(axis=0)


def _some(group: ElementGroup, up: NDArray[np.bool_]) -> ElementGroup:
    """The elements with some corners above (n, corners), not all."""
    chosen = np.flatnonzero(up.any(axis=1) & ~up.all(axis=1))
    return ElementGroup(group.node[chosen], group.flat[chosen], group.arm[chosen], group.surface[chosen])


def _between(
    solution: Solution,
    plates: Plates,
    crossed: list[ElementGroup],
    up: NDArray[np.bool_],
    height: float,
    weights: Floats,
) -> tuple[Floats, Floats]:
    """Loads on crossed elements that lie above the cut but come to nodes below it: forces (elements, 3, results), and
    the places (elements, 3) of these nodes."""
    project, loads = solution.project, solution.loads.nodes
    of_row = surface_of_rows(project, solution.loads)
    on, places = [np.zeros((0, 3, weights.shape[1]))], [np.zeros((0, 3))]
    for i in np.unique(np.concatenate([g.surface for g in crossed])).tolist():
        around = np.zeros(len(project.nodes))
        for group in plates.groups:
            own = np.flatnonzero(group.surface == i)
            size = rule_of(group.flat[own])[1].sum(axis=1)
            corners = group.node.shape[1]
            np.add.at(around, group.node[own], np.repeat(size[:, None] / corners, corners, axis=1))
        rows = np.flatnonzero(of_row == i)
        load = np.zeros((len(project.nodes), 3, weights.shape[1]))
        np.add.at(load, loads.node[rows], loads.f[rows, :3, None] * weights[loads.case[rows]][:, None])
        for group in crossed:
            own = np.flatnonzero(group.surface == i)
            node, above = group.node[own], up[group.node[own]]
            if not len(own):
                continue
            pressure = load[node] / around[node][:, :, None, None] * above[:, :, None, None]
            pressure = pressure.sum(axis=1) / above.sum(axis=1)[:, None, None]
            size = rule_of(group.flat[own])[1].sum(axis=1)
            z = project.xyz[node, 2]
            top = z.max(axis=1)
            part = np.clip((top - height) / np.ptp(z, axis=1), 0.0, 1.0)
            missing = size * (part - above.mean(axis=1))
            on.append(pressure * missing[:, None, None])
            below = ~above[:, :, None]
            places.append((project.xyz[node] * below).sum(axis=1) / below.sum(axis=1))
    return np.concatenate(on), np.concatenate(places)
