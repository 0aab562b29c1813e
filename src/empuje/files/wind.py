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
from typing import Any

from ..core.actions.wind.variants import Kinds, cases_of, kept, suffix, title
from ..core.model.cases import Case
from ..core.model.findings import did_you_mean, listed, nearest
from ..core.model.wind import BareWind, Heading, Hill, WindCase, WindRule
from ..core.model.words import Enclosure, Flow, Rise, Side, Upward, WindCode
from .directions import DIRECTIONS
from .entry import Entry, shown
from .keys_wind import BARE, COMMON, DIRECTION, OF_ASCE, OF_EN
from .loading import CASE_NAME
from .quantities import QuantityError
from .selectors import Names
from .surfaces import Grounds

LEVEL = ("+x", "-x", "+y", "-y")
NUMBERS = {
    "ASCE": ("h", "theta", "n_1", "eccentricity", "elevation", "K_e", "K_zt", "K_d", "beta", "GC_pi"),
    "EN": ("h", "theta", "n_1", "eccentricity", "c_dir", "c_season", "c_o", "k_r", "k_I", "z_0", "z_min", "rho", "delta",
           "h_p", "c_fr", "psi_lambda", "k"),
}  # fmt: skip
MAY_BE_ZERO = ("elevation", "h_p", "GC_pi", "theta", "c_fr")
MAY_BE_NEGATIVE = ("elevation",)
FASTEST = 120.0
"""A basic wind speed beyond this [m/s] is a slip of units."""


def read_wind(
    model: Entry, cases: Sequence[Case], names: Names, grounds: Grounds, plane: bool
) -> tuple[WindRule | None, list[Case]]:
    """What is stated about wind, and the cases with those that it makes."""
    if not model.has("wind") or not isinstance(model.data["wind"], dict):
        if model.has("wind"):
            model.child("wind")
        return None, list(cases)
    entry = model.child("wind")
    if plane:
        model.error("wrong-key", "a plane model has no wind by code", 'say space = "3D", or use line loads', "wind")
        return None, list(cases)
    code = entry.word("code", WindCode)
    if code is None:
        return None, list(cases)
    is_en = code == WindCode.EN
    _known(entry, is_en)
    V = entry.quantity("v_b0" if is_en else "V")
    roughness = entry.text("terrain" if is_en else "exposure")
    if V is not None and not 0 < V <= FASTEST:
        key = "v_b0" if is_en else "V"
        entry.error("bad-quantity", f"{entry.what}.{key} = {shown(entry.data[key])} is {V:.6g} m/s",
                    "write a wind speed, such as '51 m/s' or '115 mph'", key)  # fmt: skip
        V = None
    stated = _numbers(entry, is_en)
    gust = _gust(entry, is_en, stated)
    chosen = {key: _surfaces(entry, key, grounds) for key in ("exterior", "free_roofs", "parapets")}
    _apart(entry, chosen, grounds)
    openings = _openings(entry, grounds, chosen["exterior"])
    enclosure = entry.word("enclosure", Enclosure) if entry.has("enclosure") else None
    bare = _bare(entry, names, is_en)
    headings, variants = _headings(entry, names, grounds, bare, chosen, is_en)
    if not any(chosen.values()) and not any(h.bare for h in headings):
        entry.error("missing-key", "wind meets nothing: no surface and no member stands in it",
                    'name surfaces in exterior = [...] or free_roofs = [...], or members in bare = { columns = {} }')  # fmt: skip
    hill = _hill(entry) if entry.has("hill") and not is_en else None
    if hill is not None and "K_zt" in stated:
        entry.error("wrong-key", f"{entry.what} has both K_zt and a hill", "state one of them", "K_zt")
    if V is None or roughness is None or not headings:
        return None, list(cases)
    rule = WindRule(
        code, V, roughness, entry.place, tuple(headings), (), tuple(chosen["exterior"]),
        tuple(chosen["free_roofs"]), tuple(chosen["parapets"]), openings=openings,
        enclosure=enclosure, flow=entry.word("flow", Flow) or Flow.CLEAR,
        upward=entry.word("profile", Upward) or Upward.LINEAR,
        ground=entry.quantity("ground") if entry.has("ground") else None, hill=hill, gust=gust, stated=stated,
        reduce_by_area=not is_en and entry.flag("reduce_by_area"), correlation=is_en and entry.flag("correlation"),
        returns=is_en and entry.flag("returns"), by_zones=is_en and entry.text("canopy") == "zones",
        customary=entry.notes.units.length in ("ft", "in"),
    )  # fmt: skip
    made, found = _cases(entry, rule, variants)
    taken = {c.name for c in cases}
    for case in found:
        if case.name in taken:
            entry.error("name-clash", f"case {case.name} is made by [wind] and written in [cases] too",
                        "rename the direction, or take the case out of [cases]", "directions")  # fmt: skip
    return replace(rule, cases=tuple(made)), [*cases, *(c for c in found if c.name not in taken)]


def _known(entry: Entry, is_en: bool) -> None:
    """Reports keys that there are not, and keys of the other code."""
    own, other = (OF_EN, OF_ASCE) if is_en else (OF_ASCE, OF_EN)
    foreign = {k.name for k in other} - {k.name for k in own}
    for key in [k for k in entry.data if k in foreign]:
        entry.error("wrong-key", f"{entry.what}: {key} is not of {entry.data['code']}", "take it out", key)
    entry.known([k.name for k in (*COMMON, *own)] + sorted(foreign & set(entry.data)))


def _numbers(entry: Entry, is_en: bool) -> dict[str, float]:
    """What is stated by its symbol."""
    out = {}
    for key in NUMBERS["EN" if is_en else "ASCE"]:
        if not entry.has(key):
            continue
        value = entry.quantity(key)
        if value is None:
            continue
        if key == "theta":
            value = math.degrees(value)
        least = -math.inf if key in MAY_BE_NEGATIVE else 0.0
        if value < least or (value == 0 and key not in MAY_BE_ZERO):
            entry.error("bad-quantity", f"{entry.what}.{key} = {shown(entry.data[key])}", "write a positive value", key)
            continue
        out[key] = value
    if out.get("eccentricity", 0.0) > 0.5:
        entry.error("bad-quantity", f"{entry.what}.eccentricity = {out['eccentricity']:g}", "it is a share of B up to 0.5",
                    "eccentricity")  # fmt: skip
    if is_en and entry.has("c_pi"):
        out |= _c_pi(entry)
    return out


def _c_pi(entry: Entry) -> dict[str, float]:
    value = entry.data["c_pi"]
    both = value if isinstance(value, list) else [value]
    read = [entry.as_quantity(v, "c_pi") for v in both]
    if len(both) not in (1, 2) or None in read:
        if len(both) not in (1, 2):
            entry.error("bad-quantity", f"{entry.what}.c_pi = {shown(value)}", "write one number, or two", "c_pi")
        return {}
    return {"c_pi+": float(max(read)), "c_pi-": float(min(read))}  # type: ignore[type-var, arg-type]


def _gust(entry: Entry, is_en: bool, stated: dict[str, float]) -> str:
    """How the gust factor is found: as a word; a stated one goes to what is stated."""
    key, words = ("c_scd", ("flexible",)) if is_en else ("G", ("rigid", "flexible"))
    if not entry.has(key):
        return ""
    value = entry.data[key]
    if isinstance(value, str) and value in words:
        if value == "flexible" and "n_1" not in stated:
            entry.error("missing-key", f'{entry.what}.{key} = "flexible" needs the lowest frequency',
                        'add n_1 = "0.8 Hz"', key)  # fmt: skip
            return ""
        return value
    number = entry.as_quantity(value, key, kind="number")
    if number is None:
        return ""
    if number <= 0:
        entry.error("bad-quantity", f"{entry.what}.{key} = {shown(value)}", "write a positive factor", key)
        return ""
    stated[key] = number
    return "stated"


def _surfaces(entry: Entry, key: str, grounds: Grounds) -> list[int]:
    if not entry.has(key):
        return []
    patterns = entry.texts(key)
    if patterns is None:
        return []
    chosen, missed = grounds.meant(patterns)
    for pattern in missed:
        if pattern.removeprefix("!") not in grounds.unread:
            close = nearest(pattern, grounds.index) or list(grounds.index)[:8]
            remedy = f"surfaces are {', '.join(close)}" if close else "there are no surfaces yet"
            entry.error("matches-nothing", f"{entry.what}.{key}: no surface is called {pattern}", remedy, key)
    return chosen


def _apart(entry: Entry, chosen: Mapping[str, Sequence[int]], grounds: Grounds) -> None:
    """A surface is one of exterior, free roof and parapet."""
    keys = list(chosen)
    for i, key in enumerate(keys):
        for other in keys[:i]:
            both = sorted(set(chosen[key]) & set(chosen[other]))
            if both:
                names = listed([grounds.surfaces[k].name for k in both])
                entry.error("wrong-on", f"{names} {'is' if len(both) == 1 else 'are'} in both {other} and {key}",
                            f"leave {'it' if len(both) == 1 else 'them'} out of one with `!`", key)  # fmt: skip


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


def _hill(entry: Entry) -> Hill | None:
    table = entry.child("hill").known()
    shape = table.word("shape", Rise)
    H, L_h, x = (table.quantity(k) for k in ("H", "L_h", "x"))
    if shape is None or H is None or L_h is None or x is None:
        return None
    if H <= 0 or L_h <= 0:
        table.error("bad-quantity", f"{table.what} has H = {H:g} m, L_h = {L_h:g} m", "both are positive")
        return None
    return Hill(shape, H, L_h, x)


def _bare(entry: Entry, names: Names, is_en: bool) -> tuple[BareWind, ...]:
    """Members that stand in the wind by themselves."""
    table = entry.child("bare")
    out = []
    for selector, value in table.data.items():
        if not isinstance(value, dict):
            table.error(
                "not-a-table", f"{table.what}.{selector} is not a table", "write { } or { C_f = 1.6 }", selector
            )
            continue
        own = table.inner(value, BARE, selector).known()
        members, missed = names.select_members([selector])
        names.report(table, missed, selector, f"{table.what}: no family or member")
        C_f = own.quantity("C_f") if own.has("C_f") else None
        width = own.quantity("width") if own.has("width") else None
        shielding = own.quantity("shielding")
        solidity = _solidity(own) if own.has("solidity") else None
        if solidity is not None and is_en:
            own.error("wrong-key", f"{own.what}: frames by their solidity (EN 1991-1-4, 7.11) are not known here",
                      "state C_f, and take it out", "solidity")  # fmt: skip
        for key, number in (("C_f", C_f), ("width", width)):
            if number is not None and number <= 0:
                own.error("bad-quantity", f"{own.what}.{key} = {shown(value[key])}", "write a positive value", key)
        if shielding is not None and not 0 < shielding <= 1:
            own.error("bad-quantity", f"{own.what}.shielding = {shown(value['shielding'])}", "write a factor up to 1",
                      "shielding")  # fmt: skip
        if members and shielding is not None:
            out.append(BareWind(tuple(members), C_f, width, solidity, shielding, selector, own.place))
    return tuple(out)


def _solidity(own: Entry) -> float | None:
    value = own.data["solidity"]
    if value == "found":
        return 0.0
    number = own.as_quantity(value, "solidity")
    if number is not None and not 0 < number <= 1:
        own.error(
            "bad-quantity", f"{own.what}.solidity = {shown(value)}", 'write a share from 0 to 1, or "found"', "solidity"
        )
        return None
    return number


def _headings(
    entry: Entry,
    names: Names,
    grounds: Grounds,
    bare: tuple[BareWind, ...],
    chosen: Mapping[str, Sequence[int]],
    is_en: bool,
) -> tuple[list[Heading], dict[str, tuple[str, ...] | None]]:
    """The directions, and the variants each keeps (None: all)."""
    if not entry.has("directions"):
        entry.missing("directions")
        return [], {}
    usual = tuple(entry.texts("variants") or ()) if entry.has("variants") else None
    table = entry.child("directions")
    out: list[Heading] = []
    variants: dict[str, tuple[str, ...] | None] = {}
    if not table.data and isinstance(entry.data["directions"], dict):
        entry.error(
            "missing-key", f"{entry.what}.directions names none", 'write directions = { WX = "+x" }', "directions"
        )
    for name, value in table.data.items():
        own = table.inner(value if isinstance(value, dict) else {"towards": value}, DIRECTION, name).known()
        if not CASE_NAME.fullmatch(name):
            table.error("bad-name", f"a direction cannot be called {shown(name)}",
                        "use letters, digits and _, beginning with a letter", name)  # fmt: skip
            continue
        vector, text = _towards(own)
        if vector is None:
            continue
        sides: dict[int, Side] = {}
        for side in (Side.WINDWARD, Side.LEEWARD, Side.SIDE):
            for i in _surfaces(own, side, grounds):
                if i not in (*chosen["exterior"], *chosen["parapets"]):
                    own.error("wrong-on", f"{own.what}.{side}: {grounds.surfaces[i].name} is not in `exterior`",
                              "name walls that are", side)  # fmt: skip
                sides[i] = side
        extent = {k: own.quantity(k) if own.has(k) else None for k in ("B", "L")}
        for key, length in extent.items():
            if length is not None and length <= 0:
                own.error("bad-quantity", f"{own.what}.{key} = {shown(own.data[key])}", "write a length", key)
                extent[key] = None
        of_own = _bare(own, names, is_en) if own.has("bare") else bare
        variants[name] = tuple(own.texts("variants") or ()) if own.has("variants") else usual
        out.append(Heading(name, vector, text, table.place_of(name), of_own, extent["B"], extent["L"], sides))
    return out, variants


def _towards(own: Entry) -> tuple[tuple[float, float] | None, str]:
    """Where a wind blows to: a level direction, or an angle from x."""
    if not own.has("towards"):
        own.missing("towards")
        return None, ""
    value: Any = own.data["towards"]
    if isinstance(value, str) and value.strip() in LEVEL:
        vector = DIRECTIONS[value.strip()].vector
        return (vector[0], vector[1]), f"towards {value.strip()}"
    try:
        if isinstance(value, bool):
            raise QuantityError("is no angle")
        angle = own.notes.units.read(value, "angle")
    except QuantityError:
        own.error("unknown-word", f"{own.what}.towards = {shown(value)}", 'write "+x", "-x", "+y", "-y" or an angle from x '
                  'such as "30 deg"', "towards")  # fmt: skip
        return None, ""
    degrees = math.degrees(angle)
    return (math.cos(angle), math.sin(angle)), f"towards {degrees:.6g} deg from x"


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
            if patterns is None:
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
        cases.append(Case(case.name, "wind", told, 0.0, place, along=along))
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
    if rule.is_open:
        signs: tuple[int, ...] = ()
    elif is_en and (rule.openings or rule.stated.get("c_pi+", 1.0) == rule.stated.get("c_pi-", 0.0)):
        signs = (1,)
    elif rule.stated.get("GC_pi") == 0:
        signs = ()
    else:
        signs = (1, -1)
    twists = (-1, 1) if is_en and "eccentricity" in rule.stated and rule.exterior else ()
    return Kinds(letters, not is_en and bool(rule.exterior), signs, twists, not is_en and entry.flag("minimum"))
