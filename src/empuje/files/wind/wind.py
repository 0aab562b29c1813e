"""Wind as a model file states it, and the cases it makes.

[wind]
code       = "ASCE 7-22"
V          = "51 m/s"
exposure   = "C"
exterior   = ["wall-*", "roof-*"]
directions = { WX = "+x", WY = "+y" }
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import replace

from ...core.actions.wind.cases.variants import Kinds, cases_of, kept, suffix, title
from ...core.model.cases import Case
from ...core.model.findings import did_you_mean, listed
from ...core.model.wind import Heading, WindCase, WindRule
from ...core.model.words import Enclosure, Flow, Level, RoofForm, Upward, WindCode
from ..base.directions import DIRECTIONS
from ..base.entry import Entry, shown
from ..base.selectors import Names
from ..copies.copies import Copied
from ..frame.surfaces import Grounds, surfaces_of
from .directions import LEVEL, NOWHERE, read_headings, read_unclad
from .keys import COMMON, OF_ASCE, OF_EN
from .numbers import ANALYSED, NUMBERS, read_hill, read_numbers
from .parts import OfMembers, read_buildings, read_components, read_rooftop, read_slice

FASTEST = 120.0
"""A basic wind speed beyond this [m/s] is a slip of units."""


def read_wind(
    model: Entry, cases: Sequence[Case], names: Names, grounds: Grounds, plane: bool, copies: Sequence[Copied] = ()
) -> tuple[WindRule | None, list[Case]]:
    """What is stated about wind, and the cases with those that it makes."""
    if not model.has("wind") or not isinstance(model.data["wind"], dict):
        if model.has("wind"):
            model.child("wind")
        return None, list(cases)
    entry = model.child("wind")
    if plane:
        grounds = OfMembers((), names.member_index, (), grounds.book, names)
    elif entry.has("slice"):
        entry.error("wrong-key", f"{entry.what}.slice is of plane models", "take it out", "slice")
    code = entry.word("code", WindCode)
    if code is None:
        return None, list(cases)
    is_en = code == WindCode.EN
    _known(entry, is_en)
    V, V_service = _speeds(entry, is_en)
    roughness = entry.text("terrain" if is_en else "exposure")
    stated = read_numbers(entry, NUMBERS["EN" if is_en else "ASCE"])
    gust = _gust(entry, is_en, stated)
    cut = read_slice(entry) if plane else None
    chosen = {key: surfaces_of(entry, key, grounds) for key in ("exterior", "free_roofs", "parapets")}
    _apart(entry, chosen, grounds)
    say_copies_left(entry, chosen, grounds, copies, "no wind meets")
    openings = _openings(entry, grounds, chosen["exterior"])
    enclosure = entry.word("enclosure", Enclosure) if entry.has("enclosure") else None
    unclad = read_unclad(entry, names, is_en)
    analysed, massless = _analysed(model, entry)
    headings, variants = read_headings(entry, names, grounds, unclad, chosen, is_en)
    hill = read_hill(entry) if entry.has("hill") and not is_en else None
    _contradictions(entry, is_en, chosen, headings)
    if "e_R" in stated and gust != "flexible":
        entry.error("wrong-key", f"{entry.what}.e_R is of flexible buildings", 'write G = "flexible" with n_1, or '
                    "take it out", "e_R")  # fmt: skip
    if hill is not None and "K_zt" in stated:
        entry.error("wrong-key", f"{entry.what} has both K_zt and a hill", "state one of them", "K_zt")
    if not headings:
        return None, list(cases)
    # With a fault the cases are still known by name: one slip is one finding.
    known = (
        V is not None
        and roughness is not None
        and not massless
        and (cut is not None or not plane)
        and all(h.vector != NOWHERE for h in headings)
    )
    rule = WindRule(
        code, V or 0.0, roughness or "", entry.place, tuple(headings), (), tuple(chosen["exterior"]),
        tuple(chosen["free_roofs"]), tuple(chosen["parapets"]), openings=openings,
        enclosure=enclosure, flow=entry.word("flow", Flow) or Flow.CLEAR,
        upward=entry.word("profile", Upward) or Upward.LINEAR,
        ground=entry.quantity("ground") if entry.has("ground") else None, hill=hill, gust=gust, stated=stated,
        reduce_by_area=not is_en and entry.flag("reduce_by_area"), correlation=is_en and entry.flag("correlation"),
        returns=is_en and entry.flag("returns"), by_zones=is_en and entry.text("canopy") == "zones",
        customary=entry.notes.units.length in ("ft", "in"), known=known, analysed=analysed,
        V_service=V_service, buildings=read_buildings(entry, grounds, chosen["exterior"], is_en), slice=cut,
        roof_form=entry.word("roof_form", RoofForm) if entry.has("roof_form") else None,
        components=read_components(entry, names, is_en),
        rooftop=() if is_en else read_rooftop(entry, names, headings, bool(chosen["exterior"])),
    )  # fmt: skip
    made, found = _cases(entry, rule, variants)
    taken = {c.name for c in cases}
    for case in found:
        if case.name in taken:
            entry.error("name-clash", f"case {case.name} is made by [wind] and written in [cases] too",
                        "rename the direction, or take the case out of [cases]", "directions")  # fmt: skip
    return replace(rule, cases=tuple(made)), [*cases, *(c for c in found if c.name not in taken)]


def _speeds(entry: Entry, is_en: bool) -> tuple[float | None, float | None]:
    """The wind speed, and that of service [m/s]; None where there is none, or none that can be."""
    key = "v_b0" if is_en else "V"
    V = entry.quantity(key)
    if V is not None and not 0 < V <= FASTEST:
        entry.error("bad-quantity", f"{entry.what}.{key} = {shown(entry.data[key])} is {V:.6g} m/s",
                    "write a wind speed, such as '51 m/s' or '115 mph'", key)  # fmt: skip
        V = None
    V_service = entry.quantity("V_service") if entry.has("V_service") and not is_en else None
    if V_service is not None and V is not None and not 0 < V_service <= V:
        entry.error("bad-quantity", f"{entry.what}.V_service = {V_service:.6g} m/s beside V = {V:.6g} m/s",
                    "write a speed of service, no faster than V", "V_service")  # fmt: skip
        V_service = None
    return V, V_service


def _analysed(model: Entry, entry: Entry) -> tuple[bool, bool]:
    """Whether the frame's own frequencies are asked for, and whether they cannot be had, since it has no masses."""
    analysed = entry.data.get("n_1") == ANALYSED
    project = model.data.get("project")
    massless = analysed and not (isinstance(project, dict) and "mass" in project)
    if massless:
        entry.error("missing-key", f'{entry.what}.n_1 = "{ANALYSED}" needs the masses of the frame',
                    'add [project] mass = "SW + G", a formula of cases', "n_1")  # fmt: skip
    return analysed, massless


def _contradictions(
    entry: Entry, is_en: bool, chosen: Mapping[str, Sequence[int]], headings: Sequence[Heading]
) -> None:
    """Errors where what is stated is about nothing, or is another code's."""
    if entry.has("components") and not chosen["exterior"]:
        entry.error("wrong-on", f"{entry.what}.components: there is no building", "name its walls and roofs in "
                    "`exterior`", "components")  # fmt: skip
    if chosen["parapets"] and not chosen["exterior"]:
        entry.error("wrong-on", f"{entry.what}.parapets: there is no building below them", "name its walls and "
                    "roofs in `exterior`", "parapets")  # fmt: skip
    enclosure = entry.data.get("enclosure")
    if is_en and enclosure in (Enclosure.PARTIALLY_ENCLOSED, Enclosure.PARTIALLY_OPEN):
        entry.error("wrong-key", f'{entry.what}.enclosure = "{enclosure}" is a word of ASCE 7',
                    "state `openings` by surface, or c_pi", "enclosure")  # fmt: skip
    if not any(chosen.values()) and not any(h.unclad for h in headings):
        entry.error("missing-key", "wind acts on nothing: no surface and no member is in it",
                    'name surfaces in exterior = [...] or free_roofs = [...], or members in unclad = '
                    '{ columns = {} }')  # fmt: skip


def _known(entry: Entry, is_en: bool) -> None:
    """Reports keys that there are not, and keys of the other code."""
    own, other = (OF_EN, OF_ASCE) if is_en else (OF_ASCE, OF_EN)
    foreign = {k.name for k in other} - {k.name for k in own}
    for key in [k for k in entry.data if k in foreign]:
        entry.error("wrong-key", f"{entry.what}: {key} is not of {entry.data['code']}", "take it out", key)
    entry.known([k.name for k in (*COMMON, *own)] + sorted(foreign & set(entry.data)))


def _gust(entry: Entry, is_en: bool, stated: dict[str, float]) -> str:
    """How the gust factor is found: as a word; a stated one goes to what is stated."""
    key, words = ("c_scd", ("flexible",)) if is_en else ("G", ("rigid", "flexible"))
    if not entry.has(key):
        return ""
    value = entry.data[key]
    if isinstance(value, str) and value in words:
        if value == "flexible" and "n_1" not in stated and entry.data.get("n_1") != ANALYSED:
            entry.error("missing-key", f'{entry.what}.{key} = "flexible" needs the lowest frequency',
                        'add n_1 = "0.8 Hz", or "analysed"', key)  # fmt: skip
            return ""
        return value
    number = entry.as_quantity(value, key, kind="number")
    if number is None:
        return ""
    if not 0 < number <= 5:
        entry.error("bad-quantity", f"{entry.what}.{key} = {shown(value)}", "write a factor such as 0.9", key)
        return ""
    stated[key] = number
    return "stated"


def _apart(entry: Entry, chosen: Mapping[str, Sequence[int]], grounds: Grounds) -> None:
    """A surface is one of exterior, free roof and parapet."""
    keys = list(chosen)
    for i, key in enumerate(keys):
        for other in keys[:i]:
            both = sorted(set(chosen[key]) & set(chosen[other]))
            if both:
                names = listed([grounds.called(k) for k in both])
                entry.error("wrong-on", f"{names} {'is' if len(both) == 1 else 'are'} in both {other} and {key}",
                            f"leave {'it' if len(both) == 1 else 'them'} out of one with `!`", key)  # fmt: skip


def say_copies_left(
    entry: Entry, chosen: Mapping[str, Sequence[int]], grounds: Grounds, copies: Sequence[Copied], so: str
) -> None:
    """That copies of surfaces that face the wind, or carry snow, do not, though no `!` leaves them out; `so`: what
    follows."""
    every = {i for own in chosen.values() for i in own}
    for key, own in chosen.items():
        before = set(own)
        for copied in copies:  # in the order they were laid: copies of copies after them
            before |= {image for i, image in copied.surfaces.items() if i in before}
        patterns = [p.removeprefix("!") for p in entry.texts(key) or () if p.startswith("!")] if before else []
        meant = set(grounds.meant(patterns)[0]) if patterns else set()
        left = [grounds.called(i) for i in sorted(before - every - meant)]
        if left:
            are = "is" if len(left) == 1 else "are"
            words = f"{listed(left, 4)} {are} copied from surfaces of `{key}`, and {are} not in it: {so} "
            entry.notes.say(
                "warning", f"{entry.path[0]}-copies", (*entry.path, key), words + ("it" if len(left) == 1 else "them"),
                'name copies too ("*~*" is all of them), or leave them out with `!`', about=tuple(left),
            )  # fmt: skip


def _openings(entry: Entry, grounds: Grounds, exterior: Sequence[int]) -> dict[int, float]:
    if entry.has("openings") and not isinstance(entry.data["openings"], dict):
        entry.error("not-a-table", f"{entry.what}.openings = {shown(entry.data['openings'])} has no sizes",
                    'write their area by surface: openings = { "wall-south" = "6 m2" }', "openings")  # fmt: skip
        return {}
    table = entry.child("openings")
    out: dict[int, float] = {}
    for name, value in table.data.items():
        area = table.as_quantity(value, name)
        found = grounds.index.get(name)
        if found is None:
            table.error(
                "unknown-name", f"{table.what}: there is no surface {name}", did_you_mean(name, grounds.index), name
            )
        elif found not in exterior:
            table.error("wrong-on", f"{table.what}: {name} is not in `exterior`", "name a wall or roof that is", name)
        elif area is not None and area <= 0:
            table.error("bad-quantity", f"{table.what}.{name} = {shown(value)}", "write the area of its openings", name)
        elif area is not None:
            out[found] = area
    return out


def _cases(
    entry: Entry, rule: WindRule, variants: Mapping[str, tuple[str, ...] | None]
) -> tuple[list[WindCase], list[Case]]:
    """The cases of the directions that are kept, as wind's and as cases."""
    kinds = _kinds(entry, rule)
    headings = [(h.name, h.vector) for h in rule.headings]
    every = cases_of(kinds, headings)
    made, matched = [], set()
    for case in every:
        word = suffix(case, headings)
        keep = True
        for i in case.headings:
            patterns = variants.get(headings[i][0])
            if patterns is None or case.component:
                continue
            hit = [p for p in patterns if kept(case, word, [p])]
            matched |= {(headings[i][0], p) for p in hit}
            keep = keep and bool(hit)
        if keep:
            made.append(case)
    for name, patterns in variants.items():
        for pattern in patterns or ():
            if (name, pattern) not in matched:
                words = list(dict.fromkeys(suffix(c, headings) for c in every))
                entry.error("matches-nothing", f"variants: no wind case of {name} ends in {pattern}",
                            f"endings are {listed(words, 12)}", "variants")  # fmt: skip
    names = [c.name for c in made]
    for twice in sorted({n for n in names if names.count(n) > 1}):
        entry.error("name-clash", f"two wind cases would be called {twice}", "rename a direction", "directions")
    cases = []
    for case in made:
        place = rule.headings[case.headings[0]].place
        told = title(case, [rule.headings[i].text for i in case.headings], kinds)
        along = _along(rule.headings[case.headings[0]]) if len(case.headings) == 1 else ""
        level = Level.CHARACTERISTIC if rule.code == WindCode.EN else Level.STRENGTH
        of_part = bool(case.component)
        cases.append(Case(case.name, "wind", told, 0.0, place, along="" if of_part else along, level=level,
                          component=of_part))  # fmt: skip
    return made, cases


def _along(heading: Heading) -> str:
    """The axis a direction goes along, if it does."""
    for word in LEVEL:
        x, y, _ = DIRECTIONS[word].vector
        if math.hypot(heading.vector[0] - x, heading.vector[1] - y) < 1e-6:
            return word
    return ""


def _kinds(entry: Entry, rule: WindRule) -> Kinds:
    """What sets the cases of this model apart; it hangs on [wind] alone, so that names stay while the model grows."""
    is_en = rule.code == WindCode.EN
    roofs = bool(rule.exterior or rule.free_roofs)
    letters = ("abcd" if is_en else "ab") if roofs else ""
    every = [rule, *(rule.of_building(b, b.exterior) for b in rule.buildings)]
    signs = tuple(s for s in (1, -1) if any(s in _signs(r, bool(rule.openings)) for r in every))
    twists = (-1, 1) if is_en and "eccentricity" in rule.stated and rule.exterior else ()
    parts = "" if not rule.components or not rule.exterior else "each" if is_en else "all"
    return Kinds(letters, not is_en and bool(rule.exterior), signs, twists, not is_en and entry.flag("minimum"), parts)


def _signs(rule: WindRule, openings: bool) -> tuple[int, ...]:
    """The signs of the internal pressure that are cases of their own."""
    if rule.is_open or rule.stated.get("GC_pi") == 0:
        return ()
    one = openings and "c_pi+" not in rule.stated
    if rule.code == WindCode.EN and (one or rule.stated.get("c_pi+", 1.0) == rule.stated.get("c_pi-", 0.0)):
        return (1,)
    return (1, -1)
