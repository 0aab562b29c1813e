"""What may be written beside members and nodes: their names, families, sections."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from ...core.model.words import Label
from .canvas import GRID, INK, Sheet

TIMES = 4
"""So often a family or a section is written, far from one another."""
NAMES, FIRST, AGAIN = 0.1, 0.5, 0.05
"""Weights beside those of figures: of names, of the first of each family or section, of its others."""


def write_labels(sheet: Sheet, what: Iterable[Label]) -> None:
    """Each word asked for, on members or at nodes; a family and a section on some of theirs."""
    project = sheet.project
    for label in what:
        if label == Label.NODES:
            for n in np.unique(project.ends[sheet.members]).tolist():
                sheet.label(project.xyz[n], project.nodes[n].name, INK, NAMES, 7)
        elif label != Label.BAYS:
            _write_members(sheet, label)


def _write_members(sheet: Sheet, label: Label) -> None:
    project = sheet.project
    ends = project.xyz[project.ends[sheet.members]]
    if label == Label.NAMES:
        for m, at in zip(sheet.members.tolist(), 0.58 * ends[:, 0] + 0.42 * ends[:, 1], strict=True):
            sheet.label(at, project.members[m].name, GRID, NAMES, 7)
        return
    middle = 0.5 * ends[:, 0] + 0.5 * ends[:, 1] if label == Label.FAMILIES else 0.65 * ends[:, 0] + 0.35 * ends[:, 1]
    groups: dict[str, list[int]] = {}
    for i, m in enumerate(sheet.members.tolist()):
        member = project.members[m]
        groups.setdefault(member.family if label == Label.FAMILIES else member.section.name, []).append(i)
    for words, own in groups.items():
        # The longest, then whichever are furthest from those that have it.
        chosen = [max(own, key=lambda i: project.lengths[sheet.members[i]])]
        while len(chosen) < min(TIMES, len(own)):
            gap = np.linalg.norm(middle[own][:, None] - middle[chosen], axis=2).min(axis=1)
            chosen.append(own[int(gap.argmax())])
        for k, i in enumerate(chosen):
            sheet.label(middle[i], words, INK, AGAIN if k else FIRST, 8)
