"""The project: everything the engineer wrote."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from .cases import Case, Combination
from .combining import Combining
from .findings import Accepted
from .frame import ON_LINE_TOLERANCE, Diaphragm, LineSupport, Member, Node, Support, member_axes
from .limits import Limit
from .loads import DescribedLoad
from .near import on_lines
from .plates import Plates
from .plausible import Plausible
from .rain import RainRule
from .reduction import ReductionRule
from .report import ReportRule, TitleBlock
from .snow import SnowRule
from .steel import SteelRule
from .surfaces import Surface, SurfaceLoad
from .traffic import Standing, Traffic
from .wind import WindRule
from .words import Acts, How

GRAVITY = 9.80665
"""Standard acceleration of free fall [m/s2] (ISO 80000-3)."""


@dataclass(frozen=True)
class Project:
    """Everything the engineer wrote, names resolved, in SI units; what follows from it is `Resolved`.

    `units` and `display` are the words of the model file about units; only the edges read them.
    In a plane model every node has y = 0 and moves in x, z and ry only.
    `grid` holds the named lines of each axis [m]; drawings show them.
    `second_order` names the sets whose combinations are analysed by second-order theory, "*" for every one; `direct`:
    those of them with reduced stiffness.
    `mass` is the combination of cases whose vertical loads are masses.
    `combining`: which combinations are asked for; `reduction`: how live loads are reduced; `wind`, `snow`, `rain`: what
    makes loads by code and their cases; `traffic`: what moves, each a case by its name; `standings`:
    positions of it that are load cases of their own; `limits`: what results must satisfy;
    `steel`: how steel members are checked; `plausible`: beyond what a value is implausible; `accepted`: findings
    taken as they are; `line_supports`: along lines of structural surfaces, and `plates`: those surfaces cut into
    elements; `about`, `report`: its title block, and what its report shows.
    """

    file: str
    title: str
    plane: bool
    units: tuple[str, str]
    display: tuple[str, str, str, str]
    nodes: tuple[Node, ...]
    members: tuple[Member, ...]
    supports: tuple[Support, ...]
    cases: tuple[Case, ...]
    loads: tuple[DescribedLoad, ...]
    combining: Combining = field(default_factory=Combining)
    grid: dict[str, dict[str, float]] = field(default_factory=dict)
    diaphragms: tuple[Diaphragm, ...] = ()
    second_order: tuple[str, ...] = ()
    mass: tuple[tuple[str, float], ...] = ()
    surfaces: tuple[Surface, ...] = ()
    surface_loads: tuple[SurfaceLoad, ...] = ()
    reduction: ReductionRule | None = None
    wind: WindRule | None = None
    traffic: tuple[Traffic, ...] = ()
    standings: tuple[Standing, ...] = ()
    limits: tuple[Limit, ...] = ()
    steel: SteelRule | None = None
    direct: tuple[str, ...] = ()
    plausible: Plausible = field(default_factory=Plausible)
    accepted: tuple[Accepted, ...] = ()
    line_supports: tuple[LineSupport, ...] = ()
    plates: Plates | None = None
    about: TitleBlock = field(default_factory=TitleBlock)
    report: ReportRule = field(default_factory=ReportRule)
    snow: SnowRule | None = None
    rain: RainRule | None = None

    @cached_property
    def xyz(self) -> NDArray[np.float64]:
        """Node coordinates (nodes, 3) [m]."""
        return np.array([n.xyz for n in self.nodes], float).reshape(-1, 3)

    @cached_property
    def places(self) -> NDArray[np.float64]:
        """Coordinates of all that loads at nodes can name: nodes, then those of structural surfaces' elements (n, 3)
        [m]."""
        if self.plates is None or self.plates.first != len(self.nodes):
            return self.xyz
        return np.concatenate([self.xyz, self.plates.xyz])

    @cached_property
    def ends(self) -> NDArray[np.intp]:
        """Start and end node of every member (members, 2)."""
        return np.array([(m.start, m.end) for m in self.members], np.intp).reshape(-1, 2)

    @cached_property
    def lengths(self) -> NDArray[np.float64]:
        """Member lengths (members,) [m]."""
        return np.asarray(np.linalg.norm(self.xyz[self.ends[:, 1]] - self.xyz[self.ends[:, 0]], axis=1))

    @cached_property
    def masses(self) -> NDArray[np.float64]:
        """Member masses (members,) [kg]."""
        return np.array([m.section.A * m.material.density for m in self.members]) * self.lengths

    @cached_property
    def axes(self) -> NDArray[np.float64]:
        """Member axes as rows (members, 3, 3)."""
        roll = np.array([m.roll for m in self.members])
        return member_axes(self.xyz[self.ends[:, 0]], self.xyz[self.ends[:, 1]], roll)

    @cached_property
    def nodes_on_members(self) -> tuple[NDArray[np.intp], NDArray[np.intp], NDArray[np.float64]]:
        """Member, node and distance from the member's start [m] of every node inside a member's length, in order."""
        none = np.zeros(0, np.intp), np.zeros(0, np.intp), np.zeros(0)
        if not self.members or not self.nodes:
            return none
        member, node, x = on_lines(self.xyz, self.ends, ON_LINE_TOLERANCE)
        if self.plates is None:
            return member, node, x
        # A member goes through what surfaces are hinged to, not through their own nodes there.
        along = np.array([m.along_surfaces for m in self.members], bool)
        there = ~np.isin(node, self.plates.hinges.node) & (along[member] | (node < self.plates.first))
        return member[there], node[there], x[there]

    @cached_property
    def case_names(self) -> tuple[str, ...]:
        """In their order."""
        return tuple(c.name for c in self.cases)

    @cached_property
    def has_one_way_parts(self) -> bool:
        """Whether a member or support acts one way only, so that no result is a sum of others."""
        return any(m.acts != Acts.BOTH for m in self.members) or any(s.lift for s in self.supports) or (
            any(s.plate is not None and s.plate.lift for s in self.surfaces))  # fmt: skip

    def how(self, combination: Combination) -> How:
        """How it will be analysed."""
        if self.is_second_order(combination):
            return How.SECOND_ORDER
        return How.AS_ONE if self.has_one_way_parts else How.SUMMED

    def is_second_order(self, combination: Combination) -> bool:
        """Whether a combination is asked for with the axial forces on the deformed shape."""
        return "*" in self.second_order or combination.set in self.second_order

    @cached_property
    def notional_pairs(self) -> tuple[tuple[int, int], ...]:
        """Every case of notional loads with every other case; plain loads count them as further cases."""
        notional = [i for i, c in enumerate(self.cases) if c.notional]
        return tuple((i, j) for i in notional for j, c in enumerate(self.cases) if not c.notional)
