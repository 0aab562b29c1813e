"""Wind as the engineer states it: the site, what stands in the wind, the directions, and the cases made of them."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass, field, replace
from typing import Any

from .findings import Place
from .words import Chimney, Enclosure, Flow, Rise, RoofForm, Side, Tower, Upward, WindCode


@dataclass(frozen=True, slots=True)
class Hill:
    """A ridge, escarpment or hill of height `H` [m]; `L_h` [m] from its crest upwind to half its height; the site
    is `x` [m] downwind of the crest (negative: upwind)."""

    shape: Rise
    H: float
    L_h: float
    x: float


@dataclass(frozen=True, slots=True)
class UncladWind:
    """Members (indices) that stand in the wind by themselves.

    `C_f`: None to find it from the section's shape; `width` [m] seen by the wind: None for the section's own;
    `solidity`: of the frame they form, None for single members, 0 to be found; `shielding`: factor for what stands
    before them; `tower`: its plan, where they are a trussed tower; `chimney`: shape and surface, where they are one.
    """

    members: tuple[int, ...]
    C_f: float | None
    width: float | None
    solidity: float | None
    shielding: float
    text: str
    place: Place
    tower: Tower | None = None
    chimney: Chimney | None = None


@dataclass(frozen=True, slots=True)
class Heading:
    """A direction the wind blows in: a level unit vector; what is stated instead of found: `B`, `L` [m], and the sides
    of surfaces (by index); the lowest frequency [Hz] that sways along it, where that was analysed; and what is stated
    of this direction's site: roughness ("" for that of all), hill, level of the `ground` [m], numbers by symbol."""

    name: str
    vector: tuple[float, float]
    text: str
    place: Place
    unclad: tuple[UncladWind, ...] = ()
    B: float | None = None
    L: float | None = None
    sides: Mapping[int, Side] = field(default_factory=dict)
    n_1: float | None = None
    roughness: str = ""
    hill: Hill | None = None
    ground: float | None = None
    stated: Mapping[str, float] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class BuildingRule:
    """What is stated of one building: its `exterior` surfaces (indices), numbers by the code's symbols in SI, how
    enclosed it is, and what its roofs of many faces are."""

    name: str
    exterior: tuple[int, ...]
    stated: Mapping[str, float]
    enclosure: Enclosure | None
    place: Place
    roof_form: RoofForm | None = None


@dataclass(frozen=True, slots=True)
class ComponentRule:
    """Members (indices) that have wind pressures of components; None where it is found: the effective `area` [m2],
    `span` and `width` carried [m], and GC_p, positive and negative."""

    members: tuple[int, ...]
    area: float | None
    span: float | None
    width: float | None
    GC_p: tuple[float, float] | None
    place: Place
    text: str = ""


@dataclass(frozen=True, slots=True)
class RooftopRule:
    """What stands on a roof: the nodes (indices) that hold it, the area [m2] that the wind sees by direction (index;
    -1: of all others), and that in plan."""

    name: str
    nodes: tuple[int, ...]
    A_f: Mapping[int, float]
    A_r: float
    place: Place


@dataclass(frozen=True, slots=True)
class Slice:
    """What a plane frame is of its building [m]: the building's `length` across the plane, the frame's `place` from its
    end, and the `width` that it carries."""

    length: float
    place: float
    width: float


@dataclass(frozen=True, slots=True)
class WindCase:
    """A case made of one heading, or of two that act at once (indices): all loads times `factor`.

    `load_case`: 1 to 4 as ASCE 7 numbers them, 0 elsewhere; `roof`: which of the alternative coefficients of roofs;
    `inside`: sign of the internal pressure, 0 for none; `twist`: sign of the eccentricity; `least`: the minimum load;
    `component`: 1 pushes on components, -1 pulls, 0 for the frame.
    """

    name: str
    headings: tuple[int, ...]
    factor: float = 1.0
    load_case: int = 0
    roof: int = 0
    inside: int = 0
    twist: int = 0
    least: bool = False
    component: int = 0


@dataclass(frozen=True, slots=True)
class WindRule:
    """Everything stated about wind.

    `V` [m/s]: the basic speed (v_b0 of EN); `V_service`: that of service, None where none is stated. `ground` [m]: its
    level, None for the lowest point of what stands in the
    wind. `stated` numbers by the code's symbols, in SI. `openings`: their area [m2] by surface. `gust`: "rigid",
    "flexible", "stated" or "" for the code's own. `reduce_by_area`, `correlation`, `returns` (parapets go round
    corners), `by_zones` (canopies by net pressures): choices the codes offer. `customary`: in feet and pounds, with
    the code's constants for these. `known`: all of it could be read; else only its cases are. `analysed`: n_1 is
    that of the frame; `buildings`: those of which something is stated; `slice`: of a plane frame, whose exterior and
    free roofs are members (indices); `roof_form`: what roofs of many faces are, None where that is found."""

    code: WindCode
    V: float
    roughness: str
    place: Place
    headings: tuple[Heading, ...]
    cases: tuple[WindCase, ...] = ()
    exterior: tuple[int, ...] = ()
    free_roofs: tuple[int, ...] = ()
    parapets: tuple[int, ...] = ()
    openings: Mapping[int, float] = field(default_factory=dict)
    enclosure: Enclosure | None = None
    flow: Flow = Flow.CLEAR
    upward: Upward = Upward.LINEAR
    ground: float | None = None
    hill: Hill | None = None
    gust: str = ""
    stated: Mapping[str, float] = field(default_factory=dict)
    reduce_by_area: bool = False
    correlation: bool = False
    returns: bool = False
    by_zones: bool = False
    customary: bool = False
    known: bool = True
    analysed: bool = False
    V_service: float | None = None
    buildings: tuple[BuildingRule, ...] = ()
    slice: Slice | None = None
    roof_form: RoofForm | None = None
    components: tuple[ComponentRule, ...] = ()
    rooftop: tuple[RooftopRule, ...] = ()

    def towards(self, heading: Heading) -> WindRule:
        """The rule with what is stated of a direction in place of what is stated of all."""
        # What is stated of all terrains is not that of this one.
        kept = {k: v for k, v in self.stated.items() if not heading.roughness or k not in ("z_0", "z_min", "k_r")}
        own: dict[str, Any] = {"stated": {**kept, **heading.stated}}
        if heading.n_1 is not None:
            own["stated"]["n_1"] = heading.n_1
        if heading.hill is not None:
            own["stated"].pop("K_zt", None)
            own["hill"] = heading.hill
        if "K_zt" in heading.stated:
            own["hill"] = None
        return replace(self, roughness=heading.roughness or self.roughness, **own)

    def of_building(self, building: BuildingRule | None, surfaces: Collection[int]) -> WindRule:
        """The rule of one building, of which these are the surfaces."""
        openings = {i: area for i, area in self.openings.items() if i in surfaces}
        if building is None:
            return replace(self, openings=openings)
        stated = {**self.stated, **building.stated}
        enclosure, form = building.enclosure or self.enclosure, building.roof_form or self.roof_form
        return replace(self, openings=openings, stated=stated, enclosure=enclosure, roof_form=form)

    @property
    def service_share(self) -> float | None:
        """Pressures of service over those of the cases: as the squares of the speeds (ASCE 7, CC.2.2)."""
        return None if self.V_service is None or not self.V else (self.V_service / self.V) ** 2

    @property
    def is_open(self) -> bool:
        """Whether no inside has a pressure of its own."""
        return self.enclosure == Enclosure.OPEN or not self.exterior

    def number(self, symbol: str, usual: float) -> float:
        """The stated value of a symbol, or the usual one."""
        return self.stated.get(symbol, usual)
