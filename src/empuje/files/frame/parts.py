"""Materials and sections of a model file: the model's own, then those built in."""

from __future__ import annotations

import math
from dataclasses import dataclass, field, replace

import numpy as np

from ...core.catalogue.catalogue import find_material, find_section, material_names, section_names
from ...core.catalogue.fibres import with_first_moments
from ...core.catalogue.shapes import SHAPES, section, why_impossible
from ...core.model.findings import did_you_mean
from ...core.model.frame import Fibre, Material, Section
from ...core.model.moved import mirror_image
from ...core.model.words import Made, Stress
from ..base.entry import Entry
from .keys import PROPERTIES

SHEAR = ("S_y", "t_y", "S_z", "t_z")
LARGEST_DIMENSION = 10.0
"""A section's dimension beyond this [m] is most likely a slip of units."""


@dataclass
class Parts:
    """What the model file itself defines; None where a definition could not be read.

    `only_bars` names sections given by their area alone: they can carry axial force only; `asked`: what families named.
    """

    materials: dict[str, Material | None] = field(default_factory=dict)
    sections: dict[str, Section | None] = field(default_factory=dict)
    only_bars: set[str] = field(default_factory=set)
    asked: set[tuple[str, str]] = field(default_factory=set)

    def material(self, entry: Entry, name: str) -> Material | None:
        """The material of that name, or a finding on the entry that asked for it."""
        self.asked.add(("materials", name))
        if name in self.materials:
            return self.materials[name]
        found = find_material(name)
        if found is None:
            remedy = did_you_mean(name, [*self.materials, *material_names()])
            entry.error("unknown-name", f"{entry.what}: there is no material {name}", remedy, "material")
        return found

    def section(self, entry: Entry, name: str) -> Section | None:
        """The section of that name, or a finding on the entry that asked for it."""
        self.asked.add(("sections", name))
        if name in self.sections:
            return self.sections[name]
        found = find_section(name)
        if found is None:
            remedy = did_you_mean(name, [*self.sections, *section_names()])
            entry.error("unknown-name", f"{entry.what}: there is no section {name}", remedy, "section")
        return found

    def say_unused(self, model: Entry) -> None:
        """Materials and sections of the model that no family names."""
        for kind, own in (("materials", self.materials), ("sections", self.sections)):
            for name in own:
                if (kind, name) not in self.asked:
                    words = f"no family has the {kind[:-1]} {name}"
                    model.notes.say("warning", "unused-part", (kind, name), words, "name it, or take it out",
                                    about=(name,))  # fmt: skip


def read_parts(model: Entry, plane: bool) -> Parts:
    """The [materials] and [sections] of the model file."""
    parts = Parts()
    for name, entry in model.child("materials").children():
        entry.known()
        values = [
            entry.quantity("E"), entry.quantity("G", _shear_default(entry)), entry.quantity("density"),
            entry.quantity("expansion"),
        ]  # fmt: skip
        if values[0] is not None and values[0] <= 0:
            entry.error("bad-quantity", f"{entry.what}.E must be positive", "", "E")
        known = None if None in values else Material(name, *values)  # type: ignore[arg-type]
        if known is not None:
            known = replace(known, strength=_strength(entry), grade=entry.text("grade") or "")
        parts.materials[name] = known
    for name, entry in model.child("sections").children():
        if entry.has("mirror_of"):
            parts.sections[name] = _mirrored(name, entry, parts)
            continue
        built = _shaped(name, entry) if entry.has("shape") else _given(name, entry, plane, parts)
        parts.sections[name] = replace(built, fibres=_fibres(entry, built)) if built is not None else None
    return parts


def _mirrored(name: str, entry: Entry, parts: Parts) -> Section | None:
    """The mirror image of a section that stands before it, or is built in."""
    entry.known(["mirror_of"])
    other = entry.text("mirror_of")
    found = parts.section(entry, other) if other is not None else None
    return replace(mirror_image(found), name=name) if found is not None else None


def _strength(entry: Entry) -> tuple[tuple[float, float, float], ...]:
    """The strength of a steel of the model's own, which holds at any thickness."""
    if not entry.has("fy"):
        if entry.has("fu"):
            entry.error("missing-key", f"{entry.what} has fu and no fy", "add fy = ...", "fu")
        return ()
    fy = entry.quantity("fy")
    fu = entry.quantity("fu") if entry.has("fu") else fy
    if fy is None or fu is None:
        return ()
    if not 0 < fy <= fu:
        entry.error("bad-quantity", f"{entry.what}: fy is positive, and fu not below it", "", "fy")
        return ()
    return ((math.inf, fy, fu),)


def _fibres(entry: Entry, section: Section) -> tuple[Fibre, ...]:
    """The section's named fibres; first moments and widths from its outline, or as given."""
    out = []
    for name, fibre in entry.child("fibres").children():
        fibre.known(["y", "z", "led_by"] if section.outline else None)
        led_by = fibre.word("led_by", Stress) if fibre.has("led_by") else None
        y, z = (fibre.quantity(key) for key in ("y", "z"))
        if y is None or z is None:
            continue
        if section.outline:
            out.append(replace(with_first_moments(section, name, y, z), led_by=led_by))
            points = np.vstack(section.outline)
            if ((y, z) < points.min(axis=0) - 1e-6).any() or ((y, z) > points.max(axis=0) + 1e-6).any():
                fibre.error("bad-quantity", f"fibre {name} lies outside its section",
                            "y and z count from the centroid, in the section's axes")  # fmt: skip
            continue
        given = {key: fibre.quantity(key) for key in SHEAR if fibre.has(key)}
        if None not in given.values():
            out.append(Fibre(name, y, z, led_by=led_by, **given))  # type: ignore[arg-type]
    return tuple(out)


def _shear_default(entry: Entry) -> float | None:
    """Without G, that of Poisson's ratio 0.3."""
    if entry.has("G") or not entry.has("E"):
        return None if entry.has("G") else 0.0
    try:
        return entry.notes.units.read(entry.data["E"], "stress") / 2.6
    except ValueError:
        return 0.0


def _shaped(name: str, entry: Entry) -> Section | None:
    shape = entry.text("shape")
    if shape is None:
        return None
    needed, optional, _ = SHAPES[shape]
    entry.known(["shape", "fibres", "made", *needed, *optional])
    dimensions: dict[str, float] = {}
    complete = True
    for key in needed + optional:
        if key in optional and not entry.has(key):
            continue
        value = entry.quantity(key)
        complete &= value is not None
        if value is not None:
            dimensions[key] = value
            if value > LARGEST_DIMENSION:
                message = f"{entry.what}.{key} is {value:g} m"
                entry.notes.say("warning", "odd-size", (*entry.path, key), message, "check its unit")
    if not complete:
        return None
    wrong = why_impossible(shape, dimensions)
    if wrong:
        entry.error("bad-section", f"section {name} cannot be built: {wrong}", "check its dimensions and their units")
        return None
    made = entry.word("made", Made) if entry.has("made") else None
    return section(name, shape, dimensions, made)


def _given(name: str, entry: Entry, plane: bool, parts: Parts) -> Section | None:
    """A section by its properties. The area alone makes a bar; a plane frame can do without Iz and J."""
    entry.known(["shape", "fibres", *PROPERTIES])
    values = {k: entry.quantity(k) for k in PROPERTIES if entry.has(k) or k == "A"}
    if None in values.values():
        return None
    wrong = [k for k, v in values.items() if v is not None and v <= 0]
    if wrong:
        entry.error("bad-quantity", f"{entry.what}.{wrong[0]} must be positive", "", wrong[0])
        return None
    needed = ["Iy"] if plane else ["Iy", "Iz", "J"]
    missing = [k for k in needed if k not in values]
    if len(missing) == len(needed):
        parts.only_bars.add(name)
    elif missing:
        entry.error("missing-key", f"section {name} has no {', '.join(missing)}",
                    "give them too, or only A for a bar")  # fmt: skip
        return None
    # A bar bends between its ends under its own cross loads only: like a solid round bar, where nothing is said.
    round_bar = values["A"] ** 2 / (4 * math.pi)  # type: ignore[operator]
    for key, share in (("Iy", 1), ("Iz", 1), ("J", 2)):
        values.setdefault(key, share * round_bar)
    return Section(name, **values)  # type: ignore[arg-type]
