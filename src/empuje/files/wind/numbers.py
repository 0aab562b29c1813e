"""The numbers of [wind] by the code's symbols: of all, of a direction, of a building; and hills."""

from __future__ import annotations

import math
from collections.abc import Sequence

from ...core.model.wind import Hill
from ...core.model.words import Rise
from ..base.entry import Entry, shown

NUMBERS = {
    "ASCE": ("h", "theta", "n_1", "eccentricity", "elevation", "K_e", "K_zt", "K_d", "beta", "GC_pi", "e_R"),
    "EN": ("h", "theta", "n_1", "eccentricity", "c_dir", "c_season", "c_o", "k_r", "k_I", "z_0", "z_min", "rho",
           "delta", "h_p", "c_fr", "psi_lambda", "k", "c_pi"),
}  # fmt: skip
MAY_BE_ZERO = ("elevation", "h_p", "GC_pi", "theta", "c_fr", "e_R")
MAY_BE_NEGATIVE = ("elevation",)
MOST = {
    "theta": 80.0, "K_d": 1.0, "K_e": 1.2, "K_zt": 10.0, "beta": 1.0, "GC_pi": 1.0, "c_dir": 2.0, "c_season": 2.0,
    "c_o": 5.0, "k_r": 1.0, "k_I": 3.0, "rho": 2.0, "delta": 3.0, "c_fr": 0.5, "psi_lambda": 1.0, "eccentricity": 0.5,
    "elevation": 9000.0,
}  # fmt: skip
"""What these can be at most, in SI and degrees: beyond it they are a slip."""
ANALYSED = "analysed"


def read_numbers(entry: Entry, keys: Sequence[str], usual: dict[str, float] | None = None) -> dict[str, float]:
    """What is stated of these keys, in SI and degrees; `usual`: what is stated of all."""
    out: dict[str, float] = {}
    for key in keys:
        if not entry.has(key) or (key == "n_1" and entry.data[key] == ANALYSED):
            continue
        value = entry.quantity(key) if key != "c_pi" else None
        if value is None:
            continue
        if key == "theta":
            value = math.degrees(value)
        least = -math.inf if key in MAY_BE_NEGATIVE else 0.0
        if value < least or (value == 0 and key not in MAY_BE_ZERO):
            entry.error("bad-quantity", f"{entry.what}.{key} = {shown(entry.data[key])}", "write a positive value", key)
            continue
        if value > MOST.get(key, math.inf):
            entry.error("bad-quantity", f"{entry.what}.{key} = {shown(entry.data[key])}", f"it is at most "
                f"{MOST[key]:g}",
                        key)  # fmt: skip
            continue
        out[key] = value
    if "z_0" in out and out["z_0"] >= out.get("z_min", (usual or {}).get("z_min", 2.0)):
        entry.error("bad-quantity", f"{entry.what}.z_0 = {out['z_0']:g} m is not below z_min", "state both", "z_0")
        out.pop("z_0")
    if "c_pi" in keys and entry.has("c_pi"):
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
    if max(map(abs, read)) > 1:  # type: ignore[arg-type]
        entry.error("bad-quantity", f"{entry.what}.c_pi = {shown(value)}", "write coefficients from -1 to 1", "c_pi")
        return {}
    return {"c_pi+": float(max(read)), "c_pi-": float(min(read))}  # type: ignore[type-var, arg-type]


def read_hill(entry: Entry) -> Hill | None:
    """The hill of [wind] or of a direction."""
    table = entry.child("hill").known()
    shape = table.word("shape", Rise)
    H, L_h, x = (table.quantity(k) for k in ("H", "L_h", "x"))
    if shape is None or H is None or L_h is None or x is None:
        return None
    if H <= 0 or L_h <= 0:
        table.error("bad-quantity", f"{table.what} has H = {H:g} m, L_h = {L_h:g} m", "both are positive")
        return None
    return Hill(shape, H, L_h, x)
