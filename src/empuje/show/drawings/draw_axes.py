"""Members with their own axes, from start to end, and what is free or on springs at their ends.

          z
          |  y
          | /
start ----+----> x ------o end        o: a hinge, beside the end it is at; filled: on springs
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ...core.model.project import Project
from .canvas import LOAD, PLUS, SHAPE, Sheet
from .symbols import draw_ends, draw_supports
from .view import View

Floats = NDArray[np.float64]
COLOURS = {"x": SHAPE, "y": PLUS, "z": LOAD}
FEW_ARM, ARM, SHARE = 0.055, 0.038, 0.3
"""Length of an axis of few members and of many: a share of the drawing's size, and at most one of its member."""
MANY = 24


def draw_axes(project: Project, members: NDArray[np.intp], view: View) -> Sheet:
    """The chosen members with x from start to end, y and z; hinges and springs at their ends."""
    counts = f"{len(members)} members; N tension positive, My positive with tension at -z, Mz at -y"
    sheet = Sheet(project, view, members, "axes and ends of members", counts)
    sheet.frame()
    draw_supports(sheet, False)
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
    draw_ends(sheet, True)
    for name, colour in COLOURS.items():
        sheet.explain(f"local {name}" + (", from start to end" if name == "x" else ""), line=(colour, 2.0, "-"))
    return sheet
