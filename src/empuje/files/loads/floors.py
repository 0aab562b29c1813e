"""Floor build-ups of a model file: what a floor weighs and carries, and to which cases that goes.

[floors.mezz]
dead = { case = "G", layers = { slab = { thickness = "12 cm", density = "25 kN/m3" }, screed = "1.1 kN/m2" } }
live = { case = "Q", area = "5 kN/m2", use = "storage" }
"""

from __future__ import annotations

from dataclasses import dataclass, replace

from ...core.model.cases import Case
from ...core.model.findings import did_you_mean
from ...core.model.loads import Step
from ...core.model.project import GRAVITY
from ...core.model.surfaces import AreaLoad, SurfaceLoad
from ...core.model.words import Stage
from ..base.directions import DIRECTIONS
from ..base.entry import Entry, shown
from ..frame.surfaces import Grounds
from .keys import LAYER

PURPOSES: dict[str, tuple[str, ...]] = {
    "dead": ("dead",), "live": ("live",), "partitions": ("live", "dead"), "roof_live": ("roof live",),
    "construction_dead": ("dead", "construction"), "construction_live": ("live", "construction"), "mass": (),
}  # fmt: skip
"""What a floor may state, and the actions of the case it goes to; none: any."""
NOT_MORE_THAN = {"construction_dead": "dead", "construction_live": "live"}
STAGES = {"construction_dead": Stage.CONSTRUCTION, "construction_live": Stage.CONSTRUCTION, "mass": Stage.MASS}
IN_PLAN = ("live", "partitions", "roof_live", "construction_live")
"""What is stated per area in plan; the rest per area of the surface itself."""
REDUCIBLE = ("live", "roof_live")


@dataclass(frozen=True)
class Part:
    """One purpose of a floor: its case, load per area [N/m2], the steps that led to it, and where it is written."""

    purpose: str
    case: str
    value: float
    steps: tuple[Step, ...]
    entry: Entry


def read_floors(model: Entry, cases: list[Case], grounds: Grounds) -> tuple[list[SurfaceLoad], list[Case]]:
    """What floors bring to the surfaces that name them, and the cases with the uses that floors give them."""
    floors = model.child("floors")
    known: dict[str, list[Part]] = {}
    for name, entry in floors.children():
        known[name], cases = _floor(entry, cases)
    out: list[SurfaceLoad] = []
    named = set()
    for i, surface in enumerate(grounds.surfaces):
        if not surface.floor:
            continue
        named.add(surface.floor)
        if surface.floor not in floors.data:
            model.error("unknown-name", f"surface {surface.name}: there is no floor {surface.floor}",
                        did_you_mean(surface.floor, floors.data), "surfaces", surface.name, "floor")  # fmt: skip
            continue
        for part in known.get(surface.floor, []):
            words = part.purpose.replace("_", " ")
            text = f"{words} of floor {surface.floor} on {surface.name}"
            here = surface.corners[0]
            out.append(
                AreaLoad(part.case, i, (part.value,) * 2, (here, here), DIRECTIONS["down"], part.purpose in IN_PLAN, (),
                         text, part.entry.place, part.steps, part.purpose in REDUCIBLE, of_floor=True)
            )  # fmt: skip
    for name in sorted(set(floors.data) - named):
        model.notes.say("warning", "unused-floor", ("floors", name), f"no surface has the floor {name}",
                        'name it in a surface: floor = "..."')  # fmt: skip
    return out, cases


def _floor(entry: Entry, cases: list[Case]) -> tuple[list[Part], list[Case]]:
    entry.known()
    parts: list[Part] = []
    for purpose in PURPOSES:
        if not entry.has(purpose):
            continue
        part_entry = entry.child(purpose)
        if not isinstance(entry.data[purpose], dict):
            continue
        part, cases = _part(purpose, part_entry, cases)
        if part is not None:
            parts.append(part)
    value = {p.purpose: p.value for p in parts}
    stages = {c.name: c.stage for c in cases}
    for part in parts:
        if (
            part.purpose == "dead"
            and "construction_dead" in value
            and stages[part.case] not in (Stage.FINAL, Stage.MASS)
        ):
            entry.error("wrong-case", f"{entry.what} would be twice in combinations of construction: its "
                        f"construction_dead, and its dead in case {part.case}",
                        f'give case {part.case} stage = "final", and put what is there at once into another case',
                        "dead")  # fmt: skip
    for less, more in NOT_MORE_THAN.items():
        if less in value and value[less] > value.get(more, 0.0) * (1 + 1e-9):
            told = f"{value[less] / 1e3:.4g} kN/m2 of {less.replace('_', ' ')}"
            entry.error("bad-floor", f"{entry.what} has {told}, but {value.get(more, 0.0) / 1e3:.4g} kN/m2 of {more}",
                        "what is there while it is built is part of what is there later", less)  # fmt: skip
    return parts, cases


def _part(purpose: str, entry: Entry, cases: list[Case]) -> tuple[Part | None, list[Case]]:
    keys = ["case", "area", *(["layers"] if purpose == "dead" else []), *(["use"] if purpose == "live" else [])]
    entry.known(keys)
    name = entry.text("case")
    found = next((c for c in cases if c.name == name), None)
    if name is not None and found is None:
        remedy = did_you_mean(name, [c.name for c in cases])
        entry.error("unknown-name", f"{entry.what}: there is no case {name}", remedy, "case")
    if found is not None:
        _suits(purpose, entry, found)
        if entry.has("use"):
            cases = _with_use(entry, found, cases)
    steps, layers = _layers(entry)
    value = entry.quantity("area", 0.0 if entry.has("layers") else None)
    if found is None or value is None or layers is None:
        return None, cases
    if value + layers < 0:
        entry.error("bad-floor", f"{entry.what} is negative", "loads of floors act down", "area")
        return None, cases
    if steps:
        if value:
            steps.append(Step("g", "besides the layers", value, "N/m2"))
        steps.append(Step("g_k", "all layers", value + layers, "N/m2"))
    return Part(purpose, found.name, value + layers, tuple(steps), entry), cases


def _suits(purpose: str, entry: Entry, case: Case) -> None:
    """The case has to be of the purpose's action and stage."""
    actions = PURPOSES[purpose]
    action = "notional" if case.notional else case.action
    if actions and action not in actions:
        entry.error("wrong-case", f"{entry.what} goes to case {case.name}, which is {action}",
                    f"name a case that is {' or '.join(actions)}", "case")  # fmt: skip
    stage = STAGES.get(purpose, Stage.ANY)
    if stage and case.stage != stage:
        entry.error("wrong-case", f"{entry.what} goes to case {case.name}, which joins other combinations too",
                    f'give that case stage = "{stage}"', "case")  # fmt: skip


def _with_use(entry: Entry, case: Case, cases: list[Case]) -> list[Case]:
    """The occupancy of the floor becomes that of its case."""
    use = entry.text("use")
    if use is None:
        return cases
    if case.use and case.use != use:
        entry.error("wrong-case", f"{entry.what} is for {use}, but case {case.name} for {case.use}",
                    "make a case for each use", "use")  # fmt: skip
        return cases
    return [replace(c, use=use) if c.name == case.name else c for c in cases]


def _layers(entry: Entry) -> tuple[list[Step], float | None]:
    """Each layer as a weight per area, or by thickness and density."""
    steps: list[Step] = []
    total = 0.0
    layers = entry.child("layers")
    for name, value in layers.data.items():
        if isinstance(value, dict):
            layer = layers.inner(value, LAYER, name).known()
            t, rho = layer.quantity("thickness"), layer.quantity("density")
            g = None if t is None or rho is None else t * rho * GRAVITY
            formula = f"{name}: {shown(value.get('thickness'))} of {shown(value.get('density'))}"
        else:
            g, formula = layers.as_quantity(value, name), name
        if g is None:
            return steps, None
        if g < 0:
            layers.error("bad-floor", f"layer {name} has a negative weight", "take the sign out", name)
        steps.append(Step("g", formula, g, "N/m2"))
        total += g
    return steps, total
