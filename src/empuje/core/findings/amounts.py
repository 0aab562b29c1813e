"""Values that no building frame has: wrong units, and points that moved."""

from __future__ import annotations

from collections.abc import Iterator

from ..model.cases import CUSTOM, Case
from ..model.findings import Finding, Place, listed
from ..model.loads import LineLoad, NodeLoad, PointLoad, Settlement, Strain
from ..model.plausible import HEAVIEST, LIGHTEST, SMALLEST, SOFTEST, STIFFEST
from ..model.surfaces import AreaLoad, SurfaceForce, SurfaceLine
from ..resolved import Resolved
from .telling import warn

UNIT = "write its unit, or say in [plausible] what is intended"


def amounts(resolved: Resolved) -> list[Finding]:
    """Lengths, materials, loads, settlements and factors that are absurd."""
    project = resolved.project
    return [
        *_lengths(resolved),
        *_materials(resolved),
        *_loads(resolved),
        *_factors(resolved),
        *_weights(project.cases),
    ]


def _lengths(resolved: Resolved) -> Iterator[Finding]:
    project = resolved.project
    most = project.plausible.length
    for i in (project.lengths > most).nonzero()[0].tolist():
        m = project.members[i]
        message = f"{m.name} is {project.lengths[i]:,.6g} m long"
        yield warn(
            "implausible-length",
            message,
            UNIT,
            m.place,
            m.name,
        )


def _materials(resolved: Resolved) -> Iterator[Finding]:
    project = resolved.project
    used = {id(m.material): m for m in reversed(project.members)}
    heavy = [c.name for c in project.cases if c.self_weight]
    for m in reversed(used.values()):
        own = m.material
        if not SOFTEST <= own.E <= STIFFEST:
            yield warn(
                "implausible-stiffness",
                f"{own.name} has E = {own.E / 1e6:,.6g} MPa",
                'write its unit, such as "210 GPa"',
                m.place,
                own.name,
                m.family,
            )
        elif not own.E / 100 <= own.G <= own.E:
            yield warn(
                "implausible-stiffness",
                f"{own.name} has E = {own.E / 1e6:,.6g} MPa and G = {own.G / 1e6:,.6g} MPa",
                "G is E/2.6 for steel, E/16 for wood",
                m.place,
                own.name,
                m.family,
            )
        if own.density == 0 and heavy:
            yield warn(
                "no-density",
                f"{own.name} has no density: case {heavy[0]} has nothing of the weight of its members",
                "give it a density",
                m.place,
                own.name,
                m.family,
            )
        elif own.density and not LIGHTEST <= own.density <= HEAVIEST:
            yield warn(
                "implausible-weight",
                f"{own.name} weighs {own.density:,.6g} kg/m3",
                'such as "7850 kg/m3" or "25 kN/m3"',
                m.place,
                own.name,
                m.family,
            )


def _loads(resolved: Resolved) -> Iterator[Finding]:
    project, most = resolved.project, resolved.project.plausible

    def odd(value: float, limit: float, unit: str, text: str, case: str, place: Place) -> Iterator[Finding]:
        size = abs(value)
        if size > limit:
            yield warn(
                "implausible-load",
                f"case {case}: {text} is {value / 1e3:,.6g} k{unit}",
                UNIT,
                place,
                case,
            )
        elif 0 < size < SMALLEST:
            yield warn(
                "implausible-load",
                f"case {case}: {text} is only {value:.3g} {unit}",
                UNIT,
                place,
                case,
            )

    for load in project.loads:
        if isinstance(load, LineLoad):
            value = max((v for _, v in load.points), key=abs)
            yield from odd(value, most.line, "N/m", load.text, load.case, load.place)
        elif isinstance(load, PointLoad | NodeLoad):
            force = load.kind == "force"
            limit, unit = (most.force, "N") if force else (most.moment, "Nm")
            yield from odd(load.value, limit, unit, load.text, load.case, load.place)
        elif isinstance(load, Strain):
            if abs(load.temperature) > most.temperature:
                yield warn(
                    "implausible-temperature",
                    f"case {load.case}: {load.text} is {load.temperature:,.6g} K",
                    "give the change of temperature",
                    load.place,
                    load.case,
                )
        elif isinstance(load, Settlement) and max(map(abs, load.motion[:3])) > most.settlement:
            message = f"case {load.case}: {load.text} is {max(load.motion[:3], key=abs):,.6g} m"
            yield warn(
                "implausible-settlement",
                message,
                UNIT,
                load.place,
                load.case,
            )
    for one in project.surface_loads:
        if isinstance(one, AreaLoad):
            yield from odd(max(one.values, key=abs), most.pressure, "N/m2", one.text, one.case, one.place)
        elif isinstance(one, SurfaceLine):
            yield from odd(max(one.values, key=abs), most.line, "N/m", one.text, one.case, one.place)
        elif isinstance(one, SurfaceForce) and not one.turning:
            yield from odd(one.value, most.force, "N", one.text, one.case, one.place)


def _factors(resolved: Resolved) -> Iterator[Finding]:
    most = resolved.project.plausible.factor
    for c in resolved.combinations:
        if c.source != CUSTOM:
            continue
        large = [f"{f:g} {case}" for case, f in c.factors if abs(f) > most]
        if large:
            yield warn(
                "implausible-factor",
                f"combination {c.name} has {listed(large)}",
                "check the factor, or say in [plausible] what is intended",
                c.place,
                c.name,
            )


def _weights(cases: tuple[Case, ...]) -> Iterator[Finding]:
    whole = any(case.self_weight >= 0.5 for case in cases)
    for case in cases:
        f = case.self_weight
        if f < 0:
            words = "turns self-weight upward"
        elif f > 2:
            words = "multiplies self-weight by so much"
        elif 0 < f < 0.5 and not whole and case.weight_along[2] < 0:
            words = "takes only a part of self-weight"
        else:
            continue
        yield warn(
            "implausible-weight",
            f"case {case.name}: self_weight = {f:g} {words}",
            "it is a factor: 1 for the members' own weight, acting down",
            case.place,
            case.name,
        )
