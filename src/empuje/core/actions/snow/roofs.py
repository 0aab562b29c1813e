"""Roofs as snow meets them: pitches, ridges and valleys, whatever surfaces they are drawn in.

ridge: both fall away from it      valley: both fall to it      W: level, from the ridge to the eave

    /\\                                \\  /
   /  \\  ---> fall                     \\/
  |--W-|
"""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
import shapely
from numpy.typing import NDArray

from ...model.snow import SnowRule
from ...surfaces.plane import Outline
from ..faces import WALL_FROM, Face, at_table, bend_of, face_of, joined

Floats = NDArray[np.float64]
TOUCH = 5e-3
"""Edges within this [m] of each other are one."""
LEVEL = 0.05
"""Below this slope [deg] a roof falls nowhere."""
ALIKE, APART = 1e-5, 0.02
"""Planes whose normals differ by less and that lie so near [m] are one."""
ALONG = 0.5
"""A ridge or valley crosses the fall of its pitches: the cosine between them is less."""
NEAR = 0.05
"""Ends of pitches that lie so near along their fall [m] are one bend."""
MANY = 5
"""From so many planes that bend one way a roof is curved."""


@dataclass(frozen=True)
class Pitch:
    """Faces in one plane: plan, slope [deg], the level unit vector (2,) it falls along, its upward normal (3,) and a
    point (3,) of it; its W [m] where that is stated."""

    faces: tuple[Face, ...]
    plan: shapely.Geometry
    slope: float
    fall: Floats
    normal: Floats
    point: Floats
    stated_W: float | None = None

    @cached_property
    def name(self) -> str:
        """Of its surfaces."""
        first = self.faces[0].name
        return first if len(self.faces) == 1 else f"{first} and {len(self.faces) - 1} more"

    def height(self, at: Floats) -> Floats:
        """The level of its plane over points (n, 2) [m]."""
        n = self.normal
        return np.asarray(self.point[2] - (np.asarray(at) - self.point[:2]) @ n[:2] / n[2])

    @cached_property
    def reach(self) -> tuple[float, float]:
        """Where it begins and ends along its fall [m]."""
        along = shapely.get_coordinates(self.plan) @ self.fall
        return float(along.min()), float(along.max())

    @property
    def W(self) -> float:
        """The level distance from ridge to eave [m], where it is stated that."""
        return self.run if self.stated_W is None else self.stated_W

    @property
    def run(self) -> float:
        """That distance as it is drawn [m]."""
        return self.reach[1] - self.reach[0]

    @property
    def rise(self) -> float:
        """How high it rises, as it is drawn [m]."""
        return self.run * float(np.tan(np.radians(self.slope)))

    def has(self, surfaces: Collection[int]) -> bool:
        """Whether its surfaces are among some."""
        return self.faces[0].surface in surfaces


@dataclass(frozen=True)
class SnowRoof:
    """Pitches that join one another; `ridges` and `valleys`: pairs of their numbers; `saws`: pitches that fall to the
    foot of a step from which the roof above falls away as well, and how high that is [m]."""

    pitches: tuple[Pitch, ...]
    plan: shapely.Geometry
    ridges: tuple[tuple[int, int], ...]
    valleys: tuple[tuple[int, int], ...]
    curved: bool
    saws: Mapping[int, float] = field(default_factory=dict)

    @property
    def name(self) -> str:
        """Of its first surface."""
        return self.pitches[0].faces[0].name

    @property
    def steepest(self) -> float:
        """The steepest slope [deg]."""
        return max(p.slope for p in self.pitches)

    @property
    def form(self) -> str:
        """curved, folded, sawtooth, gable, hip, monoslope or flat."""
        if self.curved:
            return "curved"
        if self.valleys:
            return "folded"
        if self.saws:
            return "sawtooth"
        count = len(self.ways)
        return "flat" if not count else "monoslope" if count == 1 else "hip" if count > 2 else "gable"

    @cached_property
    def ways(self) -> tuple[Floats, ...]:
        """The directions its pitches fall in, those that are alike once."""
        out: list[Floats] = []
        for p in self.pitches:
            if p.slope > LEVEL and not any(p.fall @ way > 0.99 for way in out):
                out.append(p.fall)
        return tuple(out)

    def behind(self, i: int) -> int | None:
        """The pitch on the other side of a pitch's ridge that falls the opposite way; of a hip whose end meets no ridge
        that of the other end. None where there is none."""
        for a, b in self.ridges:
            if i in (a, b) and self._opposite(a, b):
                return b if i == a else a
        if self.form != "hip":
            return None
        return next((k for k in range(len(self.pitches)) if self._opposite(i, k)), None)

    def _opposite(self, a: int, b: int) -> bool:
        return bool(self.pitches[a].fall @ self.pitches[b].fall < -0.99)

    def bent_above(self, i: int) -> bool:
        """Whether another pitch that falls the same way begins where a pitch ends at its top."""
        one = self.pitches[i]
        return any(
            one.fall @ p.fall > 0.99
            and abs(p.reach[1] - one.reach[0]) < NEAR
            and shapely.dwithin(p.plan, one.plan, TOUCH)
            for k, p in enumerate(self.pitches)
            if k != i and one.slope > LEVEL and p.slope > LEVEL
        )

    def beside_valleys(self, i: int) -> list[int]:
        """The pitches that fall to a valley together with a pitch."""
        return [b if i == a else a for a, b in self.valleys if i in (a, b)]

    @property
    def is_folded(self) -> bool:
        """Whether it has valleys, those of sawtooth roofs included."""
        return bool(self.valleys or self.saws)


def find_roofs(outlines: Mapping[int, Outline], rule: SnowRule) -> list[SnowRoof]:
    """The roofs that the stated surfaces form, in the order of these."""
    faces = [face_of(i, outlines[i], 0.0) for i in rule.roofs if i in outlines]
    # Walls have no snow, nor have soffits.
    faces = [f for f in faces if f.slope <= WALL_FROM and not (f.surface in rule.facing and f.normal[2] < 0)]
    return [_roof(group, rule) for group in joined(faces)]


def plan_with_holes(face: Face) -> shapely.Geometry:
    """A face as it is seen from above, less its openings."""
    return shapely.transform(face.outline.polygon, lambda flat: face.outline.solid(flat)[:, :2])


def closed(shapes: Sequence[shapely.Geometry]) -> shapely.Geometry:
    """Shapes that touch as one, without the slits that rounded corners leave between them."""
    whole = shapely.union_all(shapes)
    for by in (TOUCH, -TOUCH):
        whole = shapely.buffer(whole, by, join_style="mitre", mitre_limit=5.0)
    return shapely.simplify(whole, 1e-6)


def band(plan: shapely.Geometry, way: Floats, low: float, high: float) -> shapely.Polygon:
    """All that is between two places along a level unit vector (2,) [m], as wide as a plan and wider."""
    across = np.array([-way[1], way[0]])
    t = shapely.get_coordinates(plan) @ across
    a, b = float(t.min()) - 1.0, float(t.max()) + 1.0
    if not np.isfinite(high):  # without an end
        high = max(low, float((shapely.get_coordinates(plan) @ way).max())) + 1.0
    return shapely.Polygon([x * way + y * across for x, y in ((low, a), (high, a), (high, b), (low, b))])


def _roof(faces: Sequence[Face], rule: SnowRule) -> SnowRoof:
    pitches = [pitch_of(group, rule.W.get(group[0].surface)) for group in _in_planes(faces, rule)]
    ridges: list[tuple[int, int]] = []
    valleys: list[tuple[int, int]] = []
    for i, a in enumerate(pitches):
        for j in range(i + 1, len(pitches)):
            word = _between(a, pitches[j])
            if word:
                (ridges if word > 0 else valleys).append((i, j))
    plan = closed([p.plan for p in pitches])
    curved = len(pitches) >= MANY and bend_of(faces) is not None
    return SnowRoof(tuple(pitches), plan, tuple(ridges), tuple(valleys), curved)


def _in_planes(faces: Sequence[Face], rule: SnowRule) -> list[list[Face]]:
    """Faces that touch and lie in one plane, and of which the same is stated."""
    from scipy.sparse import coo_array
    from scipy.sparse.csgraph import connected_components

    plans = np.array([plan_with_holes(f) for f in faces], object)
    stated = [
        (rule.C_t.get(i), rule.W.get(i), i in rule.slippery, i in rule.guarded) for i in (f.surface for f in faces)
    ]
    one, other = shapely.STRtree(plans).query(plans, predicate="dwithin", distance=TOUCH)
    pairs = zip(one.tolist(), other.tolist(), strict=True)
    same = [(i, j) for i, j in pairs if stated[i] == stated[j] and _one_plane(faces[i], faces[j])]
    links = coo_array((np.ones(len(same)), tuple(zip(*same, strict=True))), shape=(len(faces),) * 2)
    _, group = connected_components(links, directed=False)
    groups: dict[int, list[Face]] = {}
    for face, k in zip(faces, group.tolist(), strict=True):
        groups.setdefault(k, []).append(face)
    return list(groups.values())


def _one_plane(a: Face, b: Face) -> bool:
    parallel = 1 - abs(a.normal @ b.normal) < ALIKE
    return bool(parallel and np.abs((b.corners - a.corners[0]) @ a.normal).max() < APART)


def stated_W(pitch: Pitch) -> str:
    """Words of a step where W is stated."""
    return "" if pitch.stated_W is None else ", as stated"


def pitch_of(faces: Sequence[Face], W: float | None = None) -> Pitch:
    """Faces in one plane as a pitch."""
    largest = max(faces, key=lambda f: f.area)
    normal = largest.normal * (1.0 if largest.normal[2] >= 0 else -1.0)
    slope = at_table(largest.drawn)
    level = normal[:2] / np.linalg.norm(normal[:2]) if slope > LEVEL else np.zeros(2)
    return Pitch(tuple(faces), closed([plan_with_holes(f) for f in faces]), slope, level, normal, largest.corners[0], W)


def _between(a: Pitch, b: Pitch) -> int:
    """1 where two pitches have a ridge in common, -1 where a valley, 0 where neither."""
    if a.slope <= LEVEL or b.slope <= LEVEL or not shapely.dwithin(a.plan, b.plan, TOUCH):
        return 0
    shared = shapely.intersection(shapely.boundary(a.plan), shapely.buffer(shapely.boundary(b.plan), 2 * TOUCH))
    pieces = [p for p in shapely.get_parts(shapely.line_merge(shared)) if p.length > 8 * TOUCH]
    if not pieces:
        return 0
    line = max(pieces, key=lambda p: float(p.length))
    ends = shapely.get_coordinates(line)[[0, -1]]
    way = (ends[1] - ends[0]) / np.linalg.norm(ends[1] - ends[0])
    middle = ends.mean(axis=0)
    signs = []
    for pitch in (a, b):
        if abs(way @ pitch.fall) > ALONG:
            return 0
        inner = shapely.get_coordinates(shapely.centroid(pitch.plan))[0]
        signs.append(1 if (inner - middle) @ pitch.fall > 0 else -1)
    return signs[0] if signs[0] == signs[1] else 0
