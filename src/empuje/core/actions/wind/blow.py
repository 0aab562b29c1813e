"""The wind of a project, worked out once.

rule -> pressure over the height, building -> for each direction: zones, bare members -> for each case: multiples of
them"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
import shapely
from numpy.typing import NDArray

from ...model.findings import Finding, listed
from ...model.frame import ON_LINE_TOLERANCE
from ...model.loads import Step
from ...model.project import Project
from ...model.wind import Heading, WindRule
from ...model.words import WindCode
from ..surfaces.sources.surface_loads import Surfaces
from .bare import MOST_SOLID, BareRows, bare_rows
from .cases.loaded import loaded
from .cases.worked_out import Blown, Pieces, Wind
from .codes import asce_building, asce_free_roof, en_building, en_free_roof, en_inside
from .shape.building import Building, find_building, ground_of
from .shape.overhangs import unwalled
from .shape.roofs import Face, Roof, face_of, joined_roofs
from .shape.seen import Seen, axes_of, facing, seen
from .shape.zones import Zone
from .site import asce_site, en_site
from .site.profile import Profile

Floats = NDArray[np.float64]
SLENDER = 4.0
"""Beyond so many times its width high a structure may be flexible."""


def blow(project: Project, surfaces: Surfaces) -> tuple[Wind | None, list[Finding]]:
    """The wind of a project; None where it states none, or where what it states cannot be."""
    rule = project.wind
    if rule is None or not rule.known:
        return None, []
    is_en = rule.code == WindCode.EN
    profile = en_site.peak_pressure(rule) if is_en else asce_site.velocity_pressure(rule)
    ground = ground_of(project, surfaces, rule)
    building, findings = find_building(project, surfaces, rule, ground)
    findings = [*profile.findings, *findings]
    sheets = [face_of(i, surfaces[i].outline, ground) for i in rule.free_roofs if i in surfaces]
    findings += _misplaced(rule, surfaces, building, sheets, ground)
    free = joined_roofs(sheets, rule)
    if any(f.level == "error" for f in findings):
        return None, findings
    of_code = en_building if is_en else asce_building
    of_free = en_free_roof if is_en else asce_free_roof
    of_site = en_site if is_en else asce_site
    blown = []
    for heading in rule.headings:
        if rule.analysed and heading.n_1 is None:
            findings.append(_no_frequency(heading))
            continue
        own = rule if heading.n_1 is None else replace(rule, stated={**rule.stated, "n_1": heading.n_1})
        zones: list[Zone] = []
        shared: list[tuple[Step, ...]] = []
        met = None
        if building is not None:
            met, found = seen(building, heading, own)
            findings += found
            if any(f.level == "error" for f in found):
                continue
            findings += of_code.limits(met, own, heading)
            more, steps = of_code.building_zones(met, own, profile)
            zones, shared = [*zones, *more], [*shared, *steps]
            for i in rule.parapets:
                if i in surfaces:
                    face = face_of(i, surfaces[i].outline, ground)
                    side = heading.sides.get(i, facing(face.normal, np.array(heading.vector)))
                    zones += of_code.parapet_zones(face, met, rule, profile, side)
        for roof in free:
            more, steps, found = of_free.free_roof_zones(roof, heading, own, profile)
            zones, shared, findings = [*zones, *more], [*shared, *steps], [*findings, *found]
        bare, steps, found = _bare(project, surfaces, own, heading, profile, ground)
        inside, of_inside = _internal(rule, profile, met, zones)
        told = tuple(dict.fromkeys([*shared, *steps]))
        e = of_site.eccentricity(own, met.building.h, met.B, met.L) if met is not None else (0.0, ())
        blown.append(Blown(heading, met, tuple(zones), bare, told, inside, of_inside, *e))
        findings += found
    findings += _assumed(rule, building)
    lone = unwalled([f for r in building.roofs for f in r.faces], building.footprint) if building is not None else []
    if lone:
        message = f"{listed(lone)} lie{'s' if len(lone) == 1 else ''} outside what the walls of `exterior` enclose"
        findings.append(
            Finding("warning", "wind-shape", f"{message}: taken as a roof over the inside, without overhangs",
                    "add the walls below, or name it in `free_roofs`", rule.place)
        )  # fmt: skip
    findings += _height_limits(rule, building, free, blown, profile)
    wind = Wind(rule, ground, profile, building, tuple(free), tuple(blown), Pieces.none())
    if any(f.level == "error" for f in findings):
        return wind, findings
    return loaded(project, surfaces, wind, findings)


def _no_frequency(heading: Heading) -> Finding:
    message = f"the frame's lowest frequency along the wind {heading.name} is not known"
    remedy = "state n_1; or see that the frame stands, and that `mass` names cases with loads on what sways"
    return Finding("error", "wind-frequency", message, remedy, heading.place)


def _misplaced(
    rule: WindRule, surfaces: Surfaces, building: Building | None, sheets: Sequence[Face], ground: float
) -> list[Finding]:
    """Free roofs that look down or stand upright, and parapets that look to the middle of the building: their signs
    would be wrong."""
    out = []
    upright = [f.name for f in sheets if f.is_wall]
    if upright:
        out.append(Finding("error", "wind-shape", f"{listed(upright)} in `free_roofs` stand upright",
                           "name walls in `exterior`, or load them by hand", rule.place))  # fmt: skip
    below = [f.name for f in sheets if f.normal[2] < 0 and not f.is_wall]
    if below:
        out.append(Finding("error", "wind-inwards", f"the normal of {listed(below)} points down", "name the corners of "
                           "free roofs counter-clockwise as seen from above", rule.place))  # fmt: skip
    parapets = [face_of(i, surfaces[i].outline, ground) for i in rule.parapets if i in surfaces]
    if building is not None:
        middle = building.corners[:, :2].mean(axis=0)
        inwards = [f.name for f in parapets if (f.corners[:, :2].mean(axis=0) - middle) @ f.normal[:2] < 0]
        if inwards:
            message = f"the normal of {listed(inwards)} points to the middle of the building"
            remedy = "name their corners counter-clockwise as seen from outside"
            out.append(Finding("error", "wind-inwards", message, remedy, rule.place))
    return out


Internal = tuple[tuple[float, float], tuple[tuple[Step, ...], tuple[Step, ...]]]


def _internal(rule: WindRule, profile: Profile, met: Seen | None, zones: Sequence[Zone]) -> Internal:
    """The internal pressures of positive and negative sign at full wind [N/m2], with their steps."""
    if met is None or rule.is_open:
        return (0.0, 0.0), ((), ())
    if rule.code == WindCode.EN:
        return en_inside.internal(rule, profile, met, zones)
    return asce_building.internal(rule, profile, met.building)


def _assumed(rule: WindRule, building: Building | None) -> list[Finding]:
    """What was taken for the inside where nothing is stated about it."""
    silent = rule.enclosure is None and not rule.openings and not {"GC_pi", "c_pi+"} & set(rule.stated)
    if building is None or not silent:
        return []
    taken = "internal pressures of +0.2 and -0.3 q_p" if rule.code == WindCode.EN else "as enclosed, (GC_pi) = 0.18"
    return [Finding("note", "assumed", f"the building's openings are not stated: taken {taken}",
                    "state `enclosure`, or `openings` by surface", rule.place)]  # fmt: skip


def _height_limits(
    rule: WindRule, building: Building | None, free: Sequence[Roof], blown: Sequence[Blown], profile: Profile
) -> list[Finding]:
    """Heights beyond what the code's profile is given for."""
    top = max([building.top if building else 0.0, *(r.ridge for r in free),
               *(float(r.z.max(initial=0.0)) for b in blown for r in b.bare)])  # fmt: skip
    limit = en_site.Z_MAX if rule.code == WindCode.EN else asce_site.highest(rule.code, rule.roughness)
    if top <= limit:
        return []
    clause = "EN 1991-1-4, 4.3.2" if rule.code == WindCode.EN else "ASCE 7, table 26.10-1"
    message = f"something stands {top:.4g} m above the ground; the profile is given up to {limit:.4g} m ({clause})"
    return [Finding("warning", "wind-limits", message, "find the wind up there by other means", rule.place)]


def _bare(
    project: Project, surfaces: Surfaces, rule: WindRule, heading: Heading, profile: Profile, ground: float
) -> tuple[tuple[BareRows, ...], list[tuple[Step, ...]], list[Finding]]:
    """Line loads of one direction on members that stand in the wind by themselves."""
    out, findings = [], []
    if not heading.bare:
        return (), [], []
    every = np.concatenate([np.array(b.members, np.intp) for b in heading.bare])
    heights = project.xyz[project.ends[every], 2] - ground if len(every) else np.zeros(1)
    along, left = axes_of(heading)
    reach = project.xyz[project.ends[every].ravel(), :2] @ left
    deep = project.xyz[project.ends[every].ravel(), :2] @ along
    h, B, L = max(float(heights.max()), 0.1), max(float(np.ptp(reach)), 0.1), max(float(np.ptp(deep)), 0.1)
    wide = max(B, L)
    if rule.gust == "" and h > SLENDER * wide:
        message = f"what is bare is {h:.4g} m high and {wide:.4g} m wide: it may be flexible, and its factor for gusts "
        message += "is that of a rigid structure"
        clause = "c_scd, EN 1991-1-4, 6.2" if rule.code == WindCode.EN else "G, ASCE 7, 26.11"
        findings.append(Finding("warning", "wind-limits", f"{message} ({clause})", 'state it, or write "flexible" with '
                                "n_1", heading.place))  # fmt: skip
    if rule.code == WindCode.EN:
        gust, steps = en_site.structural_factor(rule, h, B)
    else:
        gust, steps = asce_site.gust_factor(rule, h, B, L)
        gust *= asce_site.beside_g(rule)
    wind = np.array([*heading.vector, 0.0])
    taken: dict[int, str] = {}
    for bare in heading.bare:
        twice = [m for m in bare.members if m in taken]
        if twice:
            names = listed([project.members[m].name for m in twice])
            message = f"{names} would carry the wind {heading.name} twice: by {taken[twice[0]]} and by {bare.text}"
            findings.append(Finding("error", "wind-twice", message, "leave them out of one with `!`", bare.place))
        taken |= dict.fromkeys(bare.members, bare.text)
        findings += _in_walls(project, surfaces, rule, bare.members, bare.text, heading)
        rows, unknown = bare_rows(project, bare, wind, rule, profile, ground, gust)
        if unknown:
            names = listed([project.members[m].name for m in unknown])
            message = f"the section of {names} has no outline: its width to the wind is not known"
            findings.append(Finding("error", "wind-width", message, "state `width` beside C_f", bare.place))
        if rows is not None and rows.solidity is not None and bare.C_f is None and rule.code == WindCode.EN:
            message = (
                f"the frame {bare.text} has a solidity of {rows.solidity:.3g} to the wind {heading.name}: its c_f,0 "
            )
            message += "is read at it, from figure 7.33, 7.34 or 7.35 (EN 1991-1-4, 7.11)"
            remedy = "state C_f beside `solidity`: c_f,0 times psi_lambda"
            findings.append(Finding("error", "wind-frame", message, remedy, bare.place))
        elif rows is not None and bare.C_f is None and (rows.solidity or 0.0) > MOST_SOLID + 1e-9:
            message = f"the frame {bare.text} has a solidity of {rows.solidity:.3g} to the wind {heading.name}: beyond "
            message += "0.7 it is a solid sign (ASCE 7, 29.3.1, figure 29.4-2)"
            remedy = "state C_f beside `solidity`, from figure 29.3-1"
            findings.append(Finding("error", "wind-frame", message, remedy, bare.place))
        elif rows is not None:
            out.append(rows)
    return tuple(out), [steps], findings


def _in_walls(
    project: Project, surfaces: Surfaces, rule: WindRule, members: Sequence[int], text: str, heading: Heading
) -> list[Finding]:
    """Bare members that lie in a surface which faces the wind already."""
    inside: dict[str, list[str]] = {}
    chosen = np.array(members, np.intp)
    for i in (*rule.exterior, *rule.free_roofs, *rule.parapets):
        if i not in surfaces:
            continue
        outline = surfaces[i].outline
        near = np.abs(outline.height(project.xyz[project.ends[chosen].ravel()])).reshape(-1, 2).max(axis=1)
        for m in chosen[near <= ON_LINE_TOLERANCE].tolist():
            line = shapely.LineString(outline.flat(project.xyz[project.ends[m]]))
            if shapely.length(shapely.intersection(line, outline.polygon)) > 0.1 * line.length:
                inside.setdefault(outline.surface.name, []).append(project.members[m].name)
    return [
        Finding("warning", "wind-in-surface", f"{listed(names)} in {text} lie{'s' if len(names) == 1 else ''} in "
                                              "surface "
                f"{surface}, which faces the wind {heading.name} too", "leave them out, unless they stand before it",
                heading.place)
        for surface, names in inside.items()
    ]  # fmt: skip
