"""Whether results are below their elastic critical loads, and by what factor.

K + G(N) is positive definite as long as a result is below its critical load, and G grows with N: where it is so for the
least N of several results at every point, it is so for each of them. So one factorisation answers for all results with
the same slack parts, and only what it leaves open is looked at by itself. Factors are asked for where they are shown.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..model.connected import Part
from ..model.findings import Finding, Place
from ..model.telling import Tell, quiet
from .axial import Axial, AxialModel, Bending, Slack, State, at_points, axial_model
from .buckling import critical_loads
from .equations import Equations
from .pieces import build_pieces
from .shells.fields import free_of_force
from .solution import Columns
from .tangent import Basis, Tangent
from .unilateral import NOTHING_LEFT

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
Bools = NDArray[np.bool_]


AT_A_TIME, AT_LEAST = 20_000, 4
"""Elements times results worked on at a time; of large frames so many results, which share factors."""


@dataclass(frozen=True)
class UnilateralParts:
    """The members and supports that act one way only.

    force (parts, columns) [N]: in the solved columns; terms (parts, columns) [N]: sums of the sizes of what adds up to
    these, against which rounding is judged; weight (parts,) [N/m]: scales of their stiffness; motion (6 nodes, parts):
    of all nodes under a unit slack of each part, in the axes of the nodes.
    """

    force: Floats
    terms: Floats
    weight: Floats
    motion: Floats

    @property
    def C(self) -> Floats:
        """Forces of the parts under unit slacks (parts, parts) [N/m], symmetric as energy has it."""
        C = self.force[:, -len(self.force) :]
        return (C + C.T) / 2

    def stand_without(self, gone: Bools) -> bool:
        """Whether the frame keeps some stiffness in every motion once these parts are gone."""
        scale = 1 / np.sqrt(self.weight[gone])
        left = scale[:, None] * self.C[np.ix_(gone, gone)] * scale
        return not gone.any() or float(np.linalg.eigvalsh(left)[0]) > NOTHING_LEFT


def in_blocks(equations: Equations, results: int) -> list[Ints]:
    """Results to be worked on together, so that memory does not grow with their number."""
    each = max(AT_LEAST, AT_A_TIME // max(equations.size, 1))
    return [np.arange(i, min(i + each, results)) for i in range(0, results, each)]


@dataclass(frozen=True)
class Pulled:
    """The frame under linear results.

    N: axial forces at the frame's points; bending: slopes there; slack: the parts without force, None where no part
    acts one way only; constant (elements, results) [N]: N at the starts of elements; mix (columns, results): what makes
    them of solved columns; stands (results,): whether the frame is stable without its slack parts.
    """

    frame: AxialModel
    N: Axial
    bending: Bending
    slack: Slack | None
    constant: Floats
    mix: Floats
    stands: Bools

    def critical(self, N: Axial, count: int = 1) -> tuple[Floats, list[State]]:
        """The lowest critical load factors (count, results) and shapes; 0 where the frame does not stand."""
        factors, shapes = critical_loads(self.frame, N, self.slack, count)
        return np.where(self.stands, factors, 0.0), shapes


def pulled(equations: Equations, solved: Columns, mix: Floats, parts: UnilateralParts | None) -> Pulled:
    """From linear results, which `mix` (columns, results) makes of solved columns; what is slack in it stays slack."""
    every = np.arange(len(equations.project.members))
    pieces = build_pieces(solved, every, mix, displacements=True)
    frame = axial_model(equations, pieces)
    N, bending = at_points(frame, pieces, solved.displacement @ mix, free_stretches(solved, mix))
    constant = -solved.start_force[:, 0] @ mix
    if parts is None:
        return Pulled(frame, N, bending, None, constant, mix, np.ones(mix.shape[1], bool))
    loose = mix[-len(parts.force) :] != 0
    stands = np.array([parts.stand_without(gone) for gone in loose.T])
    return Pulled(frame, N, bending, Slack(parts.motion, parts.C, loose & stands), constant, mix, stands)


def free_stretches(solved: Columns, mix: Floats) -> Floats | None:
    """What temperatures stretch plates by without force (surfaces, 6, results) in what `mix` (columns, results) makes
    of solved columns; None without."""
    free = free_of_force(solved.project, solved.loads.plate_strains, len(mix))
    return None if free is None else free @ mix


def below(given: Pulled, times: float = 1.0) -> Bools:
    """Which results are below their critical loads at so many times their axial forces (results,)."""
    out = np.zeros(len(given.stands), bool)
    some = np.flatnonzero(given.stands)
    slack = given.slack.some(some) if given.slack is not None else None
    out[some] = Tangent(Basis(given.frame), given.N.some(some).scaled(times), slack).positive
    return out


def lowest_factors(
    equations: Equations,
    solved: Columns,
    mix: Floats,
    parts: UnilateralParts | None,
    count: int = 1,
    tell: Tell = quiet,
) -> Floats:
    """The lowest critical load factors (count, results) of linear results, infinite where nothing buckles and 0 where
    the frame does not stand without its slack parts."""
    out = np.full((count, mix.shape[1]), np.inf)
    for some in in_blocks(equations, mix.shape[1]):
        tell("critical load factors", int(some[0]), mix.shape[1])
        given = pulled(equations, solved, mix[:, some], parts)
        out[:, some] = given.critical(given.N, count)[0]
    return out


def lowest_by_part(
    equations: Equations,
    solved: Columns,
    mix: Floats,
    slack: UnilateralParts | None,
    apart: list[Part],
    count: int = 1,
    tell: Tell = quiet,
) -> Floats:
    """The lowest critical load factors (parts, count, results) of parts that nothing joins: as those of the frame with
    axial forces in one part alone."""
    out = np.full((len(apart), count, mix.shape[1]), np.inf)
    plates = equations.project.plates
    of_element = plates.surface if plates is not None else np.zeros(0, np.intp)
    for some in in_blocks(equations, mix.shape[1]):
        tell("critical load factors", int(some[0]), mix.shape[1])
        given = pulled(equations, solved, mix[:, some], slack)
        of_piece = equations.mesh.member[given.frame.element]
        for k, part in enumerate(apart):
            N = given.N.of(np.isin(of_piece, part.members), np.isin(of_element, part.surfaces))
            if N.compresses() or not given.stands.all():
                out[k][:, some] = given.critical(N, count)[0]
    return out


def told(factor: float) -> str:
    """A load factor with as many digits as tell it from 1.

    >>> told(0.99999963), told(0.8726)
    ('0.9999996', '0.8726')
    """
    digits = next((d for d in range(4, 16) if float(f"{factor:.{d}g}") != 1.0), 16)
    return f"{factor:.{digits}g}"


def beyond_critical(name: str, factor: float, at: float, place: Place) -> Finding:
    """What to say of a result, analysed at so many times its loads, without a second-order answer."""
    if factor == 0:
        message = f"{name}: without the parts that do not act under it the frame is a mechanism"
        remedy = (
            "second order needs stiffness in every motion: add a member that acts both ways; where ties cross and "
            "neither acts, a case with `notional` puts one of them in tension"
        )
    elif factor <= at:
        message = f"{name} is beyond its elastic critical load: it buckles at {told(factor)} of its loads"
        if at != 1:
            message += f", and it is analysed at {at:g} times them"
        remedy = "stiffen or brace the frame; `empuje draw MODEL buckled` shows how it buckles"
    else:
        message = (
            f"{name} has no second-order answer: its displacements and axial forces drive each other up without end"
        )
        remedy = f"look at its first-order displacements, and at parts that do not act (it buckles at {factor:.4g})"
    return Finding("error", "no-stable-answer", message, remedy, place)
