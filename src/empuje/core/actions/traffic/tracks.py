"""What carries a wheel that rolls along a way, so far to the left of its line.

A track is cut where what carries changes. On each stretch one or more members (touches) get shares of the wheel:

    on the member itself          share 1
    between two members           the lever rule: v_R/(v_R - v_L) and v_L/(v_L - v_R), v to the left of the wheel
    beside a single member        share 1, and a moment that twists it
    on a surface                  by its deck
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from ...model.project import Project
from ...model.traffic import Way
from ...model.words import Beside
from ...surfaces.surface_geometry import SurfaceGeometry
from ..surfaces.sources.surface_loads import Surfaces
from .on_surface import stretches_on_surface
from .path import Path
from .touch import Stretch, Touch, Touches

Floats = NDArray[np.float64]
SAME_LEVEL = 0.05
"""Members carry wheels beside them where they lie within this of the way's level [m]."""
ON_TRACK = 1e-3
"""A wheel this near to a member's axis [m] stands on it."""
STEEP = 0.5
"""Members that turn away from the way by more than 60 degrees (cosine below this) carry no wheels beside it."""


@dataclass(frozen=True)
class Track:
    """Stretches in order along a way, for wheels so far to its left [m]; where there is none nothing carries."""

    aside: float
    stretches: tuple[Stretch, ...]
    length: float

    @property
    def breaks(self) -> Floats:
        """Where what carries changes [m]."""
        return np.unique([s for one in self.stretches for s in (one.s0, one.s1)])

    @property
    def is_polynomial(self) -> bool:
        """Whether all shares and places change linearly along the stretches."""
        return all(one.is_linear for one in self.stretches)

    @property
    def is_level(self) -> bool:
        """Whether all shares are whole: the wheel stands on one member at a time."""
        return all(t.c1 == 0 and t.d1 == 0 for one in self.stretches for t in one.touches)

    def gaps(self) -> list[tuple[float, float]]:
        """Where nothing carries: from, to [m]."""
        edges = [0.0, *(s for one in self.stretches for s in (one.s0, one.s1)), self.length]
        return [(a, b) for a, b in zip(edges[::2], edges[1::2], strict=True) if b - a > ON_TRACK]

    def carried(self, s: Floats) -> Touches:
        """What carries wheels at places s (n,) [m] of the way; nothing of those that are off it or in a gap."""
        parts = []
        for k, one in enumerate(self.stretches):
            last = k == len(self.stretches) - 1 or self.stretches[k + 1].s0 > one.s1
            inside = (s >= one.s0) & ((s <= one.s1) if last else (s < one.s1))
            there = np.flatnonzero(inside)
            if len(there):
                parts.append(one.carried(s[there], there))
        return Touches.joined(parts)


def track_of(project: Project, surfaces: Surfaces, path: Path, way: Way, beside: Beside, aside: float) -> Track:
    """What carries wheels so far to the left of a way's line [m]."""
    if way.surfaces:
        chosen: list[SurfaceGeometry] = [surfaces[i] for i in way.surfaces if i in surfaces]
        own = [s for k in range(len(path.start)) for s in stretches_on_surface(path, k, chosen, aside)]
    elif way.members and (abs(aside) <= ON_TRACK or beside == Beside.TWIST):
        own = [_on_member(path, k, project, aside) for k in range(len(path.start))]
    else:
        own = [s for k in range(len(path.start)) for s in _between(project, path, k, aside, beside)]
    return Track(aside, tuple(own), path.length)


def _on_member(path: Path, k: int, project: Project, aside: float) -> Stretch:
    """A wheel on the member of the way, or held out to its side."""
    b, L = float(path.begin[k]), float(project.lengths[path.member[k]])
    x0, x1 = (L + b, -1.0) if path.turned[k] else (-b, 1.0)
    arm = tuple((aside * path.left[k]).tolist()) if abs(aside) > ON_TRACK else (0.0, 0.0, 0.0)
    return Stretch(b, float(path.begin[k + 1]), k, (Touch(int(path.member[k]), x0, x1, arm=arm),))


def _between(project: Project, path: Path, k: int, aside: float, beside: Beside) -> list[Stretch]:
    """Stretches of one straight piece: on a member that runs there, else between the two next to it; beside a single
    one where wheels may twist it."""
    near = _members_beside(project, path, k)
    begin, end = float(path.begin[k]), float(path.begin[k + 1])
    cuts = {begin, end}
    for i, one in enumerate(near):
        cuts |= {one.s0, one.s1}
        for slope, at in ((one.v1, one.v0 - aside), *((one.v1 - o.v1, one.v0 - o.v0) for o in near[:i])):
            if abs(slope) > 1e-9:
                cuts.add(-at / slope)
    places = sorted(s for s in cuts if begin <= s <= end)
    out: list[Stretch] = []
    for a, b in pairwise(places):
        if b - a < 1e-9:
            continue
        middle = (a + b) / 2
        here = [one for one in near if one.s0 <= middle <= one.s1]
        touches = _chosen(here, a, b, aside, beside, tuple(path.left[k].tolist()))
        if touches and out and out[-1].touches == touches:
            out[-1] = Stretch(out[-1].s0, b, k, touches)
        elif touches:
            out.append(Stretch(a, b, k, touches))
    return out


@dataclass(frozen=True)
class _Near:
    """A member beside a piece of a way from s0 to s1 [m]: to its left by v0 + v1 s, at its place x0 + x1 s."""

    member: int
    s0: float
    s1: float
    v0: float
    v1: float
    x0: float
    x1: float


def _members_beside(project: Project, path: Path, k: int) -> list[_Near]:
    flat = float(np.hypot(*path.along[k, :2]))
    ahead = path.along[k, :2] / flat
    left = path.left[k, :2]
    ends = project.xyz[project.ends] - path.start[k]
    s = path.begin[k] + ends[..., :2] @ ahead / flat
    v = ends[..., :2] @ left
    rise = ends[..., 2] - (s - path.begin[k]) * path.along[k, 2]
    step = s[:, 1] - s[:, 0]
    reach = np.linalg.norm(ends[:, 1, :2] - ends[:, 0, :2], axis=1)
    runs = np.abs(step) * flat >= STEEP * np.maximum(reach, 1e-9)
    runs &= (s.max(axis=1) > path.begin[k] + 1e-9) & (s.min(axis=1) < path.begin[k + 1] - 1e-9)
    runs &= ~np.array([m.bar for m in project.members], bool)
    out = []
    for m in np.flatnonzero(runs).tolist():
        rate = 1 / float(step[m])
        low, high = max(float(s[m].min()), float(path.begin[k])), min(float(s[m].max()), float(path.begin[k + 1]))
        heights = [rise[m, 0] + (at - s[m, 0]) * rate * (rise[m, 1] - rise[m, 0]) for at in (low, high)]
        if max(map(abs, heights)) > SAME_LEVEL:
            continue
        v1 = float(v[m, 1] - v[m, 0]) * rate
        x1 = float(project.lengths[m]) * rate
        v1 = v1 if abs(v1) > 1e-9 else 0.0
        out.append(_Near(m, low, high, float(v[m, 0]) - v1 * float(s[m, 0]), v1, -x1 * float(s[m, 0]), x1))
    return out


def _chosen(
    here: list[_Near], a: float, b: float, aside: float, beside: Beside, left: tuple[float, ...]
) -> tuple[Touch, ...]:
    middle = (a + b) / 2

    def off(one: _Near, s: float) -> float:
        return one.v0 + one.v1 * s - aside

    on = [one for one in here if max(abs(off(one, a)), abs(off(one, b))) <= ON_TRACK]
    if on:
        return (Touch(on[0].member, on[0].x0, on[0].x1),)
    sides: list[Callable[[float], bool]] = [lambda v: v > 0, lambda v: v < 0]
    found = [min((o for o in here if side(off(o, middle))), key=lambda o: abs(off(o, middle)), default=None)
             for side in sides]  # fmt: skip
    upper, lower = found
    if upper is not None and lower is not None:
        # share of the one at v_U: -v_L/(v_U - v_L), of the other v_U/(v_U - v_L)
        d0, d1 = upper.v0 - lower.v0, upper.v1 - lower.v1
        return (
            Touch(upper.member, upper.x0, upper.x1, aside - lower.v0, -lower.v1, d0, d1),
            Touch(lower.member, lower.x0, lower.x1, upper.v0 - aside, upper.v1, d0, d1),
        )
    single = upper or lower
    if single is not None and beside == Beside.TWIST and single.v1 == 0:
        arm = tuple((-off(single, middle) * np.array(left)).tolist())
        return (Touch(single.member, single.x0, single.x1, arm=arm),)
    return ()
