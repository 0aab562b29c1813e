"""Snow as a model file states it, and the cases it makes.

[snow]
code     = "ASCE 7-16"
p_g      = "1.4 kN/m2"
exposure = "C"
C_t      = 1.0
I_s      = 1.0
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence
from dataclasses import replace
from fnmatch import fnmatchcase

from ...core.actions.snow.spans import spans_of
from ...core.model.cases import Case
from ...core.model.findings import listed
from ...core.model.project import Project
from ...core.model.snow import SnowCase, SnowRule
from ...core.model.wind import WindRule
from ...core.model.words import Falling, Level, RoofExposure, SnowCode
from ..base.entry import Entry, shown
from ..base.selectors import Names
from ..copies.copies import Copied
from ..frame.surfaces import Grounds, surfaces_of
from ..wind.wind import say_copies_left
from .by_surface import by_surface, thermal
from .keys import COMMON, OF_ASCE, OF_EN
from .parts import read_beside, read_continuous, read_directions, read_partial

MOST = {"C_e": 1.5, "I_s": 1.5, "W_2": 1.0, "C_esl": 5.0}
"""What these can be at most: beyond it they are a slip."""
LONGEST = 2e3
"""Roofs longer than this [m] are a slip of units."""
HEAVIEST, LIGHTEST_WEIGHT, HEAVIEST_WEIGHT = 30e3, 500.0, 9e3
"""A ground load [N/m2] and weights of snow [N/m3] beyond these are a slip of units."""


def read_snow(
    model: Entry,
    cases: Sequence[Case],
    names: Names,
    grounds: Grounds,
    wind: WindRule | None,
    plane: bool,
    copies: Sequence[Copied],
    frame: Callable[[], Project],
) -> tuple[SnowRule | None, list[Case]]:
    """What is stated about snow, and the cases with those that it makes; `frame`: nodes, members, supports and
    surfaces, of which spans under partial loads are found."""
    if not model.has("snow"):
        return None, list(cases)
    entry = model.child("snow")
    if not isinstance(model.data["snow"], dict):
        return None, list(cases)
    if plane:
        entry.error("wrong-key", "[snow] falls on roofs, and a plane model has none", "write its loads in [loads]")
        return None, list(cases)
    code = entry.word("code", SnowCode)
    if code is None:
        return None, list(cases)
    is_en = code == SnowCode.EN
    _known(entry, is_en)
    before = entry.notes.errors
    ground_load = _ground_load(entry, "s_k" if is_en else "p_g")
    stated = _numbers(entry, code)
    roofs = _roofs(entry, grounds, wind)
    walls, find = _walls(entry, grounds, wind)
    written = {"roofs": roofs, **walls}
    say_copies_left(entry, {k: v for k, v in written.items() if entry.has(k)}, grounds, copies, "no snow is on")
    for key, own in walls.items():
        both = [grounds.called(i) for i in own if i in roofs and entry.has("roofs")]
        if both:
            entry.error("wrong-on", f"{listed(both)} {'is' if len(both) == 1 else 'are'} in both roofs and {key}",
                        "leave it out of one with `!`", key)  # fmt: skip
    C_t = thermal(entry, grounds, roofs, is_en, stated)
    if not is_en and "C_e" not in stated and not entry.has("exposure"):
        entry.error("missing-key", f"{entry.what} has no `exposure`", 'add exposure = "B", "C" or "D", or C_e')
    beside = read_beside(entry, grounds)
    directions = read_directions(entry)
    exposure = "" if is_en or not entry.has("exposure") else entry.text("exposure") or ""
    exposed = None if is_en else entry.word("roof_exposure", RoofExposure)
    slippery = frozenset() if is_en else _chosen(entry, "slippery", grounds, roofs)
    guarded = _chosen(entry, "guards", grounds, roofs)
    partial = () if is_en else read_partial(entry, grounds, roofs)
    looked_at = None if is_en else read_continuous(entry, names)
    risk = entry.text("risk") or "" if code == SnowCode.ASCE_22 else ""
    rafters = not is_en and entry.flag("rafters")
    rule = SnowRule(
        code, ground_load or 0.0, entry.place, tuple(directions), (), tuple(i for i in roofs if i not in
        {*walls["parapets"], *walls["obstructions"]}), tuple(walls["parapets"]), tuple(walls["obstructions"]),
        exposure, exposed or RoofExposure.PARTIAL, stated, C_t, slippery, guarded, rafters, risk, beside, partial,
        looked_at is None,
        frozenset(wind.exterior) if wind is not None and not entry.has("roofs") else frozenset(),
        find, _chosen(entry, "overhanging", grounds, roofs) if is_en else frozenset(), is_en and entry.flag("annex_B"),
        by_surface(entry, "W", grounds, "length", LONGEST), by_surface(entry, "l_u", grounds, "length", LONGEST),
    )  # fmt: skip
    if looked_at is not None and entry.notes.errors == 0:
        rule = _with_found(entry, rule, looked_at, frame())
    made = _kept(entry, _cases(rule))
    taken = {c.name for c in cases}
    for name in [c.name for c in made if c.name in taken]:
        entry.error("name-clash", f"case {name} is made by [snow] and written elsewhere too",
                    "rename that case")  # fmt: skip
    level = Level.STRENGTH if code == SnowCode.ASCE_22 else Level.CHARACTERISTIC
    whole = [
        Case(c.name, "accidental" if c.exceptional else "snow", _title(c, rule), 0.0, entry.place,
             level=None if c.exceptional else level, one_of="snow" if c.exceptional else "")
        for c in made
        if c.name not in taken
    ]  # fmt: skip
    rule = replace(rule, cases=tuple(made), known=entry.notes.errors == before and bool(roofs))
    return rule, [*cases, *whole]


def _walls(entry: Entry, grounds: Grounds, wind: WindRule | None) -> tuple[dict[str, list[int]], frozenset[str]]:
    """Parapets and obstructions that are named, and which of both are found too."""
    walls: dict[str, list[int]] = {}
    find = set()
    for key in ("parapets", "obstructions"):
        named = entry.flag_or_texts(key)
        walls[key] = [] if isinstance(named, bool) else surfaces_of(entry, key, grounds)
        if named is True:
            find.add(key)
            walls[key] = list(wind.parapets) if wind is not None and key == "parapets" else []
    return walls, frozenset(find)


def _with_found(entry: Entry, rule: SnowRule, members: Collection[int], frame: Project) -> SnowRule:
    """With the spans of continuous beams as the frame has them, beside those that are stated."""
    from ...core.load_path.snow_spans import found_spans

    found, left_out = found_spans(frame, rule, members)
    if left_out:
        message = f"{entry.what}: beams under its roofs have {len(found) + left_out} sets of spans; partial loads are "
        message += f"made of the first {len(found)}"
        remedy = "name the members that matter in `continuous`, or state spans in [snow.partial.NAME]"
        entry.notes.say("warning", "snow-partial", (*entry.path, "continuous"), message, remedy)
    clash = {p.name for p in rule.partial} & {p.name for p in found}
    for name in sorted(clash):
        entry.error("name-clash", f"{entry.what}.partial: spans that are found are called {name} too", "rename these",
                    "partial", name)  # fmt: skip
    return replace(rule, partial=(*rule.partial, *found))


def _known(entry: Entry, is_en: bool) -> None:
    own, other = (OF_EN, OF_ASCE) if is_en else (OF_ASCE, OF_EN)
    foreign = {k.name for k in other}
    for key in [k for k in entry.data if k in foreign]:
        entry.error("wrong-key", f"{entry.what}: {key} is not of {entry.data['code']}", "take it out", key)
    entry.known([k.name for k in (*COMMON, *own)] + sorted(foreign & set(entry.data)))
    of_edition = {SnowCode.ASCE_16: ("W_2", "risk"), SnowCode.ASCE_22: ("I_s",)}.get(entry.data["code"], ())
    for key in [k for k in of_edition if entry.has(k)]:
        entry.error("wrong-key", f"{entry.what}: {key} is not of {entry.data['code']}", "take it out", key)


def _ground_load(entry: Entry, key: str) -> float | None:
    value = entry.quantity(key)
    if value is not None and not 0 <= value <= HEAVIEST:
        entry.error("bad-quantity", f"{entry.what}.{key} = {shown(entry.data[key])} is {value:.6g} N/m2",
                    "write a load such as '1.4 kN/m2' or '30 lbf/ft2'", key)  # fmt: skip
        return None
    return value


def _numbers(entry: Entry, code: SnowCode) -> dict[str, float]:
    required = {SnowCode.ASCE_16: ("I_s",), SnowCode.ASCE_22: ("W_2",)}.get(code, ())
    out = {}
    of_code = ("C_e", "C_esl") if code == SnowCode.EN else ("C_e", *required)
    for key in of_code:
        value = entry.quantity(key) if entry.has(key) or key in required else None
        if value is not None and not 0 < value <= MOST[key]:
            entry.error("bad-quantity", f"{entry.what}.{key} = {shown(entry.data[key])}", f"write a number up to "
                        f"{MOST[key]:g}", key)  # fmt: skip
        elif value is not None:
            out[key] = value
    gamma = entry.quantity("gamma") if entry.has("gamma") else None
    if gamma is not None and not LIGHTEST_WEIGHT <= gamma <= HEAVIEST_WEIGHT:
        entry.error("bad-quantity", f"{entry.what}.gamma = {shown(entry.data['gamma'])} is {gamma:.6g} N/m3",
                    "write a weight such as '3 kN/m3'", "gamma")  # fmt: skip
    elif gamma is not None:
        out["gamma"] = gamma
    return out


def _roofs(entry: Entry, grounds: Grounds, wind: WindRule | None) -> list[int]:
    if entry.has("roofs"):
        return surfaces_of(entry, "roofs", grounds)
    found = [*wind.exterior, *wind.free_roofs] if wind is not None else []
    if not found:
        entry.error("missing-key", f"{entry.what} falls on nothing: there are no `roofs`, and none in [wind]",
                    'add roofs = ["roof-*"]')  # fmt: skip
    return found


def _chosen(entry: Entry, key: str, grounds: Grounds, roofs: Sequence[int]) -> frozenset[int]:
    found = entry.flag_or_texts(key)
    if isinstance(found, bool):
        return frozenset(roofs) if found else frozenset()
    chosen = surfaces_of(entry, key, grounds)
    off = [grounds.called(i) for i in chosen if i not in roofs]
    if off:
        entry.error("wrong-on", f"{entry.what}.{key}: not in `roofs`: {listed(off, 4)}", "name roofs", key)
    return frozenset(chosen)


STEM, SLID, EXCEPTIONAL, ANNEX_B = "S", "Ss", "x", "e"
SUFFIX = {Falling.UNBALANCED: "u", Falling.DRIFTED: "d"}


def _cases(rule: SnowRule) -> list[SnowCase]:
    """All that the code knows; it hangs on [snow] alone, so that names stay while the model grows."""
    out = [SnowCase(STEM, Falling.BALANCED)]
    for kind, letter in SUFFIX.items():
        out += [SnowCase(name + letter, kind, d) for d, (name, _) in enumerate(rule.directions)]
    if not rule.is_en:
        out.append(SnowCase(SLID, Falling.SLIDING))
        for name in dict.fromkeys(p.name for p in rule.partial):
            most = max(len(spans_of(len(p.lines) - 1)) for p in rule.partial if p.name == name)
            out += [SnowCase(f"{name}{k + 1}", Falling.PARTIAL, k, spans=name) for k in range(most)]
        return out
    if "C_esl" in rule.stated:
        out += [replace(c, name=c.name + EXCEPTIONAL, exceptional=True) for c in out]
    if rule.annex_B:
        out += [SnowCase(name + ANNEX_B, Falling.EXCEPTIONAL, d, True) for d, (name, _) in enumerate(rule.directions)]
    return out


def _kept(entry: Entry, made: Sequence[SnowCase]) -> list[SnowCase]:
    names = [c.name for c in made]
    for twice in sorted({n for n in names if names.count(n) > 1}):
        entry.error("name-clash", f"two snow cases would be called {twice}", "rename a direction", "directions")
    if not entry.has("variants"):
        return list(made)
    patterns = entry.texts("variants") or []
    for pattern in patterns:
        if not any(fnmatchcase(name, pattern) for name in names):
            message = f"variants: no snow case is called {pattern}"
            entry.error("matches-nothing", message, f"there are {listed(names, 12)}", "variants")
    return [c for c in made if any(fnmatchcase(c.name, p) for p in patterns)]


def _title(case: SnowCase, rule: SnowRule) -> str:
    multiplied = case.exceptional and case.kind != Falling.EXCEPTIONAL
    what = f"{'Exceptional snow' if multiplied else 'Snow'}, {case.kind}"
    if case.direction < 0:
        return what
    if case.kind == Falling.PARTIAL:
        own = [p for p in rule.partial if p.name == case.spans]
        if len(own) > 1:
            return f"{what}: pattern {case.direction + 1} of {case.spans}"
        shares = spans_of(len(own[0].lines) - 1)[case.direction]
        full = ", ".join(str(k) for k, share in enumerate(shares, start=1) if share == 1)
        return f"{what}: in full on {'spans' if ',' in full else 'span'} {full} of {case.spans}"
    return f"{what} by wind {rule.directions[case.direction][0]}"
