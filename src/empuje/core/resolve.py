"""What follows from a project, made once and handed on.

    Project -> geometry of surfaces -> wind -> plain loads -> combinations -> reduced live loads -> Resolved

>>> empty = Project("m.toml", "", False, ("kN", "m"), ("kN", "m", "mm", "MPa"), (), (), (), (), ())
>>> resolve(empty).results
()
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np

from .actions.plain import plain_loads
from .actions.surfaces.sources.surface_loads import Surfaces, surface_geometries
from .actions.torsion import accidental_torsion
from .actions.traffic.laid import Laid
from .actions.traffic.standings import lay_all, positioned, standing_loads, without_moving
from .actions.wind.blow import blow
from .actions.wind.cases.worked_out import Wind
from .combine.combinations import combine
from .combine.expand import Loads
from .findings.every import suspicious
from .findings.frame_checks import frame_findings
from .findings.plates import plate_errors
from .load_path.live_load_reduction import largest_down, reduce_live_loads
from .model.cases import Case, Combination
from .model.findings import Finding, has_errors, listed
from .model.loads import PlainLoads, gather
from .model.project import Project
from .model.words import How
from .resolved import Resolved
from .surfaces.mesh.joined import with_plates

if TYPE_CHECKING:
    from .actions.snow.fall import Snow
    from .actions.snow.rain import Rain


def resolve(project: Project, found: Sequence[Finding] = (), more: Sequence[Combination] = (),
            finer: float = 1.0) -> Resolved:  # fmt: skip
    """All that follows from a project. `found` is what was found in reading it: with errors there, only what findings
    need is made. `more`: further combinations, of positions of traffic; `finer`: how many times as fine structural
    surfaces are cut as the project asks."""
    findings: list[Finding] = []
    surfaces: Surfaces = {}
    structural = any(s.plate is not None for s in project.surfaces)
    placed = (bool(project.nodes) or structural) and bool(np.isfinite(project.xyz).all())
    if placed:
        project, findings = with_plates(project, finer)
        surfaces, of_surfaces = surface_geometries(project)
        findings += of_surfaces
    whole, project = project, without_moving(project)
    wind, of_wind = blow(project, surfaces) if placed else (None, [])
    snow, rain, of_snow = _precipitation(project, surfaces) if placed else (None, None, [])
    alike = _alike(whole, wind, snow)
    if alike:
        whole, project = (replace(p, cases=_with_alike(p.cases, alike)) for p in (whole, project))
    known = Loads(largest_down(whole, surfaces))
    sound = not has_errors(found)
    combined = combine(whole, known, sound)
    softer = [_softer(whole, c) for c in combined.combinations]
    stood = positioned(whole, softer)
    known_names = {c.name for c in stood}
    combinations = (*stood, *(c for c in more if c.name not in known_names))
    loads = PlainLoads()
    laid: tuple[Laid, ...] = ()
    if placed:
        laid, of_traffic = lay_all(project, surfaces)
        of_codes = [found.loads for found in (wind, snow, rain) if found is not None]
        by_code = gather([*of_codes, standing_loads(project, laid)])
        loads, of_loads = plain_loads(project, surfaces, by_code)
        torsion, of_torsion = accidental_torsion(project, loads)
        loads = gather([loads, torsion]) if len(torsion.sources) else loads
        findings += [*of_wind, *of_snow, *_alike_told(project, alike), *of_traffic, *of_loads, *of_torsion]
    told = (
        *combined.told,
        *([DIRECT] if project.direct else []),
        *_positions_told(project, len(combined.combinations), len(stood)),
    )
    resolved = Resolved(project, combinations, loads, surfaces, told=told, wind=wind, snow=snow, rain=rain, laid=laid,
                        written=tuple(softer), with_moving=whole)  # fmt: skip
    of_combining = list(combined.findings)
    if project.reduction is not None and project.members and sound and not has_errors(combined.findings):
        of_combining += _not_reduced(resolved)
        reduction = reduce_live_loads(project, project.reduction, surfaces)
        resolved = replace(resolved, reduction=reduction)
    findings = [*of_combining, *frame_findings(resolved, findings), *plate_errors(resolved)]
    if sound and placed and not has_errors(findings):
        findings += suspicious(resolved)
    return replace(resolved, findings=tuple(findings))


def _precipitation(project: Project, surfaces: Surfaces) -> tuple[Snow | None, Rain | None, list[Finding]]:
    """Snow and rain of a project, where it states any."""
    if project.snow is None and project.rain is None:
        return None, None, []
    from .actions.snow.fall import fall
    from .actions.snow.rain import rain_on

    snow, of_snow = fall(project, surfaces)
    rain, of_rain = rain_on(project, surfaces)
    return snow, rain, [*of_snow, *of_rain]


def known_loads(resolved: Resolved) -> Loads:
    """What combining knows of the cases' loads."""
    return Loads(largest_down(resolved.project, resolved.surfaces))


def _alike(project: Project, wind: Wind | None, snow: Snow | None) -> dict[str, str]:
    """Cases of the wind and of the snow that are as others, unless something else is put in them."""
    alike = {**(wind.alike() if wind is not None and len(wind.pieces) else {}),
             **(snow.alike() if snow is not None else {})}  # fmt: skip
    loaded = {load.case for load in (*project.loads, *project.surface_loads)} | {
        c.name for c in project.cases if c.self_weight
    }
    return {name: like for name, like in alike.items() if not {name, like} & loaded}


def _with_alike(cases: Sequence[Case], alike: Mapping[str, str]) -> tuple[Case, ...]:
    return tuple(replace(c, like=alike[c.name]) if c.name in alike else c for c in cases)


def _alike_told(project: Project, alike: Mapping[str, str]) -> list[Finding]:
    """That combinations of codes take equal cases once."""
    out = []
    for rule, what, code in ((project.wind, "wind with the same pressures", "wind-alike"),
                             (project.snow, "snow with the same loads", "snow-alike")):  # fmt: skip
        names = {c.name for c in rule.cases} if rule is not None else set()
        own = {name: like for name, like in alike.items() if name in names}
        if own and rule is not None and project.combining.sets:
            words = listed([f"{name} = {like}" for name, like in own.items()], 4)
            message = f"cases of the {what} everywhere are combined once: {words}"
            out.append(Finding("note", code, message, "", rule.place, about=tuple(own)))
    return out


SOFTER = 0.8
DIRECT = (
    "direct analysis (AISC 360, C2.3): stiffness times 0.8, taken as loads times 1.25 and results divided by that; "
    "tau_b = 1, so that notional loads have to be 0.001 of the loads more where members bear over half of what "
    "they can yield"
)


def _softer(project: Project, combination: Combination) -> Combination:
    """With stiffness times 0.8 where its set asks for direct analysis: (0.8 K + G(N)) u = F is (K + G(1.25 N)) u =
    1.25 F, so that it is analysed at 1.25 times its loads and the forces divided by that."""
    if combination.set not in project.direct and "*" not in project.direct:
        return combination
    return replace(combination, second_order_at=combination.second_order_at / SOFTER)


def _positions_told(project: Project, before: int, after: int) -> list[str]:
    """That combinations stand for several, once for every position of what moves in them."""
    if after <= before:
        return []
    names = ", ".join(dict.fromkeys(project.traffic[s.traffic].case for s in project.standings))
    return [f"{names}: where results are no sums a combination stands once for each position, {after} in all"]


def _not_reduced(resolved: Resolved) -> list[Finding]:
    """Where a factor for each member cannot be, results being no sums."""
    project, rule = resolved.project, resolved.project.reduction
    assert rule is not None
    summed = sum(project.how(c) == How.SUMMED for c in resolved.combinations)
    if summed == len(resolved.combinations):
        return []
    some = "these" if summed else "all of its"
    what = "that are analysed as one or by second order" if summed else "are analysed as one or by second order and"
    message = f"{some} combinations {what} keep their full live loads"
    return [Finding("note", "not-reduced", message, "a factor for each member needs sums", rule.place)]
