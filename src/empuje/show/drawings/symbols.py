"""Supports, hinges and springs by their symbols, with a legend.

    /\\        /\\        --+--      /\\       /\\
   /__\\      /__\\      /////     /__\\     >          o---   hinge       -o-  ===  slides free
   /////     -----                 ==       <  springs
   pinned    moves in   fixed      can       /////
             some way              only push
"""

from __future__ import annotations

from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from ...core.model.project import Project
from .canvas import FAINT, GRID, SLACK, Mark, Sheet

Floats = NDArray[np.float64]
SIZE, MANY_SIZE = 15.0, 9.0
MANY = 60
"""With more supports than these the symbols are smaller."""
HINGE, SMALLEST, MANY_ENDS = 4.5, 0.45, 120
"""With more hinges than these the circles are smaller, down to a share."""
BESIDE = 0.022
"""How far from the end a hinge is drawn, as a share of the drawing's size."""
MEANING = {
    "pinned": "pinned", "fixed": "fixed", "part": "held, turns about some axes", "roller": "moves in some direction",
    "spring": "on springs", "push": "compression only",
}  # fmt: skip


def kinds_of_supports(project: Project) -> dict[int, list[str]]:
    """By node: how it is held, as the symbols that are drawn at it."""
    held: dict[int, NDArray[np.bool_]] = {}
    more: dict[int, list[str]] = {}
    for s in project.supports:
        held[s.node] = held.get(s.node, np.zeros(6, bool)) | np.array(s.held)
        own = more.setdefault(s.node, [])
        own += ["spring"] * (any(s.spring) and "spring" not in own) + ["push"] * (s.lift and "push" not in own)
    out: dict[int, list[str]] = {}
    for node, h in held.items():
        symbol = support_symbol(h, project.plane)
        kind = [symbol] if symbol else []
        out[node] = ([k for k in kind if not (k == "pinned" and "push" in more[node])]) + more[node]
    return out


def support_symbol(held: NDArray[np.bool_], plane: bool) -> str:
    """The symbol of what is held (6,); "" for nothing."""
    moves, turns = ([0, 2], [4]) if plane else ([0, 1, 2], [3, 4, 5])
    m, r = held[moves], held[turns]
    if m.all():
        return "fixed" if r.all() else "part" if r.any() else "pinned"
    return "roller" if m.any() or r.any() else ""


def draw_supports(sheet: Sheet, key: bool) -> None:
    """Every support that is seen, by its symbols; with a `key` what they mean."""
    kinds = kinds_of_supports(sheet.project)
    seen = sheet.shown_nodes()
    size = MANY_SIZE if len(kinds) > MANY else SIZE
    used: set[str] = set()
    for node, symbols in kinds.items():
        if seen[node]:
            for symbol in symbols:
                used.add(symbol)
                sheet.put(Mark(symbol, size=size), sheet.project.xyz[node])
    used |= _along_lines(sheet, size)
    for symbol, words in MEANING.items():
        if key and symbol in used:
            sheet.explain(words, mark=Mark(symbol, size=12))


ALONG = 8
"""So many symbols stand along the longest line of support."""


def _along_lines(sheet: Sheet, size: float) -> set[str]:
    """Supports along lines, each as a few of its symbols on a thick line."""
    used: set[str] = set()
    lines = sheet.project.line_supports
    if sheet.view.alone or not lines or sheet.project.plates is None or (
        len(sheet.project.nodes) != sheet.project.plates.first):  # fmt: skip
        return used
    longest = max(float(np.linalg.norm(np.subtract(s.points[-1], s.points[0]))) for s in lines)
    for s in lines:
        points = np.array(s.points)
        sheet.lines([points], GRID, 2.4, order=3)
        kind = support_symbol(np.array(s.held), sheet.project.plane)
        symbols = ([kind] if kind else []) + ["spring"] * any(s.spring)
        for a, b in pairwise(points):
            n = max(1, round(ALONG * float(np.linalg.norm(b - a)) / longest))
            for t in (np.arange(n) + 0.5) / n:
                for symbol in symbols:
                    used.add(symbol)
                    sheet.put(Mark(symbol, size=min(size, MANY_SIZE)), a + t * (b - a))
    return used


def draw_ends(sheet: Sheet, key: bool) -> None:
    """Circles beside the ends of the chosen members that turn freely, filled where on springs."""
    project, members = sheet.project, sheet.members
    start, end = (project.xyz[project.ends[members, k]] for k in (0, 1))
    length, along = project.lengths[members], project.axes[members, 0]
    turning = [4] if project.plane else [4, 5]
    places: dict[str, list[Floats]] = {"white": [], FAINT: []}
    for i, m in enumerate(members.tolist()):
        joints = np.array(project.members[m].joints)
        beside = min(BESIDE * sheet.size, 0.2 * length[i])
        for k, at, sign in ((0, start[i], 1.0), (1, end[i], -1.0)):
            own = joints[[6 * k + t for t in turning]]
            if project.members[m].bar or (own == 0).any():
                places["white"].append(at + sign * beside * along[i])
            elif np.isfinite(own).any():
                places[FAINT].append(at + sign * beside * along[i])
    size = HINGE * min(1.0, max(SMALLEST, (MANY_ENDS / max(1, sum(map(len, places.values())))) ** 0.5))
    for (fill, at), words in zip(places.items(), ("hinge", "end on springs"), strict=True):
        if at:
            mark = Mark("o", fill, size=size, order=7)
            sheet.put(mark, np.array(at))
            if key:
                sheet.explain(words, mark=mark)


def draw_slack(sheet: Sheet, slack: NDArray[np.bool_]) -> None:
    """Those of the chosen members that are slack (members,) dashed over a white line, and in the legend."""
    own = sheet.members[slack[sheet.members]]
    if len(own):
        ends = [sheet.project.xyz[e] for e in sheet.project.ends[own]]
        sheet.lines(ends, "white", 2.6, order=2)
        sheet.lines(ends, GRID, 1.2, order=3, style=SLACK)
        sheet.explain("slack", line=(GRID, 1.2, SLACK))
