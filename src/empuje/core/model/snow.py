"""Snow as the engineer states it: the site, the roofs it falls on, and the cases made of it."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field

from .findings import Place
from .words import Falling, RoofExposure, SnowCode


@dataclass(frozen=True, slots=True)
class SnowCase:
    """A case of snow: an arrangement, and the number of the wind's direction that makes it, or of the pattern of spans
    that are loaded partially, -1 for none; `exceptional`: as an accidental action (EN); `spans`: the name of those."""

    name: str
    kind: Falling
    direction: int = -1
    exceptional: bool = False
    spans: str = ""


@dataclass(frozen=True, slots=True)
class PartialSpans:
    """Spans of continuous members under partial loads (ASCE 7, 7.5): a level unit vector along them, and where they
    begin and end along it [m]; those of one name are on different roofs, and loaded in the same cases; `roofs`:
    surfaces (indices) that they carry; `found`: the members that they were found of, none where they are stated."""

    name: str
    way: tuple[float, float]
    lines: tuple[float, ...]
    roofs: tuple[int, ...]
    place: Place
    found: tuple[str, ...] = ()

    @property
    def words(self) -> str:
        """Where they begin and end, and along what."""
        angle = math.degrees(math.atan2(self.way[1], self.way[0]))
        along = {0.0: "x", 90.0: "y"}.get(round(angle, 3) + 0.0, f"{angle:.4g} degrees from x")
        return f"at {', '.join(f'{v:.4g}' for v in self.lines)} m along {along}"


@dataclass(frozen=True, slots=True)
class Beside:
    """What stands taller beside or on a roof and is not modelled: the upper edge of its face from `a` to `b` (3,) [m];
    `behind`: the length of a building behind it [m], 0 of a wall; `projection`: the wall is a side of what stands on
    the roof."""

    name: str
    a: tuple[float, float, float]
    b: tuple[float, float, float]
    behind: float
    projection: bool


@dataclass(frozen=True, slots=True)
class SnowRule:
    """Everything stated about snow.

    `ground_load` [N/m2]: p_g, or s_k; `directions`: names and level unit vectors of the winds that move it; `roofs`,
    `parapets`, `obstructions`: surfaces (indices), `find`: which of the latter two are found too; `beside`: what is
    stated of what is not modelled; `partial`: spans under partial loads, `partial_stated`: not found of members;
    `facing`: roofs only where their normal points up. `stated`: numbers by the code's symbols, in SI. `C_t`: by surface
    where that is stated, as `W` and `l_u` [m], lengths of pitches and of roofs that snow drifts along. `slippery`,
    `guarded`: surfaces that snow slides off easily, and that hold it. `rafters`: simply supported prismatic members
    span from ridge to eave; `risk`: the category. `overhanging`: surfaces whose lower edges snow overhangs; `annex_B`:
    with exceptional drifts (both EN). `known`: all of it could be read; else only its cases are."""

    code: SnowCode
    ground_load: float
    place: Place
    directions: tuple[tuple[str, tuple[float, float]], ...]
    cases: tuple[SnowCase, ...] = ()
    roofs: tuple[int, ...] = ()
    parapets: tuple[int, ...] = ()
    obstructions: tuple[int, ...] = ()
    exposure: str = ""
    roof_exposure: RoofExposure = RoofExposure.PARTIAL
    stated: Mapping[str, float] = field(default_factory=dict)
    C_t: Mapping[int, float] = field(default_factory=dict)
    slippery: frozenset[int] = frozenset()
    guarded: frozenset[int] = frozenset()
    rafters: bool = False
    risk: str = ""
    beside: tuple[Beside, ...] = ()
    partial: tuple[PartialSpans, ...] = ()
    partial_stated: bool = False
    facing: frozenset[int] = frozenset()
    find: frozenset[str] = frozenset()
    overhanging: frozenset[int] = frozenset()
    annex_B: bool = False
    W: Mapping[int, float] = field(default_factory=dict)
    l_u: Mapping[int, float] = field(default_factory=dict)
    known: bool = True

    @property
    def is_en(self) -> bool:
        """Whether it is by EN 1991-1-3."""
        return self.code == SnowCode.EN
