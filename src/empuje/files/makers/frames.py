"""Regular frames of bays and storeys, pitched portals with haunches, arches, and stairs."""

from __future__ import annotations

import itertools
import math
from dataclasses import replace

import numpy as np

from ...core.catalogue.shapes import section, why_impossible
from ...core.model.frame import Section
from ...core.model.words import Made
from .drawn import Asking, Drawn, Floats


def frame(asking: Asking) -> Drawn | None:
    """Columns and beams of regular bays and storeys; point i-j.k is the i-th along x, the j-th along y, on level k."""
    entry, plane = asking.entry, asking.book.plane
    at, storeys, along = asking.place("at"), asking.lengths("storeys"), asking.lengths("bays")
    across = asking.lengths("bays_across") if entry.has("bays_across") else []
    turn = entry.quantity("turn")
    columns, beams = asking.family("columns"), asking.family("beams")
    cross = asking.family("beams_across", beams)
    if plane and (entry.has("turn") or across):
        key = "turn" if entry.has("turn") else "bays_across"
        entry.error("out-of-plane", f"{entry.what}.{key} leaves the plane of the model", "take it out", key)
        return None
    if at is None or storeys is None or along is None or across is None or turn is None:
        return None
    if columns is None or beams is None or cross is None:
        return None
    x, y, z = (np.array([0.0, *itertools.accumulate(lengths)]) for lengths in (along, across, storeys))
    if len(x) * len(y) * len(z) > 100_000:
        entry.error("too-many", f"{entry.what} has {len(x) * len(y) * len(z):,} joints", "at most 100,000")
        return None
    c, s = math.cos(turn), math.sin(turn)
    out = Drawn()
    for (i, dx), (j, dy), (k, dz) in itertools.product(enumerate(x), enumerate(y), enumerate(z)):
        out.point(f"{i + 1}-{j + 1}.{k}", at + np.array([c * dx - s * dy, s * dx + c * dy, dz]))
    for i, j, k in itertools.product(range(len(x)), range(len(y)), range(len(z))):
        here = f"{i + 1}-{j + 1}.{k}"
        if k + 1 < len(z):
            out.line(columns, f"{here}.z", here, f"{i + 1}-{j + 1}.{k + 1}")
        if k and i + 1 < len(x):
            out.line(beams, f"{here}.x", here, f"{i + 2}-{j + 1}.{k}")
        if k and j + 1 < len(y):
            out.line(cross, f"{here}.y", here, f"{i + 1}-{j + 2}.{k}")
    return out


def portal(asking: Asking) -> Drawn | None:
    """A pitched portal: two columns and two rafters, with haunches as steps of deeper sections.

              ridge
         .--'   '--.
    h1 /             \\      a haunch: steps that become shallower away from the column
      |               |
     from             to
    """
    entry = asking.entry
    ends = asking.upright()
    eaves, ridge = asking.length("eaves", 1e-3), asking.length("ridge", 1e-3)
    columns, rafters = asking.family("columns"), asking.family("rafters")
    if ends is None or eaves is None or ridge is None or columns is None or rafters is None:
        return None
    a, b = ends
    if ridge <= eaves:
        entry.error("bad-quantity", f"{entry.what}: the ridge is no higher than the eaves",
                    "both count from the feet", "ridge")  # fmt: skip
        return None
    up = np.array([0.0, 0.0, 1.0])
    # Both feet may be at their own level; eaves and ridge are level from the first.
    left, right, top = a + eaves * up, b * [1, 1, 0] + (a[2] + eaves) * up, (a + b) / 2
    top = top * [1, 1, 0] + (a[2] + ridge) * up
    if right[2] - b[2] <= 1e-3:
        entry.error("bad-quantity", f"{entry.what}: its second foot is as high as the eaves", "count eaves from the "
                    "first foot", "eaves")  # fmt: skip
        return None
    out = Drawn()
    for label, at in (("foot1", a), ("foot2", b), ("eave1", left), ("eave2", right), ("ridge", top)):
        out.point(label, at)
    out.line(columns, "1", "foot1", "eave1")
    out.line(columns, "2", "foot2", "eave2")
    length = float(np.linalg.norm(top - left))
    low, high = (_steps(asking, key, rafters, length) if entry.has(key) else [] for key in ("haunch", "apex"))
    if low is None or high is None:
        return None
    if (low[-1][0] if low else 0.0) + (high[-1][0] if high else 0.0) > length - 1e-3:
        entry.error("bad-quantity", f"{entry.what}: haunches of the rafters meet; these are {length:.4g} m long",
                    "make them shorter", "haunch")  # fmt: skip
        return None
    for side, eave in (("1", left), ("2", right)):
        way = (top - eave) / length
        stops = [f"eave{side}"]
        sections: list[Section | None] = []
        for k, (s, deeper) in enumerate(low):
            stops.append(out.point(f"haunch{side}.{k + 1}", eave + s * way))
            sections.append(deeper)
        sections.append(None)
        for k, (s, deeper) in enumerate(reversed(high)):
            stops.append(out.point(f"apex{side}.{k + 1}", top - s * way))
            sections.append(deeper)
        stops.append("ridge")
        for k, (start, end) in enumerate(itertools.pairwise(stops)):
            own = replace(asking.families[rafters].style, section=sections[k]) if sections[k] is not None else None
            out.line(rafters, f"{side}.{k + 1}" if len(stops) > 2 else side, start, end, own)
    return out


def _steps(asking: Asking, key: str, rafters: str, length: float) -> list[tuple[float, Section]] | None:
    """Where the steps of a haunch end along the rafter [m], and their sections: of the rafter's flanges and web, as
    deep as the haunch is in the middle of the step."""
    entry = asking.entry.child(key).known()
    inner = replace(asking, entry=entry)
    reach, depth, n = inner.length("length", 1e-3), inner.length("depth", 1e-3), inner.count("steps", 1, 50)
    if reach is None or depth is None or n is None:
        return None
    own = asking.families[rafters].section
    d = dict(own.dimensions)
    if own.shape not in ("I", "wide flange"):
        entry.error("bad-section", f"{entry.what}: {own.name} of {rafters} is no I", "take an I by its dimensions")
        return None
    if depth <= d["h"]:
        entry.error("bad-quantity", f"{entry.what}.depth is no more than the {d['h'] * 1e3:.4g} mm of {own.name}",
                    "it counts from flange to flange, at the column", "depth")  # fmt: skip
        return None
    if reach >= length:
        entry.error("bad-quantity", f"{entry.what}.length is no shorter than the rafter, {length:.4g} m",
                    "it counts along the rafter", "length")  # fmt: skip
        return None
    out = []
    for k in range(n):
        h = depth + (d["h"] - depth) * (k + 0.5) / n
        sizes = {"h": h} | {name: d[name] for name in ("b", "tw", "tf", "r") if name in d}
        name = f"{own.name} haunch {h * 1e3:.6g}"
        if why_impossible("I", sizes):
            entry.error("bad-section", f"{entry.what}: {name} cannot be built: {why_impossible('I', sizes)}")
            return None
        out.append(((k + 1) * reach / n, section(name, "I", sizes, Made.WELDED)))
    return out


def arch(asking: Asking) -> Drawn | None:
    """An arch as a polygon with its corners on a circle or a parabola."""
    entry = asking.entry
    ends, rise, n = asking.two_places(), asking.length("rise", 1e-3), asking.count("pieces", 2)
    family, curve = asking.family("family"), entry.text("curve")
    if ends is None or rise is None or n is None or family is None or curve is None:
        return None
    toward = asking.toward(ends[1] - ends[0])
    if toward is None:
        return None
    out = Drawn()
    for i, at in enumerate(_on_arch(*ends, rise, n, curve, toward)):
        out.point(str(i), at)
        if i:
            out.line(family, str(i), str(i - 1), str(i))
    return out


def _on_arch(a: Floats, b: Floats, rise: float, n: int, curve: str, toward: Floats) -> Floats:
    """The corners (n + 1, 3) [m]: evenly round a circle, or evenly along the chord of a parabola. The rise is at a
    right angle to the chord, in the plane of `toward`."""
    chord = b - a
    span = float(np.linalg.norm(chord))
    x = chord / span
    z = toward - (toward @ x) * x
    z /= np.linalg.norm(z)
    if curve == "parabola":
        s = np.linspace(0.0, 1.0, n + 1)
        along, off = s * span, 4 * rise * s * (1 - s)
    else:
        # Radius from the chord and the rise; beyond a half circle the angle is more than pi.
        R = (span**2 / 4 + rise**2) / (2 * rise)
        half = math.atan2(span / 2, R - rise)
        angle = np.linspace(-half, half, n + 1)
        along, off = span / 2 + R * np.sin(angle), R * np.cos(angle) - (R - rise)
    out = a + along[:, None] * x + off[:, None] * z
    out[0], out[-1] = a, b
    return out


def stair(asking: Asking) -> Drawn | None:
    """A flight of stairs: one stringer or two, level at the landings, with treads between the two.

                      .----- to
                .--'
    from -----'
        |<-->| landing
    """
    entry = asking.entry
    ends = asking.upright()
    landings = asking.lengths("landings", 0.0) if entry.has("landings") else [0.0]
    stringers = asking.family("stringers")
    if ends is None or landings is None or stringers is None:
        return None
    a, b = ends
    way = (b - a) * [1, 1, 0]
    reach = float(np.linalg.norm(way))
    first, last = landings[0], landings[-1]
    if len(landings) > 2 or first + last >= reach - 1e-3:
        entry.error("bad-quantity", f"{entry.what}.landings leave nothing of {reach:.4g} m for the flight",
                    "write one length for both ends, or [lower, upper]", "landings")  # fmt: skip
        return None
    way /= reach
    corners = [a, *([a + first * way] if first else []), *([b - last * way] if last else []), b]
    names = ["foot", *(["lower"] if first else []), *(["upper"] if last else []), "head"]
    sides = [("1", np.zeros(3))]
    if entry.has("width"):
        width = asking.length("width", 1e-3)
        if width is None or asking.book.plane:
            if asking.book.plane:
                entry.error("out-of-plane", f"{entry.what}.width leaves the plane of the model", "take it out", "width")
            return None
        sides.append(("2", width * np.array([-way[1], way[0], 0.0])))
    out = Drawn()
    for side, off in sides:
        labels = [out.point(f"{name}{side}", at + off) for name, at in zip(names, corners, strict=True)]
        for k, (start, end) in enumerate(itertools.pairwise(labels)):
            out.line(stringers, f"{side}.{k + 1}" if len(labels) > 2 else side, start, end)
    if entry.has("treads"):
        treads, number = asking.family("treads"), asking.count("risers", 2, 200)
        if treads is None or number is None:
            return None
        if len(sides) < 2:
            entry.error("missing-key", f"{entry.what} has treads, but no width", "add width = ...", "treads")
            return None
        low, high = corners[1 if first else 0], corners[-2 if last else -1]
        for k in range(1, number):
            at = low + (high - low) * k / number
            one, other = (out.point(f"tread{side}.{k}", at + off) for side, off in sides)
            out.line(treads, f"t{k}", one, other)
    return out
