"""About how much memory an analysis will take, before any of it is spent.

Measured on regular buildings of 4,000 to 200,000 members: the records and matrices of a member, what is kept of it for
every column, and the factors, which grow faster than the equations do.
"""

from __future__ import annotations

from ..model.project import Project

BEGINNING = 200e6
MEMBER, NODE = 9_500.0, 3_000.0
"""Bytes of records, element matrices and equations."""
COLUMN = 110.0
"""Bytes kept of a member for every case."""
ELEMENT, PLACE = 14_000.0, 200.0
"""Bytes of an element of a structural surface, and kept of its corner for every case."""
FILL = {"scipy": (600.0 * 12, 0.5), "pypardiso": (300.0 * 8, 0.25)}
"""Bytes of factors for each of 35,000 equations, and the power of the number of equations with which they grow."""


def parts_of(project: Project) -> int:
    """How many members and elements of structural surfaces are analysed."""
    return len(project.members) + (len(project.plates.surface) if project.plates is not None else 0)


def weighed(elements: int, project: Project) -> int:
    """Elements of members, with those of structural surfaces by the memory that a result takes in second order: four of
    these as one."""
    return elements + (len(project.plates.surface) // 4 if project.plates is not None else 0)


def expected_bytes(project: Project, library: str) -> float:
    """What solving a model takes at its most [bytes], to about a half of it."""
    equations = (3 if project.plane else 6) * len(project.places)
    fill, power = FILL[library]
    factors = fill * equations * (max(equations, 1) / 35_000) ** power
    columns = len(project.cases) + len(project.notional_pairs)
    own = MEMBER * len(project.members) + NODE * len(project.places) + COLUMN * columns * len(project.members)
    if project.plates is not None:
        own += ELEMENT * (parts_of(project) - len(project.members)) + PLACE * columns * len(project.plates.xyz)
    return float(BEGINNING + own + factors)
