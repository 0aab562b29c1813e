"""What the frame is made of: its members with their lengths and weights, and its sections with their properties."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from ..catalogue.catalogue import Rolled, build
from ..model.frame import Material
from ..model.project import GRAVITY, Project
from .table import Column, Kind, Table

PROPERTIES: tuple[tuple[str, Kind], ...] = (
    ("A", "area"), ("Iy", "inertia"), ("Iz", "inertia"), ("J", "inertia"), ("Iw", "warping"), ("Wel_y", "modulus"),
    ("Wel_z", "modulus"), ("Wpl_y", "modulus"), ("Wpl_z", "modulus"), ("Ay", "area"), ("Az", "area"),
)  # fmt: skip


def catalogue_values(rolled: Sequence[Rolled]) -> NDArray[np.float64]:
    """The properties of sections of the catalogue (n, PROPERTIES)."""
    built = [build(one) for one in rolled]
    return np.array([[getattr(s, name) for name, _ in PROPERTIES] for s in built], float).reshape(-1, len(PROPERTIES))


def catalogue_table(rolled: Sequence[Rolled], known: NDArray[np.float64] | None = None) -> Table:
    """Sections of the catalogue: series, dimensions [m], mass [kg/m] at 7850 kg/m3, and properties, where these are not
    `known` already."""
    values = catalogue_values(rolled) if known is None else known
    sizes = np.array([[_size(one, k) for k in ("h", "b", "tw", "tf")] for one in rolled], float).reshape(-1, 4)
    return Table(
        "catalogue",
        (
            Column("section", "text", [one.name for one in rolled]),
            Column("series", "text", [one.series for one in rolled]),
            *(Column(k, "displacement", sizes[:, i]) for i, k in enumerate(("h", "b", "tw", "tf"))),
            Column("kg/m", "factor", values[:, 0] * 7850.0),
            *(Column(name, kind, values[:, i]) for i, (name, kind) in enumerate(PROPERTIES)),
        ),
    )


def material_table(materials: Sequence[Material]) -> Table:
    """Materials: E, G [N/m2], density [kg/m3], expansion [1e-6/K]; of those with strengths a row for every thickness t
    [m] up to which they hold, NaN for others."""
    unknown = (np.nan, np.nan, np.nan)
    rows = [(m, *band) for m in materials for band in (m.strength or (unknown,))]
    values = np.array([[m.E, m.G, m.density, m.expansion * 1e6, *band] for m, *band in rows], float).reshape(-1, 7)
    heads: tuple[tuple[str, Kind], ...] = (
        ("E", "stress"), ("G", "stress"), ("kg/m3", "factor"), ("1e-6/K", "factor"), ("t up to", "displacement"),
        ("fy", "stress"), ("fu", "stress"),
    )  # fmt: skip
    values[:, 4][np.isinf(values[:, 4])] = np.nan
    return Table("materials", (
        Column("material", "text", [m.name for m, *_ in rows]),
        *(Column(name, kind, values[:, i]) for i, (name, kind) in enumerate(heads)),
    ))  # fmt: skip


def _size(one: Rolled, key: str) -> float:
    """An overall size or a wall; of round ones the diameter."""
    return one.dimensions["d" if one.shape in ("pipe", "circle") and key in ("h", "b") else key]


def member_list(project: Project) -> Table:
    """Every member: family, section, material, nodes, length, roll and weight [N]."""
    members = project.members
    weight = project.masses * GRAVITY
    return Table(
        "members",
        (
            Column("member", "text", [m.name for m in members]),
            Column("family", "text", [m.family for m in members]),
            Column("section", "text", [m.section.name for m in members]),
            Column("material", "text", [m.material.name for m in members]),
            Column("start", "text", [project.nodes[m.start].name for m in members]),
            Column("end", "text", [project.nodes[m.end].name for m in members]),
            Column("length", "length", project.lengths),
            Column("roll", "angle", np.array([m.roll for m in members])),
            Column("weight", "force", weight),
        ),
    )


def section_list(project: Project) -> Table:
    """Every section in use, with the properties the analysis used and the moduli; NaN where one is not known."""
    sections = list({m.section.name: m.section for m in project.members}.values())
    values = np.array([[getattr(s, name) for name, _ in PROPERTIES] for s in sections], float)
    values = values.reshape(-1, len(PROPERTIES))
    return Table(
        "sections",
        (
            Column("section", "text", [s.name for s in sections]),
            *(Column(name, kind, values[:, i]) for i, (name, kind) in enumerate(PROPERTIES)),
        ),
    )
