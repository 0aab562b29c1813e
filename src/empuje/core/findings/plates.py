"""Structural surfaces: what cannot be analysed with them, what misses them by a little, and what is no plate."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import shapely

from ..model.decisions import Decision
from ..model.findings import Finding, listed
from ..model.frame import ON_LINE_TOLERANCE
from ..model.project import Project
from ..model.words import Stance
from ..resolved import Resolved
from ..surfaces.mesh.joined import nodes_along
from ..surfaces.mesh.regions import DIVISIONS, FINEST, footprints_of
from ..surfaces.plane import Outline, plane_of

MISSED = 0.05
"""What is nearer than this [m], or than half the thickness, was probably meant to be joined."""
STOUT, SLENDER, THICKEST = 0.3, 1 / 1000, 3.0
"""Shares of its width between which the thickness of a plate lies, and the largest thickness [m]."""


def plate_errors(resolved: Resolved) -> list[Finding]:
    """What a model with structural surfaces cannot have."""
    project = resolved.project
    own = [s for s in project.surfaces if s.plate is not None]
    if not own:
        return [
            Finding("error", "no-surface", f"the support along {s.name} is on no structural surface",
                    "give the surface there a material and a thickness", s.place)
            for s in project.line_supports
        ]  # fmt: skip
    out = []
    for surface in own:
        outline = plane_of(surface)[0]
        if surface.plate is not None and surface.plate.bed and outline is not None and abs(outline.normal[2]) < LEVEL:
            out.append(Finding("error", "bed-not-level", f"surface {surface.name} lies on a bed, and is not level",
                               "support it along lines, or at points", surface.place))  # fmt: skip
    out += _supports_beside(resolved.analysed)
    return out


LEVEL = 1 - 1e-6


def _supports_beside(project: Project) -> Iterator[Finding]:
    """Lines of support that meet no surface, or only a point of one; where a surface could not be cut, that is said."""
    cut = set() if project.plates is None else set(project.plates.surface.tolist())
    if project.plates is None or any(s.plate is not None and i not in cut for i, s in enumerate(project.surfaces)):
        return
    used = project.plates.joints
    for line in project.line_supports:
        along = nodes_along(project, np.array(line.points), used)
        if len(along) < 2:
            yield Finding("error", "no-surface", f"the support along {line.name} lies on no structural surface",
                          "give points in the plane of one", line.place)  # fmt: skip


def of_plates(resolved: Resolved) -> list[Finding]:
    """What is suspicious about structural surfaces."""
    outlines = {
        i: g.outline for i, g in resolved.surfaces.items() if g.outline.surface.plate is not None
    }  # fmt: skip
    out = [f for outline in outlines.values() for f in (*_no_plate(outline), *_missed(resolved.project, outline))]
    out += _gaps(outlines)
    if resolved.project.reduction is not None:
        reduced = {resolved.project.case_names[c] for c in resolved.project.reduction.cases}
        there = {one.surface for one in resolved.project.surface_loads if one.case in reduced} & set(outlines)
        if there:
            names = listed([outlines[i].surface.name for i in sorted(there)])
            out.append(Finding("note", "not-reduced", f"live loads on {names} are not reduced: it is structural",
                               "areas that members share are known of surfaces that hand their loads on",
                               resolved.project.reduction.place))  # fmt: skip
    return out


def _no_plate(outline: Outline) -> Iterator[Finding]:
    surface, plate = outline.surface, outline.surface.plate
    assert plate is not None
    width = 2 * shapely.maximum_inscribed_circle(outline.polygon, tolerance=0.01 * outline.size).length
    ratio = plate.thickness / width
    if SLENDER <= ratio <= STOUT and plate.thickness <= THICKEST:
        return
    what = "as thick as a block" if ratio > STOUT or plate.thickness > THICKEST else "as thin as a foil"
    yield Finding("warning", "no-plate", f"surface {surface.name} is {plate.thickness:.4g} m thick and {width:.3g} m "
                  f"wide, {what}", "look at the unit of `thickness`", surface.place)  # fmt: skip


def _missed(project: Project, outline: Outline) -> Iterator[Finding]:
    """Ends of members that just miss the surface, above, below or beside it."""
    surface, plate = outline.surface, outline.surface.plate
    assert plate is not None
    reach = max(MISSED, plate.thickness / 2)
    ends = np.unique(project.ends)
    if not len(ends):
        return
    height = np.abs(outline.height(project.xyz[ends]))
    beside = shapely.distance(outline.polygon, shapely.points(outline.flat(project.xyz[ends])))
    off = np.hypot(height, beside)
    for node in ends[(off > ON_LINE_TOLERANCE) & (off <= reach)].tolist():
        passes = [m for m, a in enumerate(project.ends.tolist()) if node in a and _passes(project, m, outline)]
        if passes:
            continue
        away = float(off[np.searchsorted(ends, node)])
        name = project.nodes[node].name
        yield Finding("warning", "just-off", f"node {name} lies {1e3 * away:.3g} mm off structural surface "
                      f"{surface.name}, and is not joined to it", "move the node or the corners, or leave more room",
                      project.nodes[node].place, about=(name,))  # fmt: skip


def _passes(project: Project, m: int, outline: Outline) -> bool:
    """Whether a member goes through the plane of a surface, where it is joined."""
    low, high = sorted(outline.height(project.xyz[project.ends[m]]).tolist())
    return bool(low < -ON_LINE_TOLERANCE and high > ON_LINE_TOLERANCE)


def _gaps(outlines: dict[int, Outline]) -> Iterator[Finding]:
    """Corners that nearly lie on another structural surface."""
    for i, one in outlines.items():
        for j, other in outlines.items():
            if i == j:
                continue
            corners = np.array(one.surface.corners)
            off = np.hypot(other.height(corners),
                           shapely.distance(other.polygon, shapely.points(other.flat(corners))))  # fmt: skip
            near = (off > ON_LINE_TOLERANCE) & (off <= MISSED)
            if near.any():
                nearest = int(np.where(near, off, np.inf).argmin())
                at = ", ".join(f"{v:.4g}" for v in corners[nearest])
                yield Finding("warning", "just-off", f"a corner of {one.surface.name}, at ({at}) m, lies "
                              f"{1e3 * float(off[nearest]):.3g} mm off {other.surface.name}, and is not joined to it",
                              "move the corner onto it, or farther away", one.surface.place)  # fmt: skip


def plate_decisions(resolved: Resolved) -> Iterator[Decision]:
    """Lengths of mesh, and columns that hold a surface over their section."""
    project = resolved.project
    if project.plates is None:
        return
    outlines = {i: g.outline for i, g in resolved.surfaces.items() if g.outline.surface.plate is not None}
    for i, outline in outlines.items():
        surface, plate = outline.surface, outline.surface.plate
        assert plate is not None
        shares = f"a {DIVISIONS}th of the widest span, or an {FINEST}th of its size"
        why = f"{shares}; `empuje plates` tells the error that it leaves"
        if plate.mesh is None:
            yield Decision("length of mesh", (surface.name,), f"{project.plates.length[i]:.3g} m",
                           why, "another length", "surfaces.NAME.mesh", Stance.USUAL, surface.place)  # fmt: skip
    for i, found in footprints_of(project, outlines).items():
        surface = outlines[i].surface
        yield Decision("footprints of columns", (surface.name,), f"{len(found)} hold it rigidly over their section",
                       "moments at a point would have no finite value", "held at points", "surfaces.NAME.footprints",
                       Stance.USUAL, surface.place)  # fmt: skip
