"""Second order: axial forces act on the deformed shape, under each combination's own factored loads.

    (K + G(N)) x = -G(N) x1        N = N1 + N(x), the forces in the planes of plates too

x1 and N1 are the linear answer, x what the axial forces add to it, P-delta and P-Delta alike. K + G is factorised with
the linear answer's N (tangent.py); that N changes little, so that a few steps with the same factors let x and N stand
still. A combination beyond its critical load, where K + G is not positive definite, has no answer.

Forces keep to the initial axis (dM/dx = V + N dv/dx); bending does not shorten the chord, rotations are small, and
torsion is Saint-Venant's (no torsional or lateral-torsional buckling).
"""

from __future__ import annotations

from dataclasses import dataclass, fields, replace

import numpy as np
from numpy.typing import NDArray

from ..model.telling import Tell, quiet
from .axial import Axial, AxialModel, Slack, State, Thrust
from .beam_column import ENDS, TILT
from .critical import Pulled, UnilateralParts, free_stretches, in_blocks, pulled
from .element import fast_to_nodes, pass_through_rigid_lengths, rigid_lengths
from .equations import Equations
from .solution import Columns
from .tangent import Basis, Tangent
from .unilateral import slacks

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
Bools = NDArray[np.bool_]
STILL = 1e-9
"""N stands still when it changes by less than this share of the largest."""
CLOSE = 1e-9
"""What a last step may still add, as a ratio of the whole, in the norm of energy. The next one would add a thirtieth of
that or less, so that motions are within 1e-10."""
SLOW = 0.3
"""Where a step leaves more than this share of the one before, the frame is factorised anew."""
NEARLY = 1e-7
"""Nearer than this, in the norm of energy, it goes on as it does: beginning anew would only come back to here."""
SURELY = 0.3
"""A change of N that takes away less than this share of the stiffness, as a few steps of the power method show it,
leaves the frame positive."""
MOST_ROUNDS = 100


@dataclass(frozen=True)
class Added:
    """What the axial forces add to each result.

    displacement, reaction (nodes, 6, results) global; start_force (elements, 6, results) and slip of a Solution,
    in member axes;
    slope (elements, 2, SLOPES, results): Legendre coefficients of w' in x-z and x-y; slack (parts, results): all of it;
    below (results,): whether it is below its critical load; settled (results,): whether there is an answer.
    """

    displacement: Floats
    reaction: Floats
    start_force: Floats
    slip: Floats
    slope: Floats
    slack: Floats
    below: Bools
    settled: Bools


def second_order(
    equations: Equations, solved: Columns, mix: Floats, at: Floats, parts: UnilateralParts | None, tell: Tell = quiet
) -> Added:
    """The second-order answer to every result whose linear answer `mix` (columns, results) makes of solved columns.

    `at` (results,): the analysis is at so many times the loads, and what it adds is divided by that (1.6 for
    allowable-stress combinations: AISC 360, C2.1).
    """
    blocks = []
    for some in in_blocks(equations, mix.shape[1]):
        tell("second order", int(some[0]), mix.shape[1])
        blocks.append(_block(equations, solved, mix[:, some] * at[some], parts))
    whole = Added(*(np.concatenate([getattr(b, f.name) for b in blocks], axis=-1) for f in fields(Added)))
    less = {f.name: getattr(whole, f.name) / at for f in fields(Added) if f.name not in ("below", "settled")}
    return replace(whole, **less)


def _block(equations: Equations, solved: Columns, mix: Floats, parts: UnilateralParts | None) -> Added:
    given = pulled(equations, solved, mix, parts)
    tangent = Tangent(Basis(given.frame), given.N, given.slack)
    frame, N, now = given.frame, given.N, mix
    settled = given.stands & tangent.positive
    below = settled.copy()
    x = frame.thrust(N, given.bending).along.scaled(0.0)
    force = x.scaled(0.0)
    way = Way(force, force, force)
    before_left = np.full(len(settled), np.inf)
    still = ~settled
    for _ in range(MOST_ROUNDS):
        # K x = force; what is left of K x = -G (x1 + x) goes through K + G as it was factorised.
        drive = frame.thrust(N, given.bending.plus(frame.bending(x))).along
        left = drive.plus(1.0, force).scaled(np.where(settled, -1.0, 0.0))
        step = tangent.solve(left)
        before, way = way, _next_way(frame, tangent, N, way, step, left)
        # N was another when the way before was gone: there may be something left along it.
        force = force.plus(way.share(left), way.force).plus(before.share(left), before.force)
        # From the force anew: what a step misses by rounding is left over for the next one.
        x = frame.yield_to(force, given.slack)
        size = np.abs(x.times(force))
        rest = np.abs(step.times(left)) / np.where(size > 0, size, 1.0)
        linear = frame.yield_to(force, None)
        changed = np.zeros_like(settled)
        if parts is not None and given.slack is not None:
            now, stable = _slack_under(parts, mix, force, settled, given.slack)
            settled &= stable
            loose = now[-len(parts.force) :] > 0
            changed = (loose != given.slack.loose).any(axis=0) & settled
            if changed.any():
                given = pulled(equations, solved, _made_slack(parts, mix, loose & settled), parts)
                frame = given.frame
                settled &= given.stands
        N, last = _thrust_of(given, frame, solved, now, linear), N
        still = (_largest(frame, N.less(last)) <= STILL * _largest(frame, N)) & ~changed & (rest <= CLOSE**2)
        if (still | ~settled).all():
            break
        slow = settled & ~still & (rest > SLOW**2 * before_left) & (rest > NEARLY**2)
        before_left = rest
        if changed.any() or slow.any():
            again = changed | slow
            tangent.renew(N, given.slack, np.flatnonzero(again))
            settled &= tangent.positive
            fresh = np.where(again, 0.0, 1.0)
            x, force, way = x.scaled(fresh), force.scaled(fresh), way.scaled(fresh)
            before_left = np.where(again, np.inf, before_left)
    settled &= still
    if settled.any():
        # No load may drive the way the frame buckles in with its last axial forces and slack parts.
        settled &= _positive(tangent, N, given.slack, settled)
    thrust = frame.thrust(N, given.bending.plus(frame.bending(x)))
    slack = now[len(mix) - (len(parts.force) if parts else 0) :]
    return as_added(frame, State(linear.nodes, x.inner), thrust, slack, below, settled)


@dataclass(frozen=True)
class Way:
    """A motion d to go along, K d, and (K + G) d."""

    motion: State
    force: State
    pulled: State

    def share(self, left: State) -> Floats:
        """How far along it the least energy is under the force that is left (results,)."""
        return _ratio(self.motion.times(left), self.motion.times(self.pulled))

    def scaled(self, factor: Floats) -> Way:
        """Times a factor for each result."""
        return Way(*(getattr(self, f.name).scaled(factor) for f in fields(Way)))


def _largest(frame: AxialModel, N: Axial) -> Floats:
    """Of all axial forces (results,) [N], those of plates over the side of an element."""
    found = np.abs(N.members).max(axis=(0, 1), initial=0.0)
    if frame.plates is not None:
        of_plates = (np.abs(N.plates) * frame.plates.side[:, None, None]).max(axis=(0, 1), initial=0.0)
        found = np.maximum(found, of_plates)
    return np.asarray(found)


def _next_way(frame: AxialModel, tangent: Tangent, N: Axial, before: Way, step: State, left: State) -> Way:
    """The step, which the factors make of the force that is left, made conjugate to the way before: the conjugate
    gradients, preconditioned, of J. R. Shewchuk's notes (B3). N is no more the one that was factorised."""
    bending = frame.bending(step)
    force = left.plus(-1.0, frame.thrust(tangent.N, bending).along)
    pulled = force.plus(1.0, frame.thrust(N, bending).along)
    share = -_ratio(step.times(before.pulled), before.motion.times(before.pulled))
    return Way(step.plus(share, before.motion), force.plus(share, before.force), pulled.plus(share, before.pulled))


def _ratio(above: Floats, below: Floats) -> Floats:
    return np.where(below > 0, above / np.where(below > 0, below, 1.0), 0.0)


def _thrust_of(given: Pulled, frame: AxialModel, solved: Columns, now: Floats, linear: State) -> Axial:
    """Axial forces with what a linear state adds to the columns' shares."""
    equations = frame.equations
    ends = frame.at_ends(linear)
    constant = -solved.start_force[:, 0] @ now - np.einsum("ej,ejr->er", equations.stiffness_jointed[:, 0], ends)
    more = constant - given.constant
    for rigid, beside in zip(rigid_lengths(equations.mesh), (1, -1), strict=True):  # they pass on what comes to them
        more[rigid] = more[rigid + beside]
    in_plane = given.N.plates
    if frame.plates is not None:
        moved, free = linear.nodes, None
        if now is not given.mix:  # the slacks are others
            moved = moved + equations.own_axes(solved.displacement @ (now - given.mix)).reshape(moved.shape)
            free = free_stretches(solved, now - given.mix)
        in_plane = in_plane + frame.plates.forces(moved, free)
    return Axial(given.N.members + more[frame.element][:, None], in_plane)


def _positive(tangent: Tangent, N: Axial, slack: Slack | None, wanted: Bools) -> Bools:
    """Which of the wanted results are positive with N too: those whose change of N takes surely less away than there
    is, others by a factorisation of their own."""
    frame = tangent.frame
    change = N.less(tangent.N)
    if not len(frame.sliding.element):  # K + G grows with N: only what is less takes away
        change = replace(change, members=np.minimum(change.members, 0.0))
    if not (change.members.any() or change.plates.any()):
        return wanted
    random = np.random.default_rng(7)
    shape = N.results
    force = State(*(np.repeat(random.standard_normal((*v.shape[:-1], 1)), shape, axis=-1) for v in tangent.like()))
    share = np.zeros(shape)
    motion = tangent.solve(force)
    for _ in range(2):
        pulled_on = frame.thrust(change, frame.bending(motion)).along
        moved = tangent.solve(pulled_on)
        size = np.sqrt(np.abs(force.times(motion)))
        share = np.sqrt(np.abs(pulled_on.times(moved))) / np.where(size > 0, size, 1.0)
        force, motion = pulled_on, moved
    unsure = wanted & ~(share < SURELY)
    if not unsure.any():
        return wanted
    some = np.flatnonzero(unsure)
    out = wanted.copy()
    out[some] = tangent.positive_with(N, slack, some)
    return out


def _slack_under(
    parts: UnilateralParts, mix: Floats, force: State, wanted: Bools, before: Slack
) -> tuple[Floats, Bools]:
    """The columns' shares with the slacks under the loads and what the axial forces add, and which results have any."""
    cases = len(mix) - len(parts.force)
    t = parts.force[:, :cases] @ mix[:cases] - parts.motion.T @ force.nodes
    terms = parts.terms[:, :cases] @ np.abs(mix[:cases])
    amount, failed = slacks(np.where(wanted, t, 0.0), terms, parts.C, parts.weight, before.loose)
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


def as_added(frame: AxialModel, state: State, thrust: Thrust, slack: Floats, below: Bools, settled: Bools) -> Added:
    """What a state of all nodes, all parts acting, and of all inner shapes means for tables and drawings."""
    eq = frame.equations
    results = state.nodes.shape[1]
    ends = frame.at_ends(state)
    end_force = eq.stiffness_jointed @ ends + fast_to_nodes(eq.mesh, thrust.at_ends)
    at_nodes = eq.stiff @ state.nodes + (thrust.along.nodes if eq.hinges is None else eq.hinges.T @ thrust.along.nodes)
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
        below,
        settled,
    )
