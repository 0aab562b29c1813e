"""What was decided in turning actions into loads: the building of the wind, its enclosure, travel one way, areas."""

from __future__ import annotations

from collections.abc import Iterator

from ..model.decisions import Decision
from ..model.project import Project
from ..model.reduction import Reduction
from ..model.traffic import Vehicle
from ..model.words import Heading, Stance, WindCode
from .wind.cases.worked_out import Wind
from .wind.codes.asce_building import enclosure_of


def wind_decisions(wind: Wind | None) -> Iterator[Decision]:
    """Decisions on the building that the wind meets."""
    if wind is None:
        return
    rule, building = wind.rule, wind.building
    if rule.ground is None:
        yield Decision(
            "level of the ground",
            (),
            f"{wind.ground:.4g} m",
            "lowest support or exterior point",
            "a level",
            "wind.ground",
            Stance.USUAL,
            rule.place,
        )
    if building is None:
        return
    if rule.enclosure is None and rule.code != WindCode.EN:
        word, why = enclosure_of(rule, building)
        guess = Stance.USUAL if rule.openings else Stance.GUESS
        yield Decision(
            "enclosure",
            (),
            str(word),
            f"26.2: {why}",
            "partially enclosed, partially open, open",
            "wind.enclosure, or wind.openings",
            guess,
            rule.place,
            "enclosure-assumed",
        )
    if rule.code == WindCode.EN and not rule.openings and "c_pi" not in rule.stated:
        yield Decision(
            "inside pressure",
            (),
            "c_pi of +0.2 and -0.3",
            "7.2.9(6), note 2: no openings are stated",
            "by the openings",
            "wind.openings, or wind.c_pi",
            Stance.SAFE,
            rule.place,
        )
    if "h" not in rule.stated:
        yield Decision(
            "height h",
            (),
            f"{building.h:.4g} m",
            "mean roof height" if rule.code != WindCode.EN else "of the roofs found",
            "a height",
            "wind.h",
            Stance.USUAL,
            rule.place,
        )
    for i, roof in enumerate(building.roofs, start=1):
        yield Decision(
            f"form of roof {i}",
            tuple(roof.names),
            f"{roof.form}, {roof.slope:.3g} degrees",
            "from its surfaces",
            "",
            "surfaces",
            Stance.USUAL,
            rule.place,
        )
    for blown in wind.blown:
        seen, heading = blown.seen, blown.heading
        if seen is not None and heading.B is None and heading.L is None:
            yield Decision(
                f"plan as wind {heading.name} meets it",
                (),
                f"B = {seen.B:.4g} m, L = {seen.L:.4g} m",
                "extent of the exterior surfaces",
                "B and L stated",
                f"wind.directions.{heading.name}.B",
                Stance.USUAL,
                heading.place,
            )


def traffic_decisions(project: Project) -> Iterator[Decision]:
    """Decisions on moving cases."""
    for t in project.traffic:
        uneven = [v.name for v in t.vehicles if not _alike_both_ways(v)]
        if t.heading == Heading.FORWARD and uneven:
            yield Decision(
                "direction of travel",
                (t.case,),
                "forward only",
                f"as nothing else is said; {', '.join(dict.fromkeys(uneven))} is not alike from front and back",
                "both ways",
                "traffic.heading",
                Stance.GUESS,
                t.place,
                "one-way-travel",
            )


def _alike_both_ways(v: Vehicle) -> bool:
    axles = [tuple(a.wheels) for a in v.axles]
    gaps = [tuple(a.gap) for a in v.axles[1:]]
    return axles == axles[::-1] and gaps == gaps[::-1] and not v.along and len(v.lane_on) == 1


def reduction_decisions(project: Project, reduction: Reduction) -> Iterator[Decision]:
    """Decisions on reduced live loads."""
    rule = project.reduction
    if rule is None:
        return
    for one in reduction.each:
        said = {s.symbol: s.value for s in one.steps}
        factor = f"K_LL = {said['K_LL']:g}, " if "K_LL" in said else ""
        member, case = project.members[one.member], project.cases[one.case]
        yield Decision(
            "reduced live load",
            (member.name, case.name),
            f"{factor}area {one.area:.4g} m2, {one.floors} floors: factor {one.factor:.3g}",
            f"{rule.code}, taken down by geometry",
            "K_LL stated, or none",
            "reduction.K_LL, reduction.without",
            Stance.USUAL,
            rule.place,
        )
