"""Members as solids: their sections to scale along their axes, so that it is seen how each of them stands.

Every outline is swept along its member; the faces are drawn from the furthest to the nearest [painter's algorithm],
shaded by how they face the light. A section without an outline is the rectangle of its radii of gyration.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from ...core.model.frame import Section
from ...core.model.project import Project
from .canvas import FAINT, Sheet
from .symbols import draw_supports
from .view import View

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
FACES = 30_000
"""About so many faces at the most: members are cut into fewer steps, then outlines into rectangles."""
STEPS = 8
FINE = 0.02
"""Corners of outlines nearer to a straight line than this share of the section are left out."""
LIGHT = np.array([-0.35, -0.6, 0.72]) / math.sqrt(0.35**2 + 0.6**2 + 0.72**2)
DARK, BRIGHT = np.array([0.30, 0.36, 0.43]), np.array([0.88, 0.91, 0.94])


def loops_of(section: Section, coarse: bool = False) -> list[Floats]:
    """Loops of corners (n, 2) in y, z about the centroid [m]; `coarse`: the rectangle around."""
    import shapely

    if not section.outline:
        h, b = (math.sqrt(12 * i / section.A) for i in (section.Iy, section.Iz))
        return [_box(-b / 2, -h / 2, b / 2, h / 2)]
    around = np.vstack(section.outline)
    (y0, z0), (y1, z1) = around.min(axis=0), around.max(axis=0)
    if coarse:
        return [_box(y0, z0, y1, z1)]
    fine = FINE * max(y1 - y0, z1 - z0)
    rings = [shapely.simplify(shapely.Polygon(loop), fine).exterior for loop in section.outline]
    return [shapely.get_coordinates(ring)[:-1] for ring in rings]


def _sections(project: Project, members: Ints) -> dict[str, Section]:
    """By name, in their order."""
    return {project.members[m].section.name: project.members[m].section for m in members.tolist()}


def _box(y0: float, z0: float, y1: float, z1: float) -> Floats:
    return np.array([[y0, z0], [y1, z0], [y1, z1], [y0, z1]])


def solid_faces(project: Project, members: Ints, view: View) -> tuple[list[Floats], Floats]:
    """The faces (corners, 2) on paper from the furthest to the nearest, and how bright each is (faces,) from 0 to 1."""
    sections = _sections(project, members)
    loops = {name: loops_of(s) for name, s in sections.items()}
    corners = sum(sum(map(len, loops[project.members[m].section.name])) for m in members.tolist())
    if corners > FACES:
        loops = {name: loops_of(s, True) for name, s in sections.items()}
        corners = 4 * len(members)
    steps = int(np.clip(FACES // max(corners, 1), 1, STEPS))
    eye = view.towards
    quads, shades = [], []
    caps: list[Floats] = []
    cap_depth, cap_shade = [], []
    for m in members.tolist():
        member = project.members[m]
        x, y, z = project.axes[m]
        start, end = (project.xyz[n] for n in (member.start, member.end))
        for loop in loops[member.section.name]:
            ring = loop[:, :1] * y + loop[:, 1:] * z
            after = np.roll(ring, -1, axis=0)
            normal = np.cross(after - ring, x)
            normal /= np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-12)
            t = np.linspace(0, 1, steps + 1)
            for a, b in zip(start + t[:-1, None] * (end - start), start + t[1:, None] * (end - start), strict=True):
                quads.append(np.stack([a + ring, a + after, b + after, b + ring], axis=1))
                # Whichever side is seen, an open section shows both.
                facing = normal * np.where(normal @ eye < 0, -1.0, 1.0)[:, None]
                shades.append(facing @ LIGHT)
        outer = loops[member.section.name][0]
        for at, way in ((start, -x), (end, x)):
            if way @ eye > 0:
                ring = at + outer[:, :1] * y + outer[:, 1:] * z
                caps.append(view.flat(ring))
                cap_depth.append(float((ring @ eye).mean()))
                cap_shade.append(float(way @ LIGHT))
    if not quads:
        return [], np.zeros(0)
    every = np.concatenate(quads)
    depths = (every @ eye).mean(axis=1)
    flat = list(view.flat(every)) + caps
    depth = np.concatenate([depths, cap_depth])
    shade = np.concatenate([np.concatenate(shades), cap_shade])
    order = np.argsort(depth, kind="stable")
    return [flat[i] for i in order.tolist()], np.clip(0.5 + 0.5 * shade[order], 0.0, 1.0)


def draw_solid(project: Project, members: Ints, view: View) -> Sheet:
    """The chosen members as solids; the others as lines."""
    used = _sections(project, members)
    note = f"{len(members)} members of {len(used)} sections, to scale"
    sheet = Sheet(project, view, members, "sections along the members", note)
    if not view.alone:
        others = np.setdiff1d(np.arange(len(project.members)), members)
        sheet.lines([project.xyz[e] for e in project.ends[others]], FAINT, 0.8, order=1)
    draw_supports(sheet, False)
    sheet.grid()
    faces, bright = solid_faces(project, members, view)
    colours = DARK + bright[:, None] * (BRIGHT - DARK)
    codes = ["#" + "".join(f"{round(255 * c):02x}" for c in colour) for colour in colours.tolist()]
    sheet.faces = list(zip(faces, codes, strict=True))
    plain = [name for name, section in used.items() if not section.outline]
    if plain:
        shown = ", ".join(plain[:4]) + (", ..." if len(plain) > 4 else "")
        sheet.say(f"without an outline, drawn as rectangles of the same radii of gyration: {shown}")
    return sheet
