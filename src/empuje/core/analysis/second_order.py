"""Second order: axial forces act on the deformed shape, under each combination's own factored loads.

    (K + G(N)) x = -G(N) x1        N = N1 + N(x)

x1 and N1 are the linear answer, x what the axial forces add to it, P-delta and P-Delta alike. Each N has its own
solution by conjugate gradients with the linear frame, factorised once, as preconditioner: K^-1 (K + G) has its
eigenvalues at 1 - 1/alpha, alpha the frame's critical load factors, so a few steps suffice. N is then taken anew until
it stands still. A combination beyond its critical load (buckling.py) has no answer.

Forces keep to the initial axis (dM/dx = V + N dv/dx); bending does not shorten the chord, rotations are small, and
torsion is Saint-Venant's (no torsional or lateral-torsional buckling).
"""

from __future__ import annotations

from dataclasses import dataclass, fields, replace

import numpy as np
from numpy.typing import NDArray

from ..model.findings import Finding, Place
from .axial import AxialModel, Bending, Slack, State, Thrust, at_points, axial_model
from .beam_column import ENDS, TILT
from .buckling import critical_loads
from .element import fast_to_nodes, pass_through_rigid_lengths, rigid_lengths
from .equations import Equations
from .pieces import build_pieces
from .solution import Columns
from .unilateral import NOTHING_LEFT, slacks

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
Bools = NDArray[np.bool_]
STILL = 1e-9
"""N stands still when it changes by less than this share of the largest."""
ROUGH, CLOSE = 1e-4, 1e-12
"""What is left of the equations, in the energy of K, at which they are solved for a first N, and for the last."""
NEAR_CRITICAL = 1.5
MOST_ROUNDS, MOST_STEPS = 100, 300
AT_A_TIME = 100_000
"""Elements times results worked on at a time."""


@dataclass(frozen=True)
class Added:
    """What the axial forces add to each result.

    displacement, reaction (nodes, 6, results) global; start_force (elements, 6, results) and slip of a Solution,
    in member axes;
    slope (elements, 2, SLOPES, results): Legendre coefficients of w' in x-z and x-y; slack (parts, results): all of it;
    critical (results,): load factor; settled (results,): whether there is an answer.
    """

    displacement: Floats
    reaction: Floats
    start_force: Floats
    slip: Floats
    slope: Floats
    slack: Floats
    critical: Floats
    settled: Bools


@dataclass(frozen=True)
class UnilateralParts:
    """The one-way parts: their forces in the solved columns (parts, columns), the size of the terms that add up to
    these (parts, columns), weights [N/m], and the motions of all nodes under a unit slack of each (6 nodes, parts), in
    own axes."""

    force: Floats
    terms: Floats
    weight: Floats
    motion: Floats

    @property
    def C(self) -> Floats:
        C = self.force[:, -len(self.force) :]
        return (C + C.T) / 2

    def stand_without(self, gone: Bools) -> bool:
        """Whether the frame keeps some stiffness in every motion once these parts are gone."""
        scale = 1 / np.sqrt(self.weight[gone])
        left = scale[:, None] * self.C[np.ix_(gone, gone)] * scale
        return not gone.any() or float(np.linalg.eigvalsh(left)[0]) > NOTHING_LEFT


def second_order(
    equations: Equations,
    solved: Columns,
    mix: Floats,
    at: Floats,
    parts: UnilateralParts | None,
    critical: Floats | None = None,
) -> Added:
    """The second-order answer to every result whose linear answer `mix` (columns, results) makes of solved columns.

    `at` (results,): the analysis is at so many times the loads, and what it adds is divided by that (1.6 for
    allowable-stress combinations: AISC 360, C2.1); `critical` (results,): the critical load factors, where they are
    known already.
    """
    blocks = [
        _block(
            equations, solved, mix[:, some] * at[some], parts, None if critical is None else critical[some] / at[some]
        )
        for some in in_blocks(equations, mix.shape[1])
    ]
    whole = Added(*(np.concatenate([getattr(b, f.name) for b in blocks], axis=-1) for f in fields(Added)))
    less = {f.name: getattr(whole, f.name) / at for f in fields(Added) if f.name not in ("critical", "settled")}
    return replace(whole, critical=whole.critical * at, **less)


def in_blocks(equations: Equations, results: int) -> list[Ints]:
    """Results to be worked on together, so that memory does not grow with their number."""
    each = max(1, AT_A_TIME // max(len(equations.mesh.length), 1))
    return [np.arange(i, min(i + each, results)) for i in range(0, results, each)]


@dataclass(frozen=True)
class Pulled:
    """The frame under linear results: N (pieces, points, results) at its points, how it bends, the parts gone slack, N
    at the elements' starts (elements, results), and which results leave a frame that stands
    without its slack parts."""

    frame: AxialModel
    N: Floats
    bending: Bending
    slack: Slack | None
    constant: Floats
    stands: Bools

    def critical(self, N: Floats, count: int = 1) -> tuple[Floats, list[State]]:
        """The lowest critical load factors (count, results) and shapes; 0 where the frame does not stand."""
        factors, shapes = critical_loads(self.frame, N, self.slack, count)
        return np.where(self.stands, factors, 0.0), shapes


def pulled(equations: Equations, solved: Columns, mix: Floats, parts: UnilateralParts | None) -> Pulled:
    """From linear results, which `mix` (columns, results) makes of solved columns; what is slack in it stays slack."""
    every = np.arange(len(equations.project.members))
    pieces = build_pieces(solved, every, mix, displacements=True)
    frame = axial_model(equations, pieces)
    N, bending = at_points(frame, pieces, solved.displacement @ mix)
    constant = -solved.start_force[:, 0] @ mix
    if parts is None:
        return Pulled(frame, N, bending, None, constant, np.ones(mix.shape[1], bool))
    loose = mix[-len(parts.force) :] != 0
    stands = np.array([parts.stand_without(gone) for gone in loose.T])
    return Pulled(frame, N, bending, Slack(parts.motion, parts.C, loose & stands), constant, stands)


def _block(
    equations: Equations, solved: Columns, mix: Floats, parts: UnilateralParts | None, critical: Floats | None
) -> Added:
    given = first = pulled(equations, solved, mix, parts)
    frame, N, now = given.frame, given.N, mix
    if critical is None:
        critical = given.critical(N)[0][0]
    settled = critical > 1
    force = frame.thrust(N, given.bending).along.scaled(0.0)
    enough = np.full(len(settled), ROUGH)
    for _ in range(MOST_ROUNDS):
        drive = frame.thrust(N, given.bending).along.scaled(-1.0)
        x, force, definite = conjugate_gradients(frame, N, drive, force, given.slack, settled, enough)
        settled &= definite
        linear = frame.yield_to(force, None)
        changed = np.zeros_like(settled)
        if parts is not None and given.slack is not None:
            now, stable = _slack_under(parts, mix, force, settled)
            settled &= stable
            loose = now[-len(parts.force) :] > 0
            changed = (loose != given.slack.loose).any(axis=0) & settled
            if changed.any():
                given = pulled(equations, solved, _made_slack(parts, mix, loose & settled), parts)
                frame = given.frame
                settled &= given.stands
        ends = frame.at_ends(linear)
        constant = -solved.start_force[:, 0] @ now - np.einsum("ej,ejr->er", equations.stiffness_jointed[:, 0], ends)
        more = constant - given.constant
        for rigid, beside in zip(
            rigid_lengths(equations.mesh), (1, -1), strict=True
        ):  # they pass on what comes to them
            more[rigid] = more[rigid + beside]
        before, N = N, given.N + more[frame.element][:, None]
        move, size = np.abs(N - before).max(axis=(0, 1)), np.abs(N).max(axis=(0, 1))
        still = (move <= STILL * size) & ~changed & (enough <= CLOSE)
        enough = np.clip(1e-3 * move / np.where(size > 0, size, 1.0), CLOSE, 1e-3 * enough + CLOSE)
        if (still | ~settled).all():
            break
    settled &= still
    if settled.any() and (given is not first or (critical < NEAR_CRITICAL).any()):
        # No load may drive the way the frame buckles in with its last axial forces and slack parts.
        settled &= given.critical(N)[0][0] > 1
    thrust = frame.thrust(N, given.bending.plus(frame.bending(x)))
    slack = now[len(mix) - (len(parts.force) if parts else 0) :]
    return as_added(frame, State(linear.nodes, x.inner), thrust, slack, critical, settled)


def _slack_under(parts: UnilateralParts, mix: Floats, force: State, wanted: Bools) -> tuple[Floats, Bools]:
    """The columns' shares with the slacks under the loads and what the axial forces add, and which results have any."""
    cases = len(mix) - len(parts.force)
    t = parts.force[:, :cases] @ mix[:cases] - parts.motion.T @ force.nodes
    terms = parts.terms[:, :cases] @ np.abs(mix[:cases])
    amount, failed = slacks(np.where(wanted, t, 0.0), terms, parts.C, parts.weight)
    stable = np.ones(mix.shape[1], bool)
    stable[[j for j, _ in failed]] = False
    return np.vstack([mix[:cases], np.where(wanted & stable, amount, 0.0)]), stable


def _made_slack(parts: UnilateralParts, mix: Floats, loose: Bools) -> Floats:
    """The columns' shares of the linear frame without its loose parts: their forces made zero, whatever the slack."""
    cases = len(mix) - len(parts.force)
    t = parts.force[:, :cases] @ mix[:cases]
    amount = np.zeros_like(t)
    for r in range(t.shape[1]):
        gone = loose[:, r]
        if parts.stand_without(gone):
            amount[gone, r] = np.linalg.solve(parts.C[np.ix_(gone, gone)], -t[gone, r])
        else:
            amount[gone, r] = 1.0
    return np.vstack([mix[:cases], amount])


def conjugate_gradients(
    frame: AxialModel, N: Floats, force: State, Kx: State, slack: Slack | None, wanted: Bools, enough: Floats
) -> tuple[State, State, Bools]:
    """x with (K + G) x = force for each wanted result, from a first guess of K x; K x; and where K + G proved positive.

    Only K^-1 is at hand: K times a search direction follows from the same recurrence as the direction itself. `enough`
    (results,): the share of the force, in the energy of K, that may be left.
    """
    first = force.times(frame.yield_to(force, slack))
    x, Kx = frame.yield_to(Kx, slack), Kx.scaled(1.0)
    left = force.plus(-1.0, Kx).plus(-1.0, frame.thrust(N, frame.bending(x)).along)
    moved = frame.yield_to(left, slack)
    way, Kway, spare = moved, left.scaled(1.0), left.scaled(0.0)
    energy = left.times(moved)
    definite = np.ones(len(wanted), bool)
    for _ in range(MOST_STEPS):
        busy = wanted & definite & (energy > enough**2 * first)
        if not busy.any():
            break
        pull = frame.thrust(N, frame.bending(way)).along
        pull.add(1.0, Kway, spare)
        work = pull.times(way)
        definite &= ~busy | (work > 0)
        busy &= definite
        step = np.where(busy, energy / np.where(busy, work, 1.0), 0.0)
        x.add(step, way, spare)
        Kx.add(step, Kway, spare)
        left.add(-step, pull, spare)
        moved = frame.yield_to(left, slack)
        after = left.times(moved)
        turn = np.where(busy, after / np.where(busy, energy, 1.0), 0.0)
        energy = np.where(busy, after, energy)
        moved.add(turn, way, spare)
        way, Kway = moved, left.plus(turn, Kway)
    return x, Kx, definite & (energy <= (1e3 * enough) ** 2 * first)


def as_added(frame: AxialModel, state: State, thrust: Thrust, slack: Floats, critical: Floats, settled: Bools) -> Added:
    """What a state of all nodes, all parts acting, and of all inner shapes means for tables and drawings."""
    eq = frame.equations
    results = state.nodes.shape[1]
    ends = frame.at_ends(state)
    end_force = eq.stiffness_jointed @ ends + fast_to_nodes(eq.mesh, thrust.at_ends)
    at_nodes = eq.gather @ end_force.reshape(-1, results)
    reaction = -eq.freedom.spring.reshape(-1, 1) * state.nodes
    reaction[eq.freedom.fixed] = at_nodes[eq.freedom.fixed]
    motions = frame.motions(state)
    e = eq.joints.elements
    slip = (ends[e] - eq.shapes.bent @ ends[e])[:, :6]
    for plane in (0, 1):
        slip[:, ENDS[plane, :2]] = ends[e[:, None], ENDS[plane, :2]] - motions[e, plane, :2] * TILT[plane, :2, None]
    start_force = end_force[:, :6].copy()
    # The couple of a sliding end is its node's: the element begins beside it.
    slide = frame.sliding
    near = np.flatnonzero(slide.end == 0)
    turn = slide.node_freedoms[1][near]
    np.subtract.at(start_force, (slide.element[near], turn), TILT[slide.plane[near], 1, None] * thrust.couples[near])
    pass_through_rigid_lengths(eq.mesh, start_force, end_force[rigid_lengths(eq.mesh)[1] - 1, 6:])

    def on_nodes(values: Floats) -> Floats:
        return eq.global_axes(values.reshape(-1, 6, results))

    return Added(
        on_nodes(state.nodes),
        on_nodes(reaction),
        start_force,
        slip,
        eq.shapes.slope @ motions,
        slack,
        critical,
        settled,
    )


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
        message = f"{name}: without the parts that go slack under it the frame has a motion that nothing resists"
        remedy = (
            "second order needs stiffness in every motion: add a member that acts both ways; where ties cross and both "
            "are slack, a case with `lean` pulls one of them"
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
        remedy = f"look at its first-order displacements, and at parts that go slack (it buckles at {factor:.4g})"
    return Finding("error", "no-stable-answer", message, remedy, place)
