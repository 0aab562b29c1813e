"""What [wind] states of parts: single buildings, components, rooftops, the slice that a plane frame is."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ...core.model.findings import did_you_mean, listed
from ...core.model.wind import BuildingRule, ComponentRule, Heading, RooftopRule, Slice
from ...core.model.words import Enclosure, RoofForm
from ..base.entry import Entry, shown
from ..base.selectors import Names
from ..frame.surfaces import Grounds, surfaces_of
from .directions import of_other
from .numbers import read_numbers

OF_BUILDING = {False: ("GC_pi",), True: ("c_pi", "h_p", "c_fr")}


@dataclass(frozen=True)
class OfMembers(Grounds):
    """Members of a plane frame, chosen as surfaces are: drawn out across the plane they are walls and roofs."""

    names: Names

    def meant(self, patterns: Sequence[str]) -> tuple[list[int], list[str]]:
        """Members by name, family or glob, and the patterns that match none."""
        return self.names.select_members(list(patterns))

    def called(self, i: int) -> str:
        """The name of one."""
        return self.names.members[i]


NOT_IN_A_PLANE = ("parapets", "openings", "buildings", "components", "rooftop")


def read_slice(entry: Entry) -> Slice | None:
    """What a plane frame is of its building; None where that cannot be read."""
    for key in NOT_IN_A_PLANE:
        if entry.has(key):
            remedy = "state `enclosure`, GC_pi or c_pi" if key == "openings" else 'say space = "3D"'
            entry.error("wrong-key", f"{entry.what}.{key}: a plane model has no surfaces", remedy, key)
    if not entry.has("slice"):
        entry.error("missing-key", f"{entry.what} of a plane model needs the building that the frame is a slice of",
                    'add slice = { length = "30 m", place = "12 m", width = "6 m" }', "slice")  # fmt: skip
        return None
    own = entry.child("slice").known()
    length, place, width = (own.quantity(k) for k in ("length", "place", "width"))
    if length is None or place is None or width is None:
        return None
    if length <= 0 or width <= 0 or not 0 <= place <= length:
        own.error("bad-quantity", f"{own.what} has length = {length:g} m, place = {place:g} m, width = {width:g} m",
                  "write positive lengths, and a place within the building's length")  # fmt: skip
        return None
    return Slice(length, place, width)


def read_components(entry: Entry, names: Names, is_en: bool) -> tuple[ComponentRule, ...]:
    """Components and cladding."""
    table = entry.child("components")
    out: list[ComponentRule] = []
    taken: dict[int, str] = {}
    for selector, own in table.children("write { } or { span = 6 }"):
        own.known()
        members, missed = names.select_members([selector])
        names.report(table, missed, selector, f"{table.what}: no family or member")
        sizes = {k: own.quantity(k) if own.has(k) else None for k in ("area", "span", "width")}
        for key, size in sizes.items():
            if size is not None and size <= 0:
                own.error("bad-quantity", f"{own.what}.{key} = {shown(own.data[key])}", "write a positive value", key)
                sizes[key] = None
        twice = [m for m in members if m in taken]
        if twice:
            words = f"{listed([names.members[m] for m in twice])} would be components twice: by {taken[twice[0]]} and "
            table.error("wrong-on", words + selector, "leave them out of one with `!`", selector)
        taken |= dict.fromkeys(members, selector)
        GC_p = _two_signs(own, is_en) if own.has("GC_p") else None
        if members:
            out.append(ComponentRule(tuple(members), sizes["area"], sizes["span"], sizes["width"], GC_p, own.place,
                                     selector))  # fmt: skip
    return tuple(out)


def read_rooftop(entry: Entry, names: Names, headings: Sequence[Heading], built: bool) -> tuple[RooftopRule, ...]:
    """Equipment and structures on roofs."""
    table = entry.child("rooftop")
    out: list[RooftopRule] = []
    places = {h.name: i for i, h in enumerate(headings)}
    if table.data and not built:
        entry.error("wrong-on", f"{entry.what}.rooftop: there is no building below", "name its walls and roofs in "
                    "`exterior`", "rooftop")  # fmt: skip
    for name, own in table.children('write { at = ["N1"], A_f = "3 m2" }'):
        own.known()
        nodes, missed = names.select_nodes(own.texts("at") or [])
        names.report(own, missed, "at", f"{own.what}.at: no node")
        A_r = own.quantity("A_r") or 0.0
        seen: dict[int, float] = {}
        written = own.data.get("A_f")
        if written is None:
            own.missing("A_f")
        for word, number in written.items() if isinstance(written, dict) else ((None, written),):
            area = own.as_quantity(number, "A_f") if number is not None else None
            if word is not None and word not in places:
                own.error(
                    "unknown-name", f"{own.what}.A_f: there is no direction {word}", did_you_mean(word, places), "A_f"
                )
            elif area is not None and area <= 0:
                own.error("bad-quantity", f"{own.what}.A_f = {shown(number)}", "write an area", "A_f")
            elif area is not None:
                seen[places[word] if word is not None else -1] = area
        if isinstance(written, dict) and set(places) - set(written):
            own.error("missing-key", f"{own.what}.A_f leaves out {listed(sorted(set(places) - set(written)))}",
                      "state the area for every direction", "A_f")  # fmt: skip
        if A_r < 0:
            own.error("bad-quantity", f"{own.what}.A_r = {shown(own.data['A_r'])}", "write an area", "A_r")
        if nodes and seen and built:
            out.append(RooftopRule(name, tuple(nodes), seen, A_r, own.place))
    return tuple(out)


def _two_signs(own: Entry, is_en: bool) -> tuple[float, float] | None:
    value = own.data["GC_p"]
    numbers = [own.as_quantity(v, "GC_p", kind="number") for v in value] if isinstance(value, list) else []
    if is_en:
        own.error("wrong-key", f"{own.what}.GC_p is of ASCE 7", "take it out", "GC_p")
        return None
    if len(numbers) != 2 or None in numbers or not -10 <= numbers[1] <= 0 <= numbers[0] <= 10:  # type: ignore[operator]
        remedy = "write a positive and a negative one: [0.7, -2.0]"
        own.error("bad-quantity", f"{own.what}.GC_p = {shown(value)}", remedy, "GC_p")
        return None
    return float(numbers[0]), float(numbers[1])  # type: ignore[arg-type]


def read_buildings(entry: Entry, grounds: Grounds, exterior: Sequence[int], is_en: bool) -> tuple[BuildingRule, ...]:
    """What is stated of single buildings."""
    table = entry.child("buildings")
    out: list[BuildingRule] = []
    taken: dict[int, str] = {}
    for name, own in table.children('write { exterior = ["hall/*"] }'):
        if name == "building" or name.startswith("building "):
            table.error("bad-name", f"a building cannot be called {shown(name)}", "those that are found are called so",
                        name)  # fmt: skip
            continue
        own.known()
        of_other(own, is_en, OF_BUILDING)
        chosen = surfaces_of(own, "exterior", grounds) if own.has("exterior") else []
        if not own.has("exterior"):
            own.missing("exterior")
        foreign = [grounds.called(i) for i in chosen if i not in exterior]
        if foreign:
            are = "is" if len(foreign) == 1 else "are"
            message = f"{own.what}.exterior: {listed(foreign)} {are} not in `exterior` of [wind]"
            own.error("wrong-on", message, "add them there, or leave them out with `!`", "exterior")
        twice = [i for i in chosen if i in taken]
        if twice:
            names = listed([grounds.called(i) for i in twice])
            own.error("wrong-on", f"{names} would be of two buildings: {taken[twice[0]]} and {name}",
                      "leave them out of one with `!`", "exterior")  # fmt: skip
        taken |= dict.fromkeys(chosen, name)
        stated = read_numbers(own, ("h", "theta", *OF_BUILDING[is_en]))
        enclosure = own.word("enclosure", Enclosure) if own.has("enclosure") else None
        form = own.word("roof_form", RoofForm) if own.has("roof_form") else None
        if is_en and enclosure in (Enclosure.PARTIALLY_ENCLOSED, Enclosure.PARTIALLY_OPEN):
            own.error("wrong-key", f'{own.what}.enclosure = "{enclosure}" is a word of ASCE 7',
                      "state `openings` by surface, or c_pi", "enclosure")  # fmt: skip
        out.append(BuildingRule(name, tuple(chosen), stated, enclosure, table.place_of(name), form))
    return tuple(out)
