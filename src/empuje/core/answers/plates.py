"""What governs in structural surfaces: the least and greatest of each force, where, and under what.

    n_x n_y n_xy    forces in the plane per length, along the surface's own axes; tension positive
    m_x m_y m_xy    moments per length, positive with tension on the side away from the normal
    v_x v_y         shear across per length
    w               displacement along the normal
    sag             the same less that of the plane through what holds it: columns, supports, walls (least squares)
    p               pressure on a bed under the surface

Moments for reinforcement in two directions, by R. H. Wood (The reinforcement of slabs in accordance with a
pre-determined field of moments, Concrete 2, 1968), on the side away from the normal and on that of the normal:

    far_x = m_x + |m_xy|    near_x = m_x - |m_xy|    and so for y, none below (above) zero

His reductions, where one of a pair would change sign, are not taken: that is on the safe side.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ..analysis.moving.places import plain
from ..analysis.moving.units import Units
from ..analysis.shells.fields import KINDS, Fields, free_of_force
from ..analysis.shells.shells import in_global_axes
from ..analysis.solution import Columns, Solution
from ..model.plates import Plates
from ..model.results import Results
from ..model.surfaces import SurfaceForce
from ..surfaces.mesh.held import holding_nodes
from ..surfaces.mesh.joined import areas_of_nodes
from ..surfaces.plane import plane_of, reentrant
from .envelope import TIE
from .moving import fixed_extremes
from .table import Column, Kind, Table, case_column, how_column

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
PLATE_KINDS: tuple[tuple[str, Kind], ...] = (
    ("n_x", "line"), ("n_y", "line"), ("n_xy", "line"), ("m_x", "line moment"), ("m_y", "line moment"),
    ("m_xy", "line moment"), ("v_x", "line"), ("v_y", "line"), ("w", "displacement"), ("p", "pressure"),
    ("sag", "displacement"),
)  # fmt: skip
COMPONENTS: tuple[str, ...] = tuple(name for name, _ in PLATE_KINDS)
DESIGN = ("far_x", "far_y", "near_x", "near_y")
ASKED = (*COMPONENTS, *DESIGN)
KIND_OF: dict[str, Kind] = {**dict(PLATE_KINDS), **dict.fromkeys(DESIGN, "line moment")}
W = len(KINDS)
AT_A_TIME = 3000
"""Places looked at together."""
AVERAGED = 2.0
"""Over so many lengths of mesh a peak is about averaged by the polynomials of fields.py."""
NOTHING = 1e-9
"""Of the greatest of its kind: what is less is rounding."""
FINITE = ("w", "p", "sag")
"""What has no peaks."""
NEXT = 3.0
"""So many lengths of mesh from such a point forces are still those of the peak."""


@dataclass(frozen=True)
class PlateForces:
    """Forces and displacements of the structural surfaces of a solution, at the places of its mesh."""

    solution: Solution
    length: Floats | None = None
    """Of the mesh (surfaces,) by which places next to peaks are told; None: its own."""

    def __getstate__(self) -> dict[str, object]:
        """What is pickled: nothing that follows from it."""
        return {"solution": self.solution, "length": self.length}

    @property
    def plates(self) -> Plates:
        """Its structural surfaces. Raises LookupError where there are none."""
        found = self.solution.project.plates
        if found is None:
            raise LookupError("the model has no structural surface")
        return found

    @cached_property
    def fields(self) -> Fields:
        """With motions in global axes."""
        return Fields(in_global_axes(self.solution.project, self.plates))

    @cached_property
    def xyz(self) -> Floats:
        """Where the places are (places, 3) [m]."""
        p, plates = self.fields.patches, self.plates
        axes = plates.axes[p.surface]
        return np.asarray(plates.origin[p.surface] + np.einsum("pi,pij->pj", p.at, axes[:, :2]))

    @cached_property
    def rigid(self) -> NDArray[np.bool_]:
        """Places in the footprints of columns (places,)."""
        p = self.fields.patches
        out = np.zeros(len(p.node), bool)
        inside = p.place[p.rigid]
        out[inside[inside >= 0]] = True
        return out

    @cached_property
    def peaks(self) -> NDArray[np.bool_]:
        """Places (places,) next to points where forces have no finite value: supports and ends of members at a point,
        edges of columns' footprints, corners that reach into a surface, ends of lines within it, point forces, and the
        lines that wheels roll on."""
        p = self.fields.patches
        out = np.zeros(len(p.node), bool)
        for surface in np.unique(p.surface).tolist():
            mine = np.flatnonzero(p.surface == surface)
            out[mine] = self.beside_peaks(surface, self.xyz[mine])
        return out

    def beside_peaks(self, surface: int, xyz: Floats) -> NDArray[np.bool_]:
        """Which points (n, 3) of a surface are next to such a one."""
        singular = self._singular(surface)
        if not len(singular):
            return np.zeros(len(xyz), bool)
        length = self.plates.length if self.length is None else self.length
        return np.asarray(cKDTree(singular).query(xyz)[0] <= NEXT * length[surface] * (1 + 1e-6))

    def _singular(self, surface: int) -> Floats:
        """Such points (n, 3) of a surface."""
        project, plates, p = self.solution.project, self.plates, self.fields.patches
        mine = np.flatnonzero(p.surface == surface)
        written = self.solution.model.project
        marked = np.zeros(len(project.nodes), bool)
        marked[[s.node for s in written.supports]] = True
        marked[project.ends.ravel()] = True
        marked[plates.tied] = True
        # Where only one line begins or ends, it does so within the surface: an edge always goes on.
        corner, count = np.unique(plates.edge, return_counts=True)
        marked[corner[count == 1]] = True
        found = [self.xyz[mine[marked[p.node[mine]]]]]
        outline = plane_of(written.surfaces[surface])[0]
        if outline is not None:
            found.append(outline.solid(reentrant(outline.polygon)))
        forces = [one.at for one in written.surface_loads if isinstance(one, SurfaceForce) and one.surface == surface]
        found += self._wheels(surface)
        return np.concatenate([*found, np.array(forces, float).reshape(-1, 3)])

    def _wheels(self, surface: int) -> list[Floats]:
        """Points (n, 3) along the lines that wheels of traffic roll on over a surface."""
        length = float(self.plates.length[surface])
        out = []
        for laid in self.solution.model.laid:
            for k, one in enumerate(laid.ways):
                if surface not in one.way.surfaces:
                    continue
                lefts = {float(v) for spot in laid.spots() if spot.way == k for v in laid.train(spot).left}
                s = np.linspace(0.0, one.length, int(np.ceil(one.length / length)) + 1)
                out += [one.path.at(s, left) for left in sorted(lefts)]
        return out

    def rows(self, columns: Columns | Units) -> Floats:
        """All components (places, 11, columns) of solved columns, or of unit loads."""
        p, fields = self.fields.patches, self.fields
        u = columns.displacement
        free = None
        if columns is self.solution:
            free = free_of_force(self.solution.project, self.solution.loads.plate_strains, u.shape[2])
        values = fields.at_places(fields.in_middles(u, free))
        w = np.einsum("pi,pik->pk", self.plates.axes[p.surface, 2], u[p.node, :3])
        pressure = self._pressures(columns)
        return np.concatenate([values, w[:, None], pressure[:, None], self._sags(u, w)[:, None]], axis=1)

    @cached_property
    def planes(self) -> dict[int, tuple[Ints, Floats]]:
        """By surface that something holds: the nodes (n,) where it does, and the map (3, n) from what these move by to
        the plane c0 + c1 x + c2 y in its own axes that goes through that, by least squares; level across what they do
        not tell."""
        found = {}
        for i in np.unique(self.fields.patches.surface).tolist():
            nodes = holding_nodes(self.solution.project, i)
            if len(nodes):
                flat = (self.solution.project.xyz[nodes] - self.plates.origin[i]) @ self.plates.axes[i, :2].T
                found[i] = nodes, np.linalg.pinv(np.column_stack([np.ones(len(nodes)), flat]), rcond=1e-6)
        return found

    def _sags(self, u: Floats, w: Floats) -> Floats:
        """Displacements along the normal (places, columns) against what holds each surface; NaN where nothing does."""
        p = self.fields.patches
        out = np.full(w.shape, np.nan)
        for i, (nodes, plane) in self.planes.items():
            mine = np.flatnonzero(p.surface == i)
            held = np.einsum("j,njk->nk", self.plates.axes[i, 2], u[nodes, :3])
            out[mine] = w[mine] - np.column_stack([np.ones(len(mine)), p.at[mine]]) @ (plane @ held)
        return out

    def _pressures(self, columns: Columns | Units) -> Floats:
        """Of the ground under surfaces that lie on it (places, columns): what each node's spring takes, by its area."""
        p, project = self.fields.patches, self.solution.project
        out = np.zeros((len(p.node), columns.displacement.shape[2]))
        row = np.full(len(project.nodes), -1)
        row[columns.support_node] = np.arange(len(columns.support_node))
        for i, surface in enumerate(project.surfaces):
            if surface.plate is None or not surface.plate.bed:
                continue
            area = np.ones(len(project.nodes))
            for node, own in areas_of_nodes(project, i):
                area[node] = own
            mine = np.flatnonzero((p.surface == i) & (row[p.node] >= 0))
            out[mine] = columns.reaction[row[p.node[mine]], 2] / area[p.node[mine], None]
        return out

    @cached_property
    def every(self) -> Floats:
        """All components (places, 11, columns) of the solved columns."""
        return self.rows(self.solution)


KEPT = "plate forces"


def plate_forces(solution: Solution) -> PlateForces:
    """Those of a solution, made once and kept with it. Raises LookupError later where it has no structural surface."""
    if KEPT not in solution.__dict__:
        solution.__dict__[KEPT] = PlateForces(solution)
    found: PlateForces = solution.__dict__[KEPT]
    return found


def linear(of: str) -> list[tuple[int, int, float]]:
    """What is asked for as sums of components: of each sum the components and the factor on the second; -1: none."""
    if of in COMPONENTS:
        return [(COMPONENTS.index(of), -1, 0.0)]
    m = COMPONENTS.index(f"m_{of[-1]}")
    return [(m, COMPONENTS.index("m_xy"), sign) for sign in (1.0, -1.0)]


@dataclass(frozen=True)
class Extreme:
    """One governing value: of a surface, what, least (0) or greatest (1), at a place, under a result, by name; and all
    components there and then (11,). `peak`: next to a point where it has no finite value."""

    surface: int
    of: str
    side: int
    value: float
    place: int
    result: int
    case: str
    at_once: Floats
    peak: bool = False


def sides_of(of: str) -> tuple[int, ...]:
    """Whether both extremes govern: of moments for reinforcement one does."""
    return (1,) if of.startswith("far") else (0,) if of.startswith("near") else (0, 1)


def plate_extremes(
    forces: PlateForces, results: Results, surfaces: Sequence[int], of: Sequence[str] = ASKED
) -> list[Extreme]:
    """The least and the greatest of each surface, over all places, results, patterns and positions; of what has peaks
    those of the peaks, where they govern, and those of all other places."""
    p = forces.fields.patches
    out: list[Extreme] = []
    for surface in surfaces:
        plate = forces.solution.project.surfaces[surface].plate
        on_bed = plate is not None and plate.bed > 0
        mine = (p.surface == surface) & ~forces.rigid
        for name in of:
            if (name == "p" and not on_bed) or (name == "sag" and surface not in forces.planes):
                continue
            peak = forces.peaks & (name not in FINITE)
            usual, peaks = (
                _best(forces, results, surface, name, np.flatnonzero(mine & kind)) for kind in (~peak, peak)
            )
            for side in sides_of(name):
                sign = 1.0 if side else -1.0
                if side in peaks and (side not in usual or sign * (peaks[side].value - usual[side].value) > 0):
                    out.append(replace(peaks[side], peak=True))
                if side in usual:
                    out.append(usual[side])
    return out


def _best(forces: PlateForces, results: Results, surface: int, name: str, places: Ints) -> dict[int, Extreme]:
    best: dict[int, Extreme] = {}
    for i in range(0, len(places), AT_A_TIME):
        for found in _of_places(forces, results, surface, name, places[i : i + AT_A_TIME]):
            known = best.get(found.side)
            sign = 1.0 if found.side else -1.0
            if known is None or sign * (found.value - known.value) > TIE * abs(known.value):
                best[found.side] = found
    return best


def _of_places(
    forces: PlateForces, results: Results, surface: int, name: str, places: Ints
) -> list[Extreme]:  # fmt: skip
    sums = linear(name)

    def asked(table: Floats) -> Floats:
        parts = [table[places, a] + (sign * table[places, b] if b >= 0 else 0.0) for a, b, sign in sums]
        return np.concatenate(parts)

    columns = asked(forces.every)
    size = np.abs(columns) @ np.abs(forces.solution.weights(results, still=True)).max(axis=1, initial=0.0)
    found = fixed_extremes(
        forces.solution, results, columns, lambda units: plain(asked(forces.rows(units))), TIE * size
    )
    out = []
    at = np.tile(places, len(sums))
    for side in sides_of(name):
        value = found.value[:, side]
        peak = value.max() if side else value.min()
        row = int(np.flatnonzero(np.abs(value - peak) <= TIE * abs(peak))[0])
        one, which, place = np.array([row]), np.array([side]), np.array([at[row]])
        whole = found.at_once(
            forces.solution, results, lambda t: forces.every if t is forces.solution else forces.rows(t), one, which,
            place,
        )  # fmt: skip
        names = found.names(forces.solution, results, one, which)
        result = int(found.result[row, side])
        out.append(Extreme(surface, name, side, float(value[row]), int(at[row]), result, names[0], whole[0]))
    return out


def averaged_over(forces: PlateForces, found: Extreme) -> float:
    """The length [m] that a value is a mean over where it has no finite one; NaN elsewhere."""
    if not found.peak:
        return np.nan
    return AVERAGED * float(forces.plates.length[found.surface])


def governing_plates(
    forces: PlateForces, results: Results, found: Sequence[Extreme], estimates: Sequence[float] | None = None
) -> Table:
    """Extremes as a table: surface, of, extreme, case, where, the value, and all components there and then."""
    solution = forces.solution
    names = [solution.project.surfaces[e.surface].name for e in found]
    xyz = np.array([forces.xyz[e.place] for e in found]).reshape(-1, 3) + 0.0
    kind_of = [KIND_OF[e.of] for e in found]
    value = np.array([e.value for e in found])
    largest = {k: max(abs(e.value) for e, own in zip(found, kind_of, strict=True) if own == k) for k in set(kind_of)}
    value[np.abs(value) < NOTHING * np.array([largest[k] for k in kind_of])] = 0.0
    at_once = np.array([e.at_once for e in found]).reshape(-1, len(COMPONENTS))
    result = np.array([e.result for e in found], np.intp)
    more = [] if estimates is None else [Column("mesh error [%]", "number", 100 * np.array(estimates, float))]
    return Table(
        "plates",
        (
            Column("surface", "text", names),
            Column("of", "text", [e.of for e in found]),
            Column("extreme", "text", [("peak " if e.peak else "") + ("max" if e.side else "min") for e in found]),
            *by_kind(value, kind_of),
            *more,
            *(Column(axis, "length", xyz[:, k]) for k, axis in enumerate("xyz")),
            Column("mean over", "length", np.array([averaged_over(forces, e) for e in found])),
            Column("case", "text", [e.case for e in found]),
            *then(at_once),
            how_column(results, solution.how(results), result),
        ),
    )  # fmt: skip


HEADS: tuple[tuple[str, Kind], ...] = (
    ("force", "line"), ("moment", "line moment"), ("displacement", "displacement"), ("pressure", "pressure"),
)  # fmt: skip
THERE = tuple(f"{name} there" for name in COMPONENTS)


def by_kind(value: Floats, kind_of: Sequence[Kind]) -> list[Column]:
    """Values (n,) of several kinds, each in the column of its own."""
    columns = []
    for head, kind in HEADS:
        own = np.array([k == kind for k in kind_of], bool)
        columns.append(Column(head, kind, np.where(own, value, np.nan)))
    return columns


def then(at_once: Floats) -> list[Column]:
    """All components (n, 11) where and when an extreme is."""
    return [Column(head, kind, at_once[:, k] + 0.0)
            for k, (head, (_, kind)) in enumerate(zip(THERE, PLATE_KINDS, strict=True))]  # fmt: skip


def plate_table(forces: PlateForces, results: Results, surfaces: Sequence[int], of: Sequence[str]) -> Table:
    """Every result at every place of some surfaces: surface, case, x, y, z, and the components."""
    p, solution = forces.fields.patches, forces.solution
    places = np.flatnonzero(np.isin(p.surface, list(surfaces)))
    value = forces.every[places] @ solution.weights(results)
    case = np.repeat(np.arange(len(results)), len(places))
    where = np.tile(places, len(results))
    return Table(
        "plate-forces",
        (
            Column("surface", "text", [solution.project.surfaces[i].name for i in p.surface[where]]),
            case_column(results, case),
            *(Column(axis, "length", forces.xyz[where, k] + 0.0) for k, axis in enumerate("xyz")),
            *(Column(name, kind, value[:, k].T.ravel() + 0.0)
              for k, (name, kind) in enumerate(PLATE_KINDS) if name in of),
            how_column(results, solution.how(results), case),
        ),
    )  # fmt: skip


def error_estimates(
    forces: PlateForces, found: Sequence[Extreme], coarse: PlateForces, results: Results
) -> list[float]:
    """About how far each value is from that of an infinitely fine mesh, as a share of the greatest of its kind on its
    surface, whatever else is asked for: half of what it changes by when the mesh is halved once. NaN for peaks, and for
    what is nothing but rounding.

    For an error that falls with the square of the mesh's length the value itself is off by a third of that change.
    """
    of = list(dict.fromkeys(e.of for e in found))
    alike = {name: [c for c in COMPONENTS if c[0] == ("m" if name in DESIGN else name[0])] for name in of}
    more = list(dict.fromkeys(c for own in alike.values() for c in own if c not in of))
    size: dict[tuple[int, str], float] = {}
    before: dict[tuple[int, str, int, bool], float] = {}
    for surface in dict.fromkeys(e.surface for e in found):
        usual = [e for e in found if e.surface == surface] + plate_extremes(forces, results, [surface], more)
        before |= {(surface, e.of, e.side, e.peak): e.value for e in plate_extremes(coarse, results, [surface], of)}
        for name, own in alike.items():
            size[surface, name] = max((abs(e.value) for e in usual if e.of in own and not e.peak), default=0.0)
    kind = {name: KIND_OF[name] for name in of}
    least = {k: NOTHING * max(v for (_, name), v in size.items() if kind[name] == k) for k in set(kind.values())}
    out = []
    for e in found:
        change = abs(e.value - before.get((e.surface, e.of, e.side, e.peak), np.nan))
        known = not e.peak and size[e.surface, e.of] > least[kind[e.of]]
        out.append(change / 2 / size[e.surface, e.of] if known else np.nan)
    return out
