"""Cranes by EN 1991-3: groups of loads of table 2.2, each with the crab near either rail.

Groups 1 to 6 are those of a crane at work, 7 out of service, 9 accidental:

    group     1      2      3      4      5      6      7      9
    Q_C     phi_1  phi_1    1    phi_4  phi_4  phi_4    1      1       the crane's own weight
    Q_H     phi_2  phi_3    -    phi_4  phi_4  phi_4   eta     1       the load it lifts
    H_L,T   phi_5  phi_5  phi_5  phi_5    -      -      -      -       drives of the bridge (2.7.2)
    H_S       -      -      -      -      1      -      -      -       skewing (2.7.4)
    H_T,3     -      -      -      -      -      1      -      -       drives of the crab (2.7.5)
    H_B,1     -      -      -      -      -      -      -    phi_7     buffers (2.11.1)

Wind in service (groups 1 to 5) is a load of its own.
"""

from __future__ import annotations

from math import exp, sqrt

from ....model.crane import Crane
from ....model.loads import Step
from ....model.project import GRAVITY
from ....model.traffic import Vehicle
from .statics import Level, Pair, no_level, on_rails, vehicle

PHI_2 = {"HC1": (1.05, 0.17), "HC2": (1.10, 0.34), "HC3": (1.15, 0.51), "HC4": (1.20, 0.68)}
"""phi_2,min and beta_2 of hoisting classes (table 2.5)."""
USUAL = (1, 3, 4, 5, 6)
"""Groups that every crane has; 2 where its load may be set free suddenly."""
KNOWN = (1, 2, 3, 4, 5, 6, 7, 9)
OF_CRAB = 0.1
"""The share of load and crab that the crab's drive makes (2.7.5, 2.11.2)."""


def phi_2(crane: Crane) -> float:
    """phi_2,min + beta_2 v_h (table 2.4), or as stated."""
    if crane.phi_2:
        return crane.phi_2
    least, beta = PHI_2[crane.hoisting]
    return least + beta * crane.hoist_speed


def permanent_share(crane: Crane) -> float:
    """psi_2 of cranes: their own weight over all of it (EN 1991-3, A.2.3)."""
    own = crane.bridge + crane.crab
    return own / (own + crane.lifts)


def states(crane: Crane) -> list[Vehicle]:
    """The crane as vehicles, one for each group of loads, place of the crab, and rail that guides it."""
    out: list[Vehicle] = []
    for group in crane.groups:
        for near in (0, 1):
            for own in crane.phi_1 if group in (1, 2) else (0.0,):
                out += _states(crane, group, near, own)
    return out


def _states(crane: Crane, group: int, near: int, phi_1: float) -> list[Vehicle]:
    factors, steps = _vertical(crane, group, phi_1)
    rails = on_rails(crane, near, factors[0], factors[0], factors[1])
    each = [q / crane.wheels for q in rails]
    steps += [Step(f"Q_r,{crane.rails[k]}", "of a wheel: statics of bridge, crab and load", q, "N", "EN 1991-3, 2.2.3")
              for k, q in enumerate(each)]  # fmt: skip
    name = f"g{group}.{crane.rails[near]}" + (".light" if group in (1, 2) and phi_1 < 1 else "")
    if group in (1, 2, 3, 4):
        weights = on_rails(crane, near, factors[0], factors[0], max(factors[1], 0.0))
        return [vehicle(crane, name, rails, *_driven(crane, near, weights, steps))]
    if group == 5:
        return [
            vehicle(
                crane, f"{name}.guide-{crane.rails[guided]}", rails, *_skewed(crane, guided, rails, steps), crane.guide
            )
            for guided in (0, 1) if crane.holds[guided]
        ]  # fmt: skip
    if group == 6:
        return [vehicle(crane, name, rails, *_crab(crane, steps))]
    if group == 9:
        return [vehicle(crane, name, rails, *_buffers(crane, rails, steps))]
    return [vehicle(crane, name, rails, no_level(crane), steps)]


def _vertical(crane: Crane, group: int, phi_1: float) -> tuple[Pair, list[Step]]:
    """Factors on the crane's own weight and on what it lifts."""
    if group in (1, 2):
        own = Step("phi_1", "the crane's own weight as the load leaves the ground", phi_1, "", "table 2.4")
        if group == 1:
            formula = f"phi_2,min + beta_2 v_h, {crane.hoisting}" if not crane.phi_2 else "stated"
            lifts = Step("phi_2", formula, phi_2(crane), "", "tables 2.4, 2.5")
        else:
            value = 1 - crane.released * (1 + crane.beta_3)
            lifts = Step("phi_3", "1 - dm/m (1 + beta_3)", value, "", "table 2.4")
        return (own.value, lifts.value), [own, lifts]
    if group in (4, 5, 6):
        return (crane.phi_4,) * 2, [Step("phi_4", "travelling on its rails", crane.phi_4, "", "table 2.4")]
    if group == 3:
        return (1.0, 0.0), []
    if group == 7:
        return (1.0, crane.eta), [Step("eta", "the share of the load that stays", crane.eta, "", "table 2.2")]
    return (1.0, 1.0), []


def _driven(crane: Crane, near: int, weights: Pair, steps: list[Step]) -> tuple[Level, list[Step]]:
    """H_L,i = phi_5 K/n_r of each rail; H_T of its first and last wheel from the offset of the masses (2.7.2)."""
    light = min(on_rails(crane, near, 1.0, 1.0, 0.0)) / crane.wheels
    K = crane.mu * crane.driven * light
    H_L = crane.phi_5 * K / 2
    share = weights[near] / sum(weights)
    l_s, a = (share - 0.5) * crane.span, sum(crane.base)
    M = K * l_s
    # Braking: masses push forward, nearer to the rail of the crab, which turns the crane about that rail's side.
    turn = -1.0 if near == 0 else 1.0
    H_T = [turn * crane.phi_5 * M / a * w / sum(weights) for w in weights]
    last = crane.wheels - 1
    level = [
        tuple((H_L / crane.wheels, H * ((k == 0) - (k == last))) for H in H_T) for k in range(crane.wheels)
    ]  # fmt: skip
    more = [
        Step("K", "mu m_w Q_r,min, unloaded", K, "N", "2.7.3"),
        Step("H_L", "phi_5 K/n_r of each rail", H_L, "N", "2.7.2"),
        Step("xi_1", "sum Q_r,max / sum Q_r", share, "", "2.7.2"),
        Step("M", "K l_s, l_s = (xi_1 - 0.5) l", M, "N m", "2.7.2"),
        *(Step(f"H_T,{crane.rails[k]}", "phi_5 xi M/a, its own share of the loads", abs(H), "N", "2.7.2")
          for k, H in enumerate(H_T)),
    ]  # fmt: skip
    return level, [*steps, *more]


def _skewed(crane: Crane, guided: int, rails: Pair, steps: list[Step]) -> tuple[Level, list[Step]]:
    """Guide force S = f lambda_S sum Q_r on one rail, held by friction at the wheels, of independent pairs (2.7.4)."""
    f = min(0.3, 0.3 * (1 - exp(-250 * crane.skew)))
    n, total = crane.wheels, sum(rails)
    e = [crane.guide + sum(crane.base[:k]) for k in range(n)]
    h = sum(v * v for v in e) / sum(e)
    friction = [
        [crane.holds[rail] * f * rails[rail] / n * (1 - v / h) for v in e] for rail in (0, 1)
    ]  # fmt: skip
    S = sum(map(sum, friction))
    # The guide of the left rail pushes it to the left, of the right rail to the right; friction the other way.
    out = 1.0 if guided == 0 else -1.0
    level = [tuple((0.0, -out * friction[rail][k]) for rail in (0, 1)) for k in range(n)]
    push = tuple((0.0, out * S if rail == guided else 0.0) for rail in (0, 1))
    if crane.guide:
        level = [push, *level]
    else:
        level[0] = tuple((0.0, a[1] + b[1]) for a, b in zip(level[0], push, strict=True))
    more = [
        Step("f", "0.3 (1 - exp(-250 alpha)), at most 0.3", f, "", "2.7.4"),
        Step("h", "sum e_j^2 / sum e_j, from the guide to where the crane turns", h, "m", "table 2.8"),
        Step("lambda_S", "guide force over f sum Q_r", S / (f * total), "", "table 2.9"),
        Step("S", "f lambda_S sum Q_r, against the guided rail", S, "N", "2.7.4"),
        *(Step(f"H_S,{crane.rails[rail]}", "friction of its first wheel: f Q_r (1 - e_1/h)", friction[rail][0], "N",
               "table 2.9") for rail in (0, 1)),
    ]  # fmt: skip
    return level, [*steps, *more]


def _crab(crane: Crane, steps: list[Step]) -> tuple[Level, list[Step]]:
    """H_T,3: a tenth of load and crab, even among the wheels of rails that can take it."""
    H = OF_CRAB * (crane.crab + crane.lifts)
    each = H / (sum(crane.holds) * crane.wheels)
    level = [[(0.0, each * held) for held in crane.holds]] * crane.wheels
    return level, [*steps, Step("H_T,3", "0.1 (load + crab)", H, "N", "2.7.5, 2.11.2")]


def _buffers(crane: Crane, rails: Pair, steps: list[Step]) -> tuple[Level, list[Step]]:
    """H_B,1 = phi_7 v_1 sqrt(m_c S_B), in the shares of the rails' loads; v_1 is 0.7 of the speed."""
    bumpers = crane.bumpers
    assert bumpers is not None
    phi_7 = 1.25 + 0.7 * max(bumpers.xi_b - 0.5, 0.0)
    mass = (crane.bridge + crane.crab + crane.lifts) / GRAVITY
    H = phi_7 * 0.7 * bumpers.speed * sqrt(mass * bumpers.spring)
    level = [
        tuple((H * r / sum(rails) / crane.wheels, 0.0) for r in rails) for _ in range(crane.wheels)
    ]  # fmt: skip
    more = [
        Step("phi_7", "by the buffers' curve: 1.25 + 0.7 (xi_b - 0.5)", phi_7, "", "table 2.10"),
        Step("H_B,1", "phi_7 v_1 sqrt(m_c S_B), v_1 = 0.7 of the speed", H, "N", "2.11.1"),
    ]
    return level, [*steps, *more]
