"""Bridge cranes of a model file, each a moving case.

[cranes.CR]
code     = "EN 1991-3"
runways  = ["runway/1@crane/*", "runway/2@crane/*"]
bridge   = "62 kN"
crab     = "10 kN"
lifts    = "50 kN"
approach = "0.9 m"
base     = "2.5 m"
"""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ...core.actions.traffic.cranes import asce, en
from ...core.model.cases import Case
from ...core.model.crane import Bumpers, Crane
from ...core.model.traffic import Assumed, Traffic, Vehicle, Way
from ...core.model.words import Beside, CraneCode, Entering, Heading, Hoisting, Operated, RailSide, Stance
from ..base.entry import Entry, shown
from ..base.selectors import Names
from .crane_keys import OF_CODE
from .traffic import read_row, read_step

Floats = NDArray[np.float64]
STRAIGHT = 2e-3
"""Nodes of a runway lie within this of one line, and runways as far from each other everywhere [m]."""
LEAST: dict[str, tuple[float, float]] = {
    "bridge": (0.0, 1e8), "crab": (0.0, 1e8), "lifts": (0.0, 1e8), "height": (-5.0, 5.0), "hoist_speed": (0.0, 5.0),
    "phi_2": (1.0, 3.0), "phi_4": (1.0, 3.0), "phi_5": (1.0, 4.0), "mu": (0.0, 1.0), "skew": (0.0, 0.1),
    "guide": (0.0, 50.0), "released": (0.0, 1.0), "beta_3": (0.0, 2.0), "eta": (0.0, 1.0),
}  # fmt: skip
"""From and to where values make sense, in SI."""
ASSUMED = (
    Assumed("skewing", "an angle of 0.015", "the greatest that EN 1991-3, 2.7.4 lets there be", "skew", Stance.SAFE),
    Assumed(
        "guidance",
        "by the flanges of the wheels, on either rail",
        "as nothing is stated about rollers",
        "guide",
        Stance.USUAL,
    ),
    Assumed("friction of driven wheels", "0.2", "steel on steel (EN 1991-3, 2.7.3)", "mu", Stance.USUAL),
    Assumed("phi_4", "1", "rails within the tolerances of EN 1993-6", "phi_4", Stance.USUAL),
    Assumed(
        "side thrust",
        "half on each rail",
        "as of runways that are alike sideways (ASCE 7, 4.9.4)",
        "thrust",
        Stance.USUAL,
    ),
)
NEEDED = ("bridge", "crab", "lifts", "height")


def read_cranes(model: Entry, cases: list[Case], names: Names, plane: bool) -> tuple[tuple[Traffic, ...], list[Case]]:
    """Cranes as traffic, and the cases with those that they make."""
    if not model.has("cranes"):
        return (), cases
    out: list[Traffic] = []
    made: list[Case] = []
    taken = {c.name for c in cases}
    for name, entry in model.child("cranes").children():
        if name in taken:
            entry.error("name-clash", f"{name} is a case, and a crane makes its own", "call one of them otherwise")
            continue
        case = Case(name, "moving", entry.text("title") or "crane", 0.0, entry.place, use="crane", moves=True)
        case = replace(case, together=entry.text("together") or "", one_of=entry.text("one_of") or "")
        if plane:
            entry.error("out-of-plane", f"{entry.what} goes on two runways, of which a plane model has one",
                        "model it in space, or write the wheels of one rail as [vehicles] and [traffic]")  # fmt: skip
        found = None if plane else _crane(name, entry, names)
        if found is not None:
            crane, traffic = found
            out.append(traffic)
            if crane.code == CraneCode.EN:
                case = replace(case, own=(("psi2", en.permanent_share(crane)),))
        made.append(case)
    return tuple(out), [*cases, *made]


def _crane(name: str, entry: Entry, names: Names) -> tuple[Crane, Traffic] | None:
    before = entry.notes.errors
    code = entry.word("code", CraneCode)
    if code is None:
        return None
    entry.known(OF_CODE[code])
    line = _line(entry, names)
    given = _quantities(entry, code)
    approach, base = _approach(entry), _base(entry)
    row, step = read_row(entry), read_step(entry)[0]
    more = _of_en(entry) if code == CraneCode.EN else _of_asce(entry)
    if entry.notes.errors != before or line is None or approach is None or base is None or more is None:
        return None
    if row is None or step is None:
        return None
    (start, end, span), members = line
    if not given["bridge"] + given["crab"] > 0:
        entry.error("bad-quantity", f"{entry.what} weighs nothing", "write the weights of bridge and crab", "bridge")
        return None
    if max(approach) >= span / 2:
        entry.error("bad-quantity", f"{entry.what}: its hook comes no nearer to a rail than {max(approach):g} m, "
                    f"beyond the middle of its span of {span:g} m", "write how near it comes", "approach")  # fmt: skip
        return None
    crane = replace(Crane(name, code, entry.place, span, 0.0, 0.0, 0.0, approach, base), **given, **more)
    states = (en if code == CraneCode.EN else asce).states
    vehicles: list[Vehicle] = [*states(crane), *states(crane.turned)]
    for fewer in range(1, row[0]):  # of several cranes some may be of no weight, or idle far away
        vehicles += [replace(v, name=f"{fewer}of{row[0]}.{v.name}", row=fewer) for v in vehicles if not v.row]
    way = Way(" and ".join(_words(entry.data["runways"])), entry.place_of("runways"), points=(start, end))
    units = entry.notes.units
    traffic = Traffic(
        name, tuple(vehicles), (way,), entry.place, Heading.BOTH, step, 0.0, Entering.WHOLLY, Beside.LEVER, 1.0,
        row[0], row[1], unit=(units.length, units.plain_factors("length")[1]), heading_stated=True, runways=members,
        assumed=tuple(a for a in ASSUMED if a.key in OF_CODE[code] and not entry.has(a.key)),
    )  # fmt: skip
    return crane, traffic


def _words(value: object) -> list[str]:
    each = value if isinstance(value, list) else [value]
    return [", ".join(map(str, w)) if isinstance(w, list) else str(w) for w in each]


def _line(entry: Entry, names: Names):  # type: ignore[no-untyped-def]
    """Both ends of the line midway between the runways, their distance [m], and their members."""
    value = entry.data.get("runways")
    if not isinstance(value, list) or len(value) != 2:
        if value is None:
            entry.missing("runways")
        else:
            entry.error("bad-way", f"{entry.what}.runways = {shown(value)}",
                        'name both: runways = ["runway/1/*", "runway/2/*"]', "runways")  # fmt: skip
        return None
    members: list[tuple[int, ...]] = []
    for words in value:
        found, missed = names.select_members(words if isinstance(words, list) else [words])
        names.report(entry, missed, "runways", f"{entry.what}.runways: no member or family")
        if missed or not found:
            return None
        members.append(tuple(found))
    if set(members[0]) & set(members[1]):
        both = names.members[min(set(members[0]) & set(members[1]))]
        entry.error("bad-way", f"{entry.what}.runways: {both} is in both", "name other members for each", "runways")
        return None
    at = [names.xyz[names.ends[list(own)].ravel()] for own in members]
    way = at[0][np.argmax(np.linalg.norm(at[0] - at[0][0], axis=1))] - at[0][0]
    way[2] = 0.0
    along = way / max(float(np.linalg.norm(way)), 1e-9)
    left = np.array([-along[1], along[0], 0.0])
    off = [(p - at[0][0]) @ left for p in at]
    apart = float(off[1].mean() - off[0].mean())
    bent = max(float(np.ptp(o)) for o in off) > STRAIGHT or max(float(np.ptp(p[:, 2])) for p in at) > STRAIGHT
    if bent or abs(apart) < 0.1 or abs(float(at[0][:, 2].mean() - at[1][:, 2].mean())) > STRAIGHT:
        entry.error("bad-way", f"{entry.what}: its runways are not two straight, level, parallel lines at one level",
                    "name the members of two such lines, or write [vehicles] and [traffic]", "runways")  # fmt: skip
        return None
    s = [(p - at[0][0]) @ along for p in at]
    if apart > 0:  # the first rail is to the left of who goes along
        along, left, s = -along, -left, [-v for v in s]
        off, apart = [-v for v in off], -apart
    low, high = max(float(v.min()) for v in s), min(float(v.max()) for v in s)
    if high - low < STRAIGHT:
        entry.error("bad-way", f"{entry.what}: its runways do not lie beside each other", "name two that do", "runways")
        return None
    middle = at[0][0] + left * (float(off[0].mean()) + apart / 2)
    ends = [tuple(float(v) for v in middle + along * x) for x in (low, high)]
    return (*ends, abs(apart)), tuple(members)


def _quantities(entry: Entry, code: CraneCode) -> dict[str, Any]:
    out = {}
    for key, (least, most) in LEAST.items():
        if key not in OF_CODE[code] or (not entry.has(key) and key not in NEEDED):
            continue
        value = entry.quantity(key)
        if value is not None and not least <= value <= most:
            entry.error("bad-quantity", f"{entry.what}.{key} = {shown(entry.data[key])}",
                        f"write a value from {least:g} to {most:g} (in SI)", key)  # fmt: skip
        elif value is not None:
            out[key] = value
    return out


def _lengths(entry: Entry, key: str, most: int) -> list[float] | None:
    if not entry.has(key):
        entry.missing(key)
        return None
    value = entry.data[key]
    each = value if isinstance(value, list) else [value]
    read = [entry.as_quantity(v, key, kind="length") for v in each]
    if None in read:
        return None
    if not 1 <= len(read) <= most or any(v is None or not 0 < v <= 100 for v in read):
        entry.error("bad-quantity", f"{entry.what}.{key} = {shown(value)}", f"write 1 to {most} distances", key)
        return None
    return [v for v in read if v is not None]


def _approach(entry: Entry) -> tuple[float, float] | None:
    read = _lengths(entry, "approach", 2)
    return None if read is None else (read[0], read[-1])


def _base(entry: Entry) -> tuple[float, ...] | None:
    read = _lengths(entry, "base", 15)
    return None if read is None else tuple(read)


def _of_en(entry: Entry) -> dict[str, Any] | None:
    out: dict[str, Any] = {"groups": _groups(entry)}
    if not entry.has("phi_2"):
        for key in ("hoisting", "hoist_speed"):
            if not entry.has(key):
                entry.error("missing-key", f"{entry.what} has no `{key}`, for phi_2 (EN 1991-3, table 2.5)",
                            'add hoisting = "HC1" to "HC4" and hoist_speed = "8 m/min", or phi_2')  # fmt: skip
    if entry.has("hoisting"):
        out["hoisting"] = entry.word("hoisting", Hoisting)
    if not entry.has("phi_5"):
        entry.error("missing-key", f"{entry.what} has no `phi_5` for its drives (EN 1991-3, table 2.6)",
                    "add phi_5 = 1.5 where forces change smoothly, to 2 where suddenly, 3 with much play")  # fmt: skip
    driven = entry.quantity("driven") if entry.has("driven") else None
    if driven is None or driven != int(driven) or not 1 <= driven <= 32:
        entry.error("missing-key" if not entry.has("driven") else "bad-quantity",
                    f"{entry.what}: how many wheels are driven is not known", "add driven = 2, of both rails together",
                    *(["driven"] if entry.has("driven") else []))  # fmt: skip
    else:
        out["driven"] = int(driven)
    if entry.has("movable"):
        out["movable"] = entry.word("movable", RailSide)
    if entry.has("buffers"):
        inner = entry.child("buffers").known()
        speed, spring, xi = (inner.quantity(k) for k in ("speed", "spring", "xi_b"))
        if None not in (speed, spring, xi):
            if not 0 <= xi <= 1 or min(speed, spring) <= 0:  # type: ignore[type-var, operator]
                inner.error("bad-quantity", f"{inner.what} = {shown(entry.data['buffers'])}",
                            "write a speed, a spring, and xi_b from 0 to 1")  # fmt: skip
            else:
                out["bumpers"] = Bumpers(speed, spring, xi)  # type: ignore[arg-type]
    groups = out["groups"]
    if groups is None:
        return None
    if 9 in groups and not entry.has("buffers"):
        entry.error("missing-key", f"{entry.what}: group 9 is a crane that runs into its buffers",
                    'add buffers = { speed = "1 m/s", spring = "400 kN/m" }', "groups")  # fmt: skip
    if 2 in groups and not entry.has("released"):
        entry.error("missing-key", f"{entry.what}: group 2 is a load set free suddenly",
                    "add released = 0.5, the share of it, and beta_3", "groups")  # fmt: skip
    return out


def _groups(entry: Entry) -> tuple[int, ...] | None:
    if not entry.has("groups"):
        return tuple(sorted({*en.USUAL, *([2] if entry.has("released") else [])}))
    value = entry.data["groups"]
    each = value if isinstance(value, list) else [value]
    if not each or not all(isinstance(g, int) and not isinstance(g, bool) and g in en.KNOWN for g in each):
        entry.error("bad-quantity", f"{entry.what}.groups = {shown(value)}",
                    "list groups of loads of EN 1991-3, table 2.2: 1 to 7, or 9; tests (8) and tilting (10) are "
                    "loads of their own", "groups")  # fmt: skip
        return None
    return tuple(dict.fromkeys(each))


def _of_asce(entry: Entry) -> dict[str, Any]:
    out: dict[str, Any] = {"operated": entry.word("operated", Operated)}
    if entry.has("thrust"):
        value = entry.data["thrust"]
        each = [entry.as_quantity(v, "thrust", kind="number") for v in value] if isinstance(value, list) else []
        read = [v for v in each if v is not None]
        if len(read) != 2 or len(each) != 2 or min(read) < 0 or abs(sum(read) - 1) > 1e-6:
            entry.error("bad-quantity", f"{entry.what}.thrust = {shown(value)}",
                        "write the shares of both rails, which are 1 together: [0.5, 0.5]", "thrust")  # fmt: skip
        else:
            out["thrust"] = tuple(read)
    return out
