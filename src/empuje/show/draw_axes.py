"""Members with their own axes, from start to end, and what is free or on springs at their ends.

          z
          |  y
          | /
start ----+----> x ------o end        o: a hinge, beside the end it is at; filled: on springs
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..core.model.project import Project
from .canvas import FAINT, GRID, INK, LOAD, PLUS, SHAPE, Sheet
from .view import View

Floats = NDArray[np.float64]
COLOURS = {"x": SHAPE, "y": PLUS, "z": LOAD}
FEW_ARM, ARM, SHARE = 0.055, 0.038, 0.3
"""Length of an axis of few members and of many: a share of the drawing's size, and at most one of its member."""
MANY = 24
NAMED_AT = 0.24
"""Where names stand along members, away from their axes."""
BESIDE = 0.022
"""How far from the end a hinge is drawn, as a share of the drawing's size."""


def draw_axes(project: Project, members: NDArray[np.intp], view: View, names: bool) -> Sheet:
    """The chosen members with x from start to end, y and z; hinges and springs at their ends."""
    counts = f"{len(members)} members; N tension positive, My positive with tension at -z, Mz at -y"
    sheet = Sheet(project, view, members, f"{project.title or project.file}: axes and ends of members", counts)
    sheet.frame()
    sheet.grid()
    start, end = (project.xyz[project.ends[members, k]] for k in (0, 1))
    length = project.lengths[members]
    many = len(members) > MANY
    arm = np.minimum((FEW_ARM if not many else ARM) * sheet.size, SHARE * length)[:, None]
    middle = (start + end) / 2
    for k, name in enumerate("xyz"):
        way = project.axes[members, k]
        tips = middle + way * arm
        sheet.arrows(middle, tips, COLOURS[name], order=5, width=1.8)
        if many and name == "x":
            continue  # its arrow lies on the member
        # An axis that points at whoever looks is a point: it has no letter.
        seen = np.linalg.norm(view.flat(tips) - view.flat(middle), axis=1) > 0.25 * arm[:, 0]
        for i in np.flatnonzero(seen).tolist():
            sheet.label(middle[i] + way[i] * arm[i] * 1.35, name, COLOURS[name], weight=float(length[i]))
    _ends(sheet, members, (start, end), length)
    if names:
        for i, m in enumerate(members.tolist()):
            at = start[i] + NAMED_AT * (end[i] - start[i])
            sheet.label(at, project.members[m].name, GRID, weight=0.1 * float(length[i]))
    words = "x runs from start to end; circles at ends: hinges, filled where on springs"
    sheet.figure.text(0.97, 0.035, words, fontsize=9, color=INK, ha="right", va="center")
    return sheet


def _ends(sheet: Sheet, members: NDArray[np.intp], ends: tuple[Floats, Floats], length: Floats) -> None:
    """Circles beside ends that turn freely, or on springs."""
    project = sheet.project
    along = project.axes[members, 0]
    turning = [4] if project.plane else [4, 5]
    places: dict[str, list[Floats]] = {"white": [], FAINT: []}
    for i, m in enumerate(members.tolist()):
        joints = np.array(project.members[m].joints)
        beside = min(BESIDE * sheet.size, 0.2 * length[i])
        for k, sign in ((0, 1.0), (1, -1.0)):
            own = joints[[6 * k + t for t in turning]]
            if project.members[m].bar or (own == 0).any():
                places["white"].append(ends[k][i] + sign * beside * along[i])
            elif np.isfinite(own).any():
                places[FAINT].append(ends[k][i] + sign * beside * along[i])
    for fill, at in places.items():
        if at:
            flat = sheet.view.flat(np.array(at))
            sheet.axes.plot(*flat.T, "o", color=fill, markeredgecolor=INK, markersize=4.5, zorder=7, linestyle="")
