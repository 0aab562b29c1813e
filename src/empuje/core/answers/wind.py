"""Wind by code: what was stated and found, pressures by height, coefficients, zones, unclad members, totals."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..actions.faces import FLAT
from ..actions.totals import applied_totals
from ..actions.wind.cases.worked_out import Blown, Met, Piece, Wind
from ..actions.wind.codes.asce_building import enclosure_of
from ..actions.wind.shape.roofs import Roof
from ..model.loads import Step
from ..model.project import Project
from ..model.words import WindCode, WindPart
from .table import FORCE_KINDS, Column, Kind, Table
from .wind_sums import wind_sums

Floats = NDArray[np.float64]
Words = Callable[[Step], str]


def sheet_of(part: WindPart, wind: Wind, project: Project, cases: Collection[str], value: Words) -> Table:
    """One table of the sheet; `cases` matters to zones and totals, `value` (what a step's value is in words) to
    `found`."""
    own = [c.name for c in wind.rule.cases if c.name in cases]
    match part:
        case WindPart.FOUND:
            return found_table(wind, value)
        case WindPart.HEIGHTS:
            return heights_table(wind)
        case WindPart.COEFFICIENTS:
            return coefficients_table(wind)
        case WindPart.ZONES:
            return zones_table(wind, project, own)
        case WindPart.UNCLAD:
            return unclad_table(wind, project)
        case WindPart.TOTALS:
            return wind_totals(wind, project, own)
        case WindPart.COMPONENTS:
            return components_table(wind, own)
        case WindPart.SUMS:
            return wind_sums(wind, project, own)


def found_table(wind: Wind, value: Words) -> Table:
    """What is stated, what was found of the geometry, and what all zones share; `value` says a step's value."""
    rows = [*_stated(wind), *_geometry(wind)]
    twisted = {h for case in wind.rule.cases if case.twist for h in case.headings}
    for h, blown in enumerate(wind.blown):
        for steps in blown.shared:
            rows += [(f"wind {blown.heading.name}", s) for s in steps]
        for met in blown.met:
            about = _about(blown, met)
            rows += [(about, s) for steps in met.shared for s in steps]
            for word, steps in zip(("positive", "negative"), met.of_internal, strict=True):
                rows += [(f"{about}, internal {word}", s) for s in steps]
            rows += [(f"{about}, in torsion", s) for s in met.of_e if h in twisted]
    return steps_table("wind-found", rows, value)


def steps_table(name: str, rows: Iterable[tuple[str, Step]], value: Words) -> Table:
    """What each step is about, its symbol, its value in words, how it came about, and its clause; each once."""
    rows = list(dict.fromkeys(rows))
    return Table(
        name,
        (
            Column("about", "text", [about for about, _ in rows]),
            Column("symbol", "text", [s.symbol for _, s in rows]),
            Column("value", "text", [value(s) for _, s in rows]),
            Column("how", "text", [s.formula for _, s in rows]),
            Column("clause", "text", [s.clause for _, s in rows]),
        ),
    )


def _about(blown: Blown, met: Met) -> str:
    """What a line of the sheet is about: a direction, and one of several buildings."""
    name = met.seen.building.name
    return f"wind {blown.heading.name}" + ("" if name == "building" else f", {name}")


def _stated(wind: Wind) -> list[tuple[str, Step]]:
    rule = wind.rule
    site = rule.code.value
    en = rule.code == WindCode.EN
    found = "lowest support or exterior point"
    out = [
        (site, Step("v_b0" if en else "V", "stated", rule.V, "m/s", "4.2" if en else "26.5.1")),
        (site, Step("terrain" if en else "exposure", rule.roughness, np.nan, "", "table 4.1" if en else "26.7.3")),
        (site, Step("ground", found if rule.ground is None else "stated", wind.ground, "m")),
    ]  # fmt: skip
    z = max((b.h for b in wind.buildings), default=10.0)
    seen = {"V", "z", "q_z", "q_p"}
    out += [(site, s) for s in wind.profile.derived(z) if s.symbol not in seen]
    for building in () if en else wind.buildings:
        word, why = enclosure_of(building.rule, building)
        about = site if building.name == "building" else building.name
        out.append((about, Step("enclosure", f"{word}: {why}", np.nan, "", "26.2")))
    return out


def _roof_rows(roof: Roof, about: str) -> list[tuple[str, Step]]:
    out = [
        (about, Step("form", f"{roof.form}: {', '.join(roof.names)}", np.nan, "")),
        (about, Step("eave", "lowest point above the ground", roof.eave, "m")),
        (about, Step("ridge", "highest point above the ground", roof.ridge, "m")),
        (about, Step("h", "mean roof height", roof.h, "m")),
        (about, Step("theta", "steepest slope", roof.slope, "deg")),
    ]
    sloped = [f for f in roof.faces if f.slope > FLAT]
    if sloped and roof.form in ("gable", "trough", "hip"):
        n = max(sloped, key=lambda f: f.area).normal
        ridge = float(np.degrees(np.arctan2(n[0], -n[1])) % 180)
        out.append((about, Step("ridge", "its direction in plan, from x", ridge, "deg")))
    return out


def _geometry(wind: Wind) -> list[tuple[str, Step]]:
    out: list[tuple[str, Step]] = []
    for building in wind.buildings:
        about = building.name
        stated = ", stated" if "h" in building.rule.stated else ""
        if about != "building":
            out.append((about, Step("surfaces", ", ".join(f.name for f in building.faces), np.nan, "")))
        out += [(about, Step("h", f"mean roof height{stated}", building.h, "m")),
                (about, Step("top", "highest point above the ground", building.top, "m"))]  # fmt: skip
        of = "" if about == "building" else f"{about}, "
        for i, roof in enumerate(building.roofs, start=1):
            out += _roof_rows(roof, f"{of}roof {i}" if len(building.roofs) > 1 else f"{of}roof")
    for i, roof in enumerate(wind.free_roofs, start=1):
        out += _roof_rows(roof, f"free roof {i}" if len(wind.free_roofs) > 1 else "free roof")
    for blown in wind.blown:
        about = f"wind {blown.heading.name}"
        out.append((about, Step("towards", blown.heading.text.removeprefix("towards "), np.nan, "")))
        for met in blown.met:
            seen, about = met.seen, _about(blown, met)
            out += [(about, Step("B", "extent across the wind", seen.B, "m")),
                    (about, Step("L", "extent along the wind", seen.L, "m"))]  # fmt: skip
            for side in dict.fromkeys(seen.sides.values()):
                names = [f.name for f in seen.building.walls if seen.sides[f.surface] == side]
                out.append((about, Step(side.value, ", ".join(names), np.nan, "")))
    return out


MOST_HEIGHTS = 12


def heights_table(wind: Wind) -> Table:
    """q and the numbers behind it at the heights that matter: of the code's table up to the top, roofs, and the top."""
    tops = [h for b in wind.buildings for h in (b.top, b.h)]
    tops += [h for r in wind.free_roofs for h in (r.h, r.ridge)]
    tops += [float(rows.z.max()) for b in wind.blown for rows in b.unclad if len(rows.z)]
    top = max(tops, default=10.0)
    steps = [s for s in wind.profile.steps if s < top - 1e-6]
    steps = steps[:: max(1, -(-len(steps) // MOST_HEIGHTS))]
    z = np.unique(np.round([*steps, *wind.profile.kinks[:1], *tops], 9))
    z = z[z <= top + 1e-9]
    numbers = wind.profile.columns(z)
    return Table(
        "wind-heights",
        (
            Column("z", "length", z),
            *(Column(name, "number", values) for name, values in numbers.items()),
            Column(wind.profile.symbol, "pressure", wind.profile.at(z)),
        ),
    )


def coefficients_table(wind: Wind) -> Table:
    """Every coefficient of the zones and of unclad members, with how it was found, by direction."""
    rows: dict[tuple[str, str, Step], None] = {}
    for blown in wind.blown:
        for zone in blown.zones:
            for step in zone.stretch.steps:
                rows.setdefault((blown.heading.name, zone.stretch.name, step))
        for unclad, entry in zip(blown.unclad, blown.heading.unclad, strict=False):
            for steps in unclad.steps:
                for step in steps:
                    if step.symbol in ("C_f", "c_f"):
                        rows.setdefault((blown.heading.name, f"unclad {entry.text}", step))
    keys = list(rows)
    return Table(
        "wind-coefficients",
        (
            Column("wind", "text", [k[0] for k in keys]),
            Column("zone", "text", [k[1] for k in keys]),
            Column("symbol", "text", [k[2].symbol for k in keys]),
            Column("C", "number", np.array([k[2].value for k in keys])),
            Column("how", "text", [k[2].formula for k in keys]),
            Column("clause", "text", [k[2].clause for k in keys]),
        ),
    )


def zones_table(wind: Wind, project: Project, cases: Collection[str]) -> Table:
    """Every zone in the named cases: heights z0 to z1 [m], distance behind the windward edge, area [m2], mean q, C,
    pressures from outside, inside and together [N/m2], force [N]; positive towards the surface."""
    names = [c.name for c in wind.rule.cases]
    chosen = [p for p in wind.of_cases({k for k, name in enumerate(names) if name in cases}) if p.zone.area > 0]
    edge = [[*(met.seen.s[0] for met in b.met), 0.0] for b in wind.blown]
    roof_of = {f.surface: r for r in wind.free_roofs for f in r.faces}

    def begins(p: Piece) -> float:
        """Where the wind meets the building, or the roof without walls."""
        if p.zone.building >= 0 or p.zone.surface not in roof_of:
            return edge[p.heading][p.zone.building]
        along = np.array(wind.blown[p.heading].heading.vector)
        return min(float((f.corners[:, :2] @ along).min()) for f in roof_of[p.zone.surface].faces)

    def column(name: str, kind: Kind, values: Sequence[float]) -> Column:
        return Column(name, kind, np.array(values, float))

    return Table(
        "wind-zones",
        (
            Column("case", "text", [names[p.case] for p in chosen]),
            Column("wind", "text", [wind.blown[p.heading].heading.name for p in chosen]),
            Column("surface", "text", [p.zone.face.name for p in chosen]),
            Column("zone", "text", [p.zone.stretch.name for p in chosen]),
            column("z0", "length", [p.zone.z[0] for p in chosen]),
            column("z1", "length", [p.zone.z[1] for p in chosen]),
            column("from", "length", [p.zone.s[0] - begins(p) for p in chosen]),
            column("to", "length", [p.zone.s[1] - begins(p) for p in chosen]),
            column("area", "surface", [p.zone.area for p in chosen]),
            column("q", "pressure", [p.zone.mean for p in chosen]),
            column("C", "number", [p.C for p in chosen]),
            column("p_e", "pressure", [p.outside for p in chosen]),
            column("p_i", "pressure", [p.inside for p in chosen]),
            column("p", "pressure", [p.net for p in chosen]),
            column("F", "force", [p.force for p in chosen]),
        ),
    )


def unclad_table(wind: Wind, project: Project) -> Table:
    """The line loads on unclad members at full wind, by direction, and by pieces where the pressure bends."""
    parts: list[tuple[Any, ...]] = []
    for blown in wind.blown:
        for rows in blown.unclad:
            for k in range(len(rows.member)):
                low, high = (0, 1) if rows.z[k, 0] <= rows.z[k, 1] else (1, 0)
                parts.append((
                    blown.heading.name, project.members[int(rows.member[k])].name, rows.z[k, low], rows.z[k, high],
                    rows.width[k], rows.C_f[k], rows.q[k, low], rows.q[k, high], rows.w[k, low], rows.w[k, high],
                ))  # fmt: skip
    heads: list[tuple[str, Kind]] = [
        ("wind", "text"), ("member", "text"), ("z0", "length"), ("z1", "length"), ("width", "displacement"), (
            "C_f", "number"),
        ("q at z0", "pressure"), ("q at z1", "pressure"), ("w at z0", "line"), ("w at z1", "line"),
    ]  # fmt: skip
    columns = list(zip(*parts, strict=True)) if parts else [()] * len(heads)
    return Table(
        "wind-unclad",
        tuple(
            Column(name, kind, list(values) if kind == "text" else np.array(values, float))
            for (name, kind), values in zip(heads, columns, strict=True)
        ),
    )


def components_table(wind: Wind, cases: Collection[str]) -> Table:
    """What components have in every zone: the area they go by, coefficient and pressure, positive towards the
    surface."""
    rows = [r for r in wind.components if r.case in cases]
    return Table(
        "wind-components",
        (
            Column("case", "text", [r.case for r in rows]),
            Column("member", "text", [r.member for r in rows]),
            Column("zone", "text", [r.zone for r in rows]),
            Column("area", "surface", np.array([r.area for r in rows])),
            Column("C", "number", np.array([r.C for r in rows])),
            Column("p", "pressure", np.array([r.p for r in rows])),
            Column("clause", "text", [r.clause for r in rows]),
        ),
    )


def wind_totals(wind: Wind, project: Project, cases: Collection[str]) -> Table:
    """Case by case the base shear along and across the wind, uplift, and moments about the middle of the base: Mx, My
    overturn, Mz twists. Forces act on the structure, in global axes."""
    heading = {c.name: wind.blown[c.headings[0]].heading for c in wind.rule.cases}
    chosen = [(i, c) for i, c in enumerate(project.case_names) if c in cases and c in heading]
    corners = [f.corners for r in wind.free_roofs for f in r.faces]
    if wind.buildings:
        corners = [b.corners for b in wind.buildings]
    points = np.concatenate(corners) if corners else project.xyz
    middle = (points.min(axis=0) + points.max(axis=0)) / 2
    # A plane frame is drawn at y = 0, wherever it stands in its building.
    base = np.array([middle[0], 0.0 if project.plane else middle[1], wind.ground])
    total = applied_totals(project, wind.loads, base, len(project.cases) + len(project.notional_pairs))
    along = np.array([heading[name].vector for _, name in chosen]).reshape(-1, 2)
    force = total[:, [i for i, _ in chosen]].T.reshape(-1, 6)
    shear = (force[:, :2] * along).sum(axis=1)
    return Table(
        "wind-totals",
        (
            Column("case", "text", [name for _, name in chosen]),
            Column("along", "force", shear + 0.0),
            Column("across", "force", force[:, 1] * along[:, 0] - force[:, 0] * along[:, 1] + 0.0),
            Column("uplift", "force", force[:, 2] + 0.0),
            *(Column(name, kind, force[:, k] + 0.0) for k, (name, kind) in enumerate(FORCE_KINDS) if k > 2),
        ),
    )
