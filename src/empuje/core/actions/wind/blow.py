"""The wind of a project, worked out once.

rule -> pressure over the height, building -> for each direction: zones, unclad members -> for each case: multiples of
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
from .cases.loaded import loaded
from .cases.spread import Spread
from .cases.worked_out import Blown, Met, Pieces, Wind
from .codes import asce_building, asce_free_roof, en_building, en_free_roof, en_inside
from .plane import StripSpread, in_plane, within_strip
from .shape.building import Building, ground_of
from .shape.overhangs import unwalled
from .shape.roofs import Roof
from .shape.seen import Seen, axes_of, facing, seen
from .shape.zones import Zone
from .site import asce_site, en_site
from .site.profile import Profile
from .stood import Stood, stand
from .unclad import MOST_SOLID, UncladRows, unclad_rows

Floats = NDArray[np.float64]
SQUARE = 1e-6
SLENDER = 4.0
"""Beyond so many times its width high a structure may be flexible."""


def blow(project: Project, surfaces: Surfaces) -> tuple[Wind | None, list[Finding]]:
    """The wind of a project; None where it states none, or where what it states cannot be."""
    rule = project.wind
    if rule is None or not rule.known:
        return None, []
    ground = ground_of(project, surfaces, rule)
    stood = stand(project, surfaces, rule, ground)
    profile = _profile(rule)
    findings = [*profile.findings, *stood.findings]
    if any(f.level == "error" for f in findings):
        return None, findings
    blown = []
    for heading in rule.headings:
        if rule.analysed and heading.n_1 is None:
            findings.append(_no_frequency(heading))
            continue
        own, here = rule.towards(heading), profile
        if (own.stated, own.roughness, own.hill) != (rule.stated, rule.roughness, rule.hill):
            here = _profile(own)
            findings += [f for f in here.findings if f not in findings]
        there = stood if heading.ground is None else stand(project, surfaces, rule, heading.ground)
        findings += [f for f in there.findings if f not in findings]
        made, found = _blown(project, surfaces, there, own, heading, here)
        findings += found
        if made is not None:
            blown.append(made)
    findings += _assumed(rule, stood.buildings)
    findings += [f for b in stood.buildings for f in _lone(b)]
    findings += _height_limits(rule, stood.buildings, stood.free, blown)
    wind = Wind(rule, ground, profile, tuple(stood.buildings), tuple(stood.free), tuple(blown), Pieces.none())
    if any(f.level == "error" for f in findings):
        return wind, findings
    spread = Spread(surfaces) if rule.slice is None else StripSpread(project, stood.faces, rule.slice)
    wind, findings = loaded(project, spread, wind, findings)
    return (wind if rule.slice is None else replace(wind, loads=in_plane(wind.loads))), findings


def _profile(rule: WindRule) -> Profile:
    return en_site.peak_pressure(rule) if rule.code == WindCode.EN else asce_site.velocity_pressure(rule)


def _blown(
    project: Project, surfaces: Surfaces, stood: Stood, rule: WindRule, heading: Heading, profile: Profile
) -> tuple[Blown | None, list[Finding]]:
    """One direction, as its own rule and pressures have it; None where a building has no side to the wind."""
    is_en = rule.code == WindCode.EN
    of_code, of_free = (en_building, en_free_roof) if is_en else (asce_building, asce_free_roof)
    of_site = en_site if is_en else asce_site
    zones: list[Zone] = []
    met: list[Met] = []
    shared: list[tuple[Step, ...]] = []
    findings: list[Finding] = []
    for k, building in enumerate(stood.buildings):
        own = building.rule.towards(heading)
        look, found = seen(building, heading, own)
        findings += found
        if any(f.level == "error" for f in found):
            return None, findings
        findings += of_code.limits(look, own, heading)
        more, steps = of_code.building_zones(look, own, profile)
        for face, its in stood.parapets:
            if its == k:
                side = heading.sides.get(face.surface, facing(face.normal, np.array(heading.vector)))
                more += of_code.parapet_zones(face, look, own, profile, side)
        inside, of_inside = _internal(own, profile, look, more)
        e, of_e = of_site.eccentricity(own, building.h, look.B, look.L)
        met.append(Met(look, inside, of_inside, e, of_e, tuple(dict.fromkeys(steps))))
        zones += [replace(z, building=k) for z in more]
    for roof in stood.free:
        more, steps, found = of_free.free_roof_zones(roof, heading, rule, profile)
        zones, shared, findings = [*zones, *more], [*shared, *steps], [*findings, *found]
    out_of_plane = rule.slice is not None and abs(heading.vector[0]) < SQUARE
    unclad, steps, found = (
        ((), [], []) if out_of_plane else _unclad(project, surfaces, rule, heading, profile, stood.ground)
    )
    told = tuple(dict.fromkeys([*shared, *steps]))
    if rule.slice is not None:
        zones = [within_strip(z, rule.slice) for z in zones]
    return Blown(heading, rule, profile, stood.ground, tuple(met), tuple(zones), unclad, told), [*findings, *found]


def _lone(building: Building) -> list[Finding]:
    """Roofs with nothing below."""
    lone = unwalled(building.roofs, building.footprint)
    if not lone:
        return []
    of = "the walls of `exterior`" if building.name == "building" else f"the walls of {building.name}"
    message = f"{listed(lone)} lie{'s' if len(lone) == 1 else ''} outside what {of} enclose"
    return [Finding("warning", "wind-shape", f"{message}: taken as a roof over the inside, without overhangs",
                    "add the walls below, or name it in `free_roofs`", building.rule.place)]  # fmt: skip


def _no_frequency(heading: Heading) -> Finding:
    message = f"the frame's lowest frequency along the wind {heading.name} is not known"
    remedy = "state n_1; or see that the frame stands, and that `mass` names cases with loads on what sways"
    return Finding("error", "wind-frequency", message, remedy, heading.place)


Internal = tuple[tuple[float, float], tuple[tuple[Step, ...], tuple[Step, ...]]]


def _internal(rule: WindRule, profile: Profile, met: Seen, zones: Sequence[Zone]) -> Internal:
    """The internal pressures of positive and negative sign at full wind [N/m2], with their steps."""
    if rule.is_open:
        return (0.0, 0.0), ((), ())
    if rule.code == WindCode.EN:
        return en_inside.internal(rule, profile, met, zones)
    return asce_building.internal(rule, profile, met.building)


def _assumed(rule: WindRule, buildings: Sequence[Building]) -> list[Finding]:
    """What was taken for the inside where nothing is stated about it."""
    silent = [
        b for b in buildings
        if b.rule.enclosure is None and not b.rule.openings and not {"GC_pi", "c_pi+"} & set(b.rule.stated)
    ]  # fmt: skip
    if not silent:
        return []
    out = []
    for unclosed, taken in ((False, "as enclosed, (GC_pi) = 0.18"), (True, "as partially enclosed, (GC_pi) = 0.55")):
        if rule.code == WindCode.EN:
            taken = "internal pressures of +0.2 and -0.3 q_p"
        own = [b.called for b in silent if b.is_unclosed == unclosed]
        if own:
            message = f"the openings of {listed(own)} are not stated: taken {taken}"
            out.append(Finding("note", "assumed", message, "state `enclosure`, or `openings` by surface", rule.place))
    return out


def _height_limits(
    rule: WindRule, buildings: Sequence[Building], free: Sequence[Roof], blown: Sequence[Blown]
) -> list[Finding]:
    """Heights beyond what the code's profile is given for."""
    top = max([*(b.top for b in buildings), *(r.ridge for r in free),
               *(float(r.z.max(initial=0.0)) for b in blown for r in b.unclad)], default=0.0)  # fmt: skip
    limit = en_site.Z_MAX
    if rule.code != WindCode.EN:
        limit = min([asce_site.highest(rule.code, e) for e in {rule.roughness, *(b.rule.roughness for b in blown)}])
    if top <= limit:
        return []
    clause = "EN 1991-1-4, 4.3.2" if rule.code == WindCode.EN else "ASCE 7, table 26.10-1"
    message = f"something stands {top:.4g} m above the ground; the profile is given up to {limit:.4g} m ({clause})"
    return [Finding("warning", "wind-limits", message, "find the wind up there by other means", rule.place)]


def _unclad(
    project: Project, surfaces: Surfaces, rule: WindRule, heading: Heading, profile: Profile, ground: float
) -> tuple[tuple[UncladRows, ...], list[tuple[Step, ...]], list[Finding]]:
    """Line loads of one direction on members that stand in the wind by themselves."""
    out, findings = [], []
    if not heading.unclad:
        return (), [], []
    every = np.concatenate([np.array(b.members, np.intp) for b in heading.unclad])
    heights = project.xyz[project.ends[every], 2] - ground if len(every) else np.zeros(1)
    along, left = axes_of(heading)
    reach = project.xyz[project.ends[every].ravel(), :2] @ left
    deep = project.xyz[project.ends[every].ravel(), :2] @ along
    h, B, L = max(float(heights.max()), 0.1), max(float(np.ptp(reach)), 0.1), max(float(np.ptp(deep)), 0.1)
    wide = max(B, L)
    if rule.gust == "" and h > SLENDER * wide:
        message = (
            f"what is unclad is {h:.4g} m high and {wide:.4g} m wide: it may be flexible, and its factor for gusts "
        )
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
    for unclad in heading.unclad:
        twice = [m for m in unclad.members if m in taken]
        if twice:
            names = listed([project.members[m].name for m in twice])
            message = f"{names} would carry the wind {heading.name} twice: by {taken[twice[0]]} and by {unclad.text}"
            findings.append(Finding("error", "wind-twice", message, "leave them out of one with `!`", unclad.place))
        taken |= dict.fromkeys(unclad.members, unclad.text)
        findings += _in_walls(project, surfaces, rule, unclad.members, unclad.text, heading)
        rows, unknown = unclad_rows(project, unclad, wind, rule, profile, ground, gust)
        if unknown:
            names = listed([project.members[m].name for m in unknown])
            message = f"the section of {names} has no outline: its width to the wind is not known"
            findings.append(Finding("error", "wind-width", message, "state `width` beside C_f", unclad.place))
        if rows is not None and rows.solidity is None and unclad.tower is not None:
            message = f"the tower {unclad.text} has no face across the wind {heading.name}: its solidity is not found"
            findings.append(
                Finding("error", "wind-frame", message, "state that of one face beside `tower`", unclad.place)
            )
        elif rows is not None and rows.solidity is not None and unclad.C_f is None and rule.code == WindCode.EN:
            message = (
                f"the frame {unclad.text} has a solidity of {rows.solidity:.3g} to the wind {heading.name}: its c_f,0 "
            )
            message += "is read at it, from figure 7.33, 7.34 or 7.35 (EN 1991-1-4, 7.11)"
            remedy = "state C_f beside `solidity`: c_f,0 times psi_lambda"
            findings.append(Finding("error", "wind-frame", message, remedy, unclad.place))
        elif (
            rows is not None
            and unclad.C_f is None
            and unclad.tower is None
            and (rows.solidity or 0.0) > MOST_SOLID + 1e-9
        ):
            message = (
                f"the frame {unclad.text} has a solidity of {rows.solidity:.3g} to the wind {heading.name}: beyond "
            )
            message += "0.7 it is a solid sign (ASCE 7, 29.3.1, figure 29.4-2)"
            remedy = "state C_f beside `solidity`, from figure 29.3-1"
            findings.append(Finding("error", "wind-frame", message, remedy, unclad.place))
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
