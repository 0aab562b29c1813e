"""From space to paper: parallel projections.

>>> View.named("xz").flat(np.array([[1.0, 5.0, 2.0]])).tolist()
[[1.0, 2.0]]
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
NAMED = {"iso": (-58.0, 22.0), "xz": (-90.0, 0.0), "yz": (0.0, 0.0), "xy": (-90.0, 90.0)}
"""Where the eye stands: degrees round from +x towards +y, and degrees up."""


@dataclass(frozen=True)
class View:
    """A parallel projection: `right` and `up` on paper as unit vectors in space.

    `alone`: members that are not chosen are not seen at all. `of`: what part of the frame is seen, in words.
    """

    right: Floats
    up: Floats
    alone: bool = False
    of: str = ""

    @staticmethod
    def named(name: str) -> View:
        """iso, xz, yz, xy, or two angles "-60,20". Raises ValueError."""
        if name in NAMED:
            around, above = NAMED[name]
        else:
            around, above = (float(w) for w in name.split(","))
        if not (math.isfinite(around) and -90 <= above <= 90):
            raise ValueError(name)
        a, e = math.radians(around), math.radians(above)
        right = np.array([-math.sin(a), math.cos(a), 0.0])
        up = np.array([-math.sin(e) * math.cos(a), -math.sin(e) * math.sin(a), math.cos(e)])
        return View(np.round(right, 12), np.round(up, 12))

    @staticmethod
    def usual(plane: bool) -> View:
        """Of a plane model from its side, of any other from a corner above."""
        return View.named("xz" if plane else "iso")

    def part(self, of: str) -> View:
        """The same of a part of the frame alone."""
        return replace(self, alone=True, of=of)

    @property
    def towards(self) -> Floats:
        """The unit vector towards whoever looks."""
        return np.asarray(np.cross(self.right, self.up))

    def flat(self, points: Floats) -> Floats:
        """Points (..., 3) on paper (..., 2)."""
        return np.stack([points @ self.right, points @ self.up], axis=-1)
