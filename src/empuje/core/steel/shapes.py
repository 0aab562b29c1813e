"""What checks of steel need to know of cross-sections: their kind, flat widths, shear areas, the shear centre.

|<--- b --->|                   c: flat parts, from root to root, or from root to tip
============= - tf
      |         | c of the web   y0, z0: the shear centre, from the centroid
      | tw  h   |
============= -
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, fields

import numpy as np
from numpy.typing import NDArray

from ..model.frame import Section
from ..model.words import Made

Floats = NDArray[np.float64]
KINDS = ("I", "channel", "tee", "angle", "hollow", "pipe", "solid", "round")
KIND_OF = {
    "I": "I", "wide flange": "I", "tapered I": "I", "channel": "channel", "tapered channel": "channel", "tee": "tee",
    "angle": "angle", "hollow": "hollow", "box": "hollow", "pipe": "pipe", "rectangle": "solid", "circle": "round",
}  # fmt: skip
"""Kinds by the shapes of the catalogue; what is none of them is not checked."""


@dataclass(frozen=True)
class Shapes:
    """Sections of one kind, an array (n,) for each property [m, m2, ...]: A, Iy, Iz, It, Iw; W elastic and plastic; h,
    b, tw, tf, r; flat widths of web and flange; y0, z0 of the shear centre; z_j of tees (EN 1999-1-1, I.1.2: z0 less
    half the integral of z (y^2 + z^2) over I_y; positive where the flange is above); whether they are welded, cold
    formed, and `strong`: of S460, whose buckling curves differ."""

    kind: str
    A: Floats
    Iy: Floats
    Iz: Floats
    It: Floats
    Iw: Floats
    Wel_y: Floats
    Wel_z: Floats
    Wpl_y: Floats
    Wpl_z: Floats
    h: Floats
    b: Floats
    tw: Floats
    tf: Floats
    r: Floats
    c_web: Floats
    c_flange: Floats
    y0: Floats
    z0: Floats
    zj: Floats
    welded: Floats
    cold: Floats
    strong: Floats

    @property
    def thickest(self) -> Floats:
        """The thickness that decides the strength [m]."""
        return np.maximum(self.tw, self.tf)

    @property
    def hw(self) -> Floats:
        """The web's depth between flanges [m]."""
        return self.h - 2 * self.tf

    def take(self, rows: NDArray[np.intp]) -> Shapes:
        """Some of them, or some of them often."""
        return Shapes(self.kind, *(getattr(self, f.name)[rows] for f in fields(self)[1:]))

    def column(self) -> Shapes:
        """As columns (n, 1), beside results."""
        return Shapes(self.kind, *(getattr(self, f.name)[:, None] for f in fields(self)[1:]))


def kind_of(section: Section) -> str:
    """The kind of a section, or "" where it is none that is checked."""
    return KIND_OF.get(section.shape, "")


def shapes_of(sections: Sequence[Section]) -> Shapes:
    """Sections of one kind as arrays. Raises ValueError for several kinds, or none."""
    kinds = {kind_of(s) for s in sections}
    if len(kinds) != 1 or "" in kinds:
        raise ValueError("sections of one kind are needed")
    (kind,) = kinds
    rows = {id(s): _row(kind, s) for s in {id(s): s for s in sections}.values()}
    return Shapes(kind, *np.array([rows[id(s)] for s in sections], float).T)


def _row(kind: str, s: Section) -> list[float]:
    d = dict(s.dimensions)
    t = d.get("t", d.get("tw", 0.0))
    h, b = d.get("h", d.get("d", 0.0)), d.get("b", d.get("d", 0.0))
    tw, tf, r = d.get("tw", t), d.get("tf", t), d.get("r", 0.0)
    if s.shape in ("hollow", "pipe", "angle", "double angle"):
        tw = tf = t
    y0 = z0 = zj = 0.0
    if kind == "I":
        c_web, c_flange = h - 2 * tf - 2 * r, (b - tw) / 2 - r
    elif kind == "channel":
        c_web, c_flange = h - 2 * tf - 2 * r, b - tw - r
        y0 = _channel_centre(s, h, b, tw, tf)
    elif kind == "tee":
        c_web, c_flange = h, (b - tw) / 2 - r
        top = float(s.outline[0][:, 1].max())
        z0 = top - tf / 2
        stem = _third_moment(tw, top - h, top - tf)
        zj = z0 - (stem + _third_moment(b, top - tf, top)) / (2 * s.Iy)
    elif kind == "angle":
        c_web, c_flange = max(h, b), min(h, b)
        y0, z0 = _corner(s, t)
    elif kind == "hollow":
        clear = 2 * tw if s.shape == "box" else 3 * t
        c_web, c_flange = h - (2 * tf if s.shape == "box" else 3 * t), b - clear
    else:
        c_web = c_flange = 0.0
        tw = tf = t if kind == "pipe" else min(h, b)
    W = [s.Wel_y, s.Wel_z, s.Wpl_y, s.Wpl_z]
    if None in W:
        raise ValueError(f"{s.name} has no section moduli")
    welded, cold = float(s.made == Made.WELDED), float(s.made == Made.COLD)
    return [s.A, s.Iy, s.Iz, s.J, s.Iw, *map(float, W), h, b, tw, tf, r, c_web, c_flange, y0, z0, zj, welded, cold, 0.0]  # type: ignore[arg-type]


def _third_moment(width: float, low: float, high: float) -> float:
    """The integral of z (y^2 + z^2) over a rectangle about z."""
    return width * (high**4 - low**4) / 4 + width**3 / 12 * (high**2 - low**2) / 2


def _channel_centre(s: Section, h: float, b: float, tw: float, tf: float) -> float:
    """y of the shear centre from the centroid: beyond the web's back, by thin-walled theory; the back is the side that
    lies nearer, left or, of a mirror image, right."""
    c, e = b - tw / 2, h - tf
    beyond = 3 * c**2 * tf / (6 * c * tf + e * tw)
    left, right = float(s.outline[0][:, 0].min()), float(s.outline[0][:, 0].max())
    return left + tw / 2 - beyond if -left <= right else right - tw / 2 + beyond


def _corner(s: Section, t: float) -> tuple[float, float]:
    """The shear centre of an angle: where its legs' middle lines meet."""
    loop = s.outline[0]
    corner, along = loop[0], [loop[1] - loop[0], loop[-1] - loop[0]]
    units = [v / np.linalg.norm(v) for v in along]
    y, z = corner + t / 2 * (units[0] + units[1])
    return float(y), float(z)
