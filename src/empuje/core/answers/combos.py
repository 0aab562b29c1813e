"""The combinations of a project: where each comes from, what it is made of, and how it will be analysed."""

from __future__ import annotations

from collections.abc import Sequence

from ..model.project import Project
from .table import Column, Table


def combos(project: Project, names: Sequence[str]) -> Table:
    """Of the named combinations: name, set, formula in case names, source and clause, how."""
    chosen = [c for c in project.combinations if c.name in set(names)]
    return Table(
        "combinations",
        (
            Column("combination", "text", [c.name for c in chosen]),
            Column("set", "text", [c.set for c in chosen]),
            Column("formula", "text", [c.formula for c in chosen]),
            Column("source", "text", [c.source for c in chosen]),
            Column("how", "text", [project.how(c) for c in chosen]),
        ),
    )
