"""The frame as it stands: members, supports, hinges and springs by their symbols, with a legend."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ...core.model.project import Project
from ...core.model.words import Acts
from .canvas import INK, Sheet, Style
from .symbols import draw_ends, draw_supports
from .view import View

ONE_WAY: dict[Acts, tuple[str, Style]] = {
    Acts.TENSION: ("tension only", (0, (7, 2))), Acts.COMPRESSION: ("compression only", (0, (2, 1.5))),
}  # fmt: skip


def draw_frame(project: Project, members: NDArray[np.intp], view: View) -> Sheet:
    """Members, nodes and supports."""
    counts = f"{len(members)} members of {len({project.members[m].family for m in members.tolist()})} families, "
    counts += f"{len(np.unique(project.ends[members]))} nodes at their ends"
    sheet = Sheet(project, view, members, "", counts)
    sheet.frame(INK, 1.5)
    for acts, (words, style) in ONE_WAY.items():
        own = [m for m in members.tolist() if project.members[m].acts == acts]
        if own:
            lines = [project.xyz[project.ends[m]] for m in own]
            sheet.lines(lines, "white", 1.7, order=2)
            sheet.lines(lines, INK, 1.3, order=2, style=style)
            sheet.explain(words, line=(INK, 1.3, style))
    draw_supports(sheet, True)
    draw_ends(sheet, True)
    sheet.grid()
    return sheet
