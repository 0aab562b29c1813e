"""Cross-sections from their dimensions.

    >>> round(section("plate", "rectangle", {"h": 0.2, "b": 0.1}).Iy * 1e8, 1)      # [cm4]
    6666.7

        I and tee            channel             angle            box, hollow
        |<-- b -->|          |<- b ->|           | |              +---------+ -
        =====+===== - tf     +======== - tf      | |              |         | h
             |    r          | r                 | | r            |         |
             | tw    h       | tw      h         | +------ - t    +---------+ -
        =====+=====          +========           +--------        |<-- b -->|

Torsion: open shapes as rectangles with their junctions (Roark's Formulas for Stress and Strain, 7th ed., table 10.1;
wide flange: AISC design guide 9, appendix C.2); hollow shapes EN 10210-2 annex B; solid rectangles by Saint-Venant's
series.
Warping: thin-walled theory; 0 for closed and solid shapes.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import replace

import numpy as np

from ..model.frame import Section
from ..model.words import Made
from .polygon import ARC_STEPS, Loops, bands, moments, moved, plastic_modulus, rounded, shear_area

Dimensions = dict[str, float]


def _built(name: str, loops: Loops, J: float, Iw: float = 0.0, principal: bool = False) -> Section:
    """A section from its outline, about the centroid; about the principal axes where asked."""
    A, Sy, Sz, *_ = moments(loops)
    loops = moved(loops, -Sz / A, -Sy / A)
    turn = 0.0
    if principal:
        _, _, _, Iy, Iz, Iyz = moments(loops)
        turn = 0.5 * math.atan2(-2 * Iyz, Iy - Iz)
        loops = moved(loops, 0, 0, turn)
    A, _, _, Iy, Iz, _ = moments(loops)
    y, z = loops[0].T
    # Integrals about z: those about y of the outline seen from axes turned a quarter.
    upright, across = bands(loops), bands(moved(loops, 0, 0, math.pi / 2))
    return Section(
        name, float(A), float(Iy), float(Iz), J, Iw,
        Ay=shear_area(across, Iz), Az=shear_area(upright, Iy),
        Wel_y=float(Iy / np.abs(z).max()), Wel_z=float(Iz / np.abs(y).max()),
        Wpl_y=plastic_modulus(upright), Wpl_z=plastic_modulus(across), turn=turn, outline=tuple(loops),
    )  # fmt: skip


def _strip(a: float, b: float) -> float:
    """J of a rectangle a by b with both ends free (a the longer side)."""
    a, b = max(a, b), min(a, b)
    return a * b**3 * (1 / 3 - 0.21 * b / a * (1 - b**4 / (12 * a**4)))


def _stub(c: float, d: float) -> float:
    """J of a strip c long and d thick that joins another at one end."""
    return c * d**3 * (1 / 3 - 0.105 * d / c * (1 - d**4 / (192 * c**4)))


def _tee_joint(tf: float, tw: float, r: float) -> float:
    thin, thick = min(tf, tw), max(tf, tw)
    D = ((tf + r) ** 2 + r * tw + tw**2 / 4) / (2 * r + tf)
    return thin / thick * (0.15 + 0.1 * r / tf) * D**4


def _flange_joint(tf: float, tw: float, r: float) -> float:
    """The junction of a rolled I, finer than the tee's: El Darwish and Johnston 1965, AISC design guide 9, app. C.2."""
    D = ((tf + r) ** 2 + tw * (r + tw / 4)) / (2 * r + tf)
    w, f = tw / tf, r / tf
    return (-0.042 + 0.2204 * w + 0.1355 * f - 0.0865 * f * w - 0.0725 * w**2) * D**4


def _corner_joint(t1: float, t2: float, r: float) -> float:
    b, d = max(t1, t2), min(t1, t2)
    D = 2 * (d + b + 3 * r - math.sqrt(2 * (2 * r + b) * (2 * r + d)))
    return d / b * (0.07 + 0.076 * r / b) * D**4


def _mirrored(half: list[list[float]], radii: list[float]) -> tuple[np.ndarray, list[float]]:
    """A loop symmetrical about z from its right half, listed from bottom to top."""
    points = np.array(half)
    return np.vstack([points, points[::-1] * [-1, 1]]), radii + radii[::-1]


def _i_shape(name: str, d: Dimensions) -> Section:
    h, b, tw, tf, r = d["h"], d["b"], d["tw"], d["tf"], d.get("r", 0.0)
    return _i_with(name, d, 2 * _strip(b, tf) + (h - 2 * tf) * tw**3 / 3 + 2 * _tee_joint(tf, tw, r))


def _wide_flange(name: str, d: Dimensions) -> Section:
    """An I whose torsion is that of the US tables; they and the European ones differ by up to 8% for light shapes."""
    h, b, tw, tf, r = d["h"], d["b"], d["tw"], d["tf"], d.get("r", 0.0)
    flanges = 2 / 3 * b * tf**3 - 0.42 * tf**4
    return _i_with(name, d, flanges + (h - 2 * tf) * tw**3 / 3 + 2 * _flange_joint(tf, tw, r))


def _i_with(name: str, d: Dimensions, J: float) -> Section:
    h, b, tw, tf, r = d["h"], d["b"], d["tw"], d["tf"], d.get("r", 0.0)
    right = [[b / 2, -h / 2], [b / 2, tf - h / 2], [tw / 2, tf - h / 2],
             [tw / 2, h / 2 - tf], [b / 2, h / 2 - tf], [b / 2, h / 2]]  # fmt: skip
    points, radii = _mirrored(right, [0, 0, r, r, 0, 0])
    plain = _built(name, [rounded(points, radii)], J)
    return replace(plain, Iw=plain.Iz * (h - tf) ** 2 / 4)


def _tee(name: str, d: Dimensions) -> Section:
    h, b, tw, tf, r = d["h"], d["b"], d["tw"], d["tf"], d.get("r", 0.0)
    right = [[tw / 2, 0], [tw / 2, h - tf], [b / 2, h - tf], [b / 2, h]]
    points, radii = _mirrored(right, [0, r, 0, 0])
    J = _strip(b, tf) + _stub(h - tf, tw) + _tee_joint(tf, tw, r)
    Iw = (tf * b) ** 3 / 144 + (tw * (h - tf / 2)) ** 3 / 36
    return _built(name, [rounded(points, radii)], J, Iw)


def _channel(name: str, d: Dimensions) -> Section:
    h, b, tw, tf, r = d["h"], d["b"], d["tw"], d["tf"], d.get("r", 0.0)
    points = [[0, -h / 2], [b, -h / 2], [b, tf - h / 2], [tw, tf - h / 2],
              [tw, h / 2 - tf], [b, h / 2 - tf], [b, h / 2], [0, h / 2]]  # fmt: skip
    J = 2 * _strip(b, tf) + (h - 2 * tf) * tw**3 / 3 + 2 * _corner_joint(tf, tw, r)
    return _built(name, [rounded(points, [0, 0, 0, r, r, 0, 0, 0])], J, _channel_warping(h, b, tw, tf))


def _sloping(d: Dimensions, overhang: float) -> tuple[float, float]:
    """Thickness of a flange at its tip and at the web, from tf at u from the tip, and its slope."""
    return d["tf"] - d["slope"] * d["u"], d["tf"] + d["slope"] * (overhang - d["u"])


def _tapered_i(name: str, d: Dimensions) -> Section:
    """An I whose flanges get thicker towards the web: r at the web, r2 at the tips."""
    h, b, tw, r, toe = d["h"], d["b"], d["tw"], d["r"], d["r2"]
    tip, root = _sloping(d, (b - tw) / 2)
    right = [[b / 2, -h / 2], [b / 2, tip - h / 2], [tw / 2, root - h / 2],
             [tw / 2, h / 2 - root], [b / 2, h / 2 - tip], [b / 2, h / 2]]  # fmt: skip
    points, radii = _mirrored(right, [0, toe, r, r, toe, 0])
    mean = (tip + root) / 2
    J = 2 * _strip(b, mean) + (h - 2 * mean) * tw**3 / 3 + 2 * _tee_joint(root, tw, r)
    plain = _built(name, [rounded(points, radii)], J)
    return replace(plain, Iw=plain.Iz * (h - mean) ** 2 / 4)


def _tapered_channel(name: str, d: Dimensions) -> Section:
    h, b, tw, r, toe = d["h"], d["b"], d["tw"], d["r"], d["r2"]
    tip, root = _sloping(d, b - tw)
    mean = (tip + root) / 2
    points = [[0, -h / 2], [b, -h / 2], [b, tip - h / 2], [tw, root - h / 2],
              [tw, h / 2 - root], [b, h / 2 - tip], [b, h / 2], [0, h / 2]]  # fmt: skip
    J = 2 * _strip(b, mean) + (h - 2 * mean) * tw**3 / 3 + 2 * _corner_joint(root, tw, r)
    return _built(name, [rounded(points, [0, 0, toe, r, r, toe, 0, 0])], J, _channel_warping(h, b, tw, mean))


def _channel_warping(h: float, b: float, tw: float, tf: float) -> float:
    c, e = b - tw / 2, h - tf
    return tf * c**3 * e**2 / 12 * (3 * c * tf + 2 * e * tw) / (6 * c * tf + e * tw)


def _double_angle(name: str, d: Dimensions) -> Section:
    """Two angles back to back, their legs h upright and a gap between them, which battens hold: one section."""
    h, b, t, r, toe, gap = d["h"], d["b"], d["t"], d.get("r", 0.0), d.get("r2", 0.0), d["gap"]
    points = np.array([[0, 0], [b, 0], [b, t], [t, t], [t, h], [0, h]])
    right = rounded(points + np.array([gap / 2, 0]), [0, 0, toe, r, toe, 0])
    left = (right * [-1, 1])[::-1]
    J = 2 * (_strip(max(h, b), t) + _stub(min(h, b) - t, t) + _corner_joint(t, t, r))
    return _built(name, [right, left], J)


def _angle(name: str, d: Dimensions) -> Section:
    h, b, t, r, toe = d["h"], d["b"], d["t"], d.get("r", 0.0), d.get("r2", 0.0)
    points = np.array([[0, 0], [b, 0], [b, t], [t, t], [t, h], [0, h]])
    J = _strip(max(h, b), t) + _stub(min(h, b) - t, t) + _corner_joint(t, t, r)
    Iw = t**3 / 36 * ((h - t / 2) ** 3 + (b - t / 2) ** 3)
    return _built(name, [rounded(points, [0, 0, toe, r, toe, 0])], J, Iw, principal=True)


def _rectangle(name: str, d: Dimensions) -> Section:
    h, b = d["h"], d["b"]
    long, short = max(h, b), min(h, b)
    n = np.arange(1, 40, 2)
    series = (np.tanh(n * math.pi * long / (2 * short)) / n**5.0).sum()
    J = long * short**3 * (1 / 3 - 64 / math.pi**5 * short / long * float(series))
    return _built(name, [np.array([[-b, -h], [b, -h], [b, h], [-b, h]]) / 2], J)


def _box(name: str, d: Dimensions) -> Section:
    h, b, tw, tf = d["h"], d["b"], d["tw"], d["tf"]
    ring = np.array([[-1, -1], [1, -1], [1, 1], [-1, 1]]) / 2
    e, c = h - tf, b - tw
    J = 4 * (e * c) ** 2 / (2 * e / tw + 2 * c / tf) + (2 * e * tw**3 + 2 * c * tf**3) / 3
    return _built(name, [ring * [b, h], (ring * [b - 2 * tw, h - 2 * tf])[::-1]], J)


def _hollow(name: str, d: Dimensions) -> Section:
    h, b, t, outer, inner = d["h"], d["b"], d["t"], d["r"], d["r2"]
    ring = np.array([[-1, -1], [1, -1], [1, 1], [-1, 1]]) / 2
    loops = [rounded(ring * [b, h], [outer] * 4), rounded(ring * [b - 2 * t, h - 2 * t], [inner] * 4)[::-1]]
    corner = (outer + inner) / 2
    around = 2 * (b - t + h - t) - 2 * corner * (4 - math.pi)
    inside = (b - t) * (h - t) - corner**2 * (4 - math.pi)
    return _built(name, loops, t**3 * around / 3 + 4 * inside**2 * t / around)


def _circle(name: str, d: Dimensions) -> Section:
    return _round(name, d["d"], 0.0)


def _pipe(name: str, d: Dimensions) -> Section:
    return _round(name, d["d"], d["d"] - 2 * d["t"])


def _round(name: str, outer: float, inner: float) -> Section:
    """Closed forms; the outline is only for drawing and for fibres."""
    A = math.pi / 4 * (outer**2 - inner**2)
    I = math.pi / 64 * (outer**4 - inner**4)  # noqa: E741
    angle = np.linspace(0, 2 * math.pi, 4 * ARC_STEPS, endpoint=False)
    unit = np.column_stack([np.cos(angle), np.sin(angle)]) / 2
    loops = [unit * outer] + ([unit[::-1] * inner] if inner > 0 else [])
    W, Wpl = 2 * I / outer, (outer**3 - inner**3) / 6
    As = shear_area(bands(loops), I)
    return Section(name, A, I, I, 2 * I, 0.0, As, As, W, W, Wpl, Wpl, outline=tuple(loops))


SHAPES: dict[str, tuple[tuple[str, ...], tuple[str, ...], Callable[[str, Dimensions], Section]]] = {
    "I": (("h", "b", "tw", "tf"), ("r",), _i_shape),
    "wide flange": (("h", "b", "tw", "tf"), ("r",), _wide_flange),
    "channel": (("h", "b", "tw", "tf"), ("r",), _channel),
    "tee": (("h", "b", "tw", "tf"), ("r",), _tee),
    "angle": (("h", "b", "t"), ("r", "r2"), _angle),
    "rectangle": (("h", "b"), (), _rectangle),
    "box": (("h", "b", "tw", "tf"), (), _box),
    "hollow": (("h", "b", "t", "r", "r2"), (), _hollow),
    "circle": (("d",), (), _circle),
    "pipe": (("d", "t"), (), _pipe),
}
"""Shape: its needed dimensions, its optional ones, and what builds it."""
ROLLED: dict[str, Callable[[str, Dimensions], Section]] = {
    "tapered I": _tapered_i, "tapered channel": _tapered_channel, "double angle": _double_angle,
}  # fmt: skip
"""Shapes of the catalogue only."""


def why_impossible(shape: str, d: Dimensions) -> str | None:
    """What is wrong with the dimensions, or None: [m], all needed ones given."""
    for key, value in d.items():
        if value < 0 or (value == 0 and key not in ("r", "r2")):
            return f"{key} must be positive"
    t = d.get("t", 0.0)
    tw, tf, h, b = d.get("tw", t), d.get("tf", t), d.get("h", d.get("d", 0)), d.get("b", d.get("d", 0))
    r, toe = d.get("r", 0.0), d.get("r2", 0.0)
    two_sided = shape in ("I", "wide flange", "channel", "box", "hollow", "pipe")
    if two_sided and 2 * tf >= h:
        return "the walls or flanges are thicker than half the depth h"
    if shape in ("tee", "angle") and (tf >= h or tw >= b):
        return "a leg is thicker than the section"
    if shape in ("box", "hollow", "pipe") and 2 * tw >= b:
        return "the walls are thicker than half the width b"
    if shape in ("I", "wide flange", "channel", "tee") and tw >= b:
        return "the web tw is as wide as the flange b"
    if shape in ("I", "wide flange", "tee", "channel"):
        clear = (b - tw) / (1 if shape == "channel" else 2)
        if r > clear or (2 * r > h - 2 * tf if two_sided else r > h - tf):
            return "the root radius r does not fit"
    if shape == "angle" and (toe > t or r + toe > min(h, b) - t):
        return "the radii r, r2 do not fit"
    if shape == "hollow" and (2 * r > min(h, b) or 2 * toe > min(h, b) - 2 * t):
        return "the corner radii r, r2 do not fit"
    return None


def section(name: str, shape: str, dimensions: Dimensions, made: Made | None = None) -> Section:
    """The section of a shape with the given dimensions [m]; how it is made, where that is not usual.

    Raises ValueError where the dimensions make no section, KeyError where one is missing or the shape is unknown.
    """
    if shape in ROLLED:
        return _known(ROLLED[shape](name, dimensions), shape, dimensions, made)
    needed, optional, build = SHAPES[shape]
    for key in needed:
        dimensions[key]
    wrong = why_impossible(shape, dimensions)
    if wrong:
        raise ValueError(f"{name}: {wrong}")
    own = {k: v for k, v in dimensions.items() if k in needed + optional}
    return _known(build(name, own), shape, own, made)


def usually_made(shape: str, dimensions: Dimensions) -> Made:
    """How a section is made where nothing is said: an I, tee or channel without root radii, and a box, are welded;
    tubes are cold formed, which is the less strong."""
    if shape == "box" or (shape in ("I", "tee", "channel") and not dimensions.get("r")):
        return Made.WELDED
    return Made.COLD if shape in ("hollow", "pipe") else Made.ROLLED


def _known(built: Section, shape: str, dimensions: Dimensions, made: Made | None) -> Section:
    how = usually_made(shape, dimensions) if made is None else made
    return replace(built, shape=shape, dimensions=tuple(dimensions.items()), made=how)
