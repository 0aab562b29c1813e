"""Steel checks of a model file.

[steel]
code = "EN 1993-1-1"

[[steel.lengths]]
on  = "rafters"
L_z = "1.5 m"
"""

from __future__ import annotations

from ...core.model.loads import Position
from ...core.model.steel import HeldAt, SteelRule
from ...core.model.words import Design, Lateral, SteelCode
from ..base.entry import Entry, shown
from ..base.positions import as_position
from ..base.selectors import Names

FOREIGN = {SteelCode.EN: ("design",), SteelCode.AISC: ("gamma_M0", "gamma_M1", "eta", "lateral")}
"""Keys of the other code."""
OF_MOMENTS = {SteelCode.EN: ("C_m", "C_1"), SteelCode.AISC: ("C_b",)}
MOST_C = 5.0
ANALYSED = "analysed"
LENGTHS, FACTORS = ("L_y", "L_z", "L_T", "L_LT"), ("k_y", "k_z", "k_T", "k_LT")


def read_steel(model: Entry, names: Names) -> SteelRule | None:
    """How steel members are checked; None where the model does not ask for it."""
    if not model.has("steel"):
        return None
    entry = model.child("steel").known()
    code, lateral, design = (entry.word(*w) for w in (("code", SteelCode), ("lateral", Lateral), ("design", Design)))
    foreign = FOREIGN.get(SteelCode(code), ()) if code else ()
    for key in (k for k in foreign if entry.has(k)):
        entry.error("wrong-key", f"{entry.what}: {code} knows no {key}", "take it out", key)
    on = _members(entry, names) if entry.has("on") else list(range(len(names.members)))
    under = entry.texts("under") if entry.has("under") else ["strength"]
    values = {}
    for key, low, high in (("gamma_M0", 0.8, 2.0), ("gamma_M1", 0.8, 2.0), ("eta", 1.0, 1.2), ("warn_at", 0.01, 1.0)):
        value = entry.quantity(key)
        if value is not None and not low <= value <= high:
            entry.error("bad-quantity", f"{entry.what}.{key} = {shown(entry.data[key])}",
                        f"write a number from {low:g} to {high:g}", key)  # fmt: skip
        values[key] = value or 1.0
    held = [(tuple(_members(e, names)), _held(e, code)) for e in entry.entries("lengths")]
    if code is None or under is None or lateral is None or design is None:
        return None
    return SteelRule(SteelCode(code), tuple(on), tuple(under), entry.place, values["gamma_M0"], values["gamma_M1"],
                     values["eta"], Lateral(lateral), Design(design), tuple(held), values["warn_at"],
                     (entry.text("load_height") or "") if entry.has("load_height") else "")  # fmt: skip


def _members(entry: Entry, names: Names) -> list[int]:
    patterns = entry.texts("on")
    if patterns is None:
        return []
    chosen, missed = names.select_members(patterns)
    names.report(entry, missed, "on", f"{entry.what}: no family or member")
    return chosen


def _held(entry: Entry, code: str | None) -> HeldAt:
    entry.known()
    values: dict[str, float] = {}
    foreign = OF_MOMENTS[SteelCode.AISC if code == SteelCode.EN else SteelCode.EN] if code else ()
    for key in (k for k in foreign if entry.has(k)):
        entry.error("wrong-key", f"{entry.what}: {code} knows no {key}", "take it out", key)
    analysed = [entry.data.get(key) == ANALYSED for key in ("L_y", "L_z")]
    for key in (*LENGTHS, *FACTORS, "C_m", "C_1", "C_b"):
        if not entry.has(key) or (key in ("L_y", "L_z") and entry.data[key] == ANALYSED):
            continue
        value = entry.quantity(key)
        if value is not None and value <= 0:
            entry.error("bad-quantity", f"{entry.what}.{key} = {shown(entry.data[key])}: must be positive", "", key)
        elif value is not None and key in ("C_m", "C_1", "C_b") and value > MOST_C:
            words = f"{entry.what}.{key} = {shown(entry.data[key])}: more than any diagram makes of it"
            entry.error("bad-quantity", words, f"write a number up to {MOST_C:g}", key)
        elif value is not None:
            values["C_b" if key == "C_1" else key] = value
    for length, factor in zip(LENGTHS, FACTORS, strict=True):
        if (length in values or entry.data.get(length) == ANALYSED) and factor in values:
            entry.error("wrong-key", f"{entry.what}: {length} is stated, so that {factor} means nothing",
                        "take one of them out", factor)  # fmt: skip
    braced: tuple[Position, ...] | None = None
    if entry.has("braced_at"):
        value = entry.data["braced_at"]
        places = [as_position(entry, v, "braced_at") for v in (value if isinstance(value, list) else [value])]
        braced = tuple(p for p in places if p is not None)
    flange = entry.text("flange") if entry.has("flange") else ""
    return HeldAt(**values, braced_at=braced, flange=flange or "", analysed=(analysed[0], analysed[1]))
