"""EN 1991-1-4, chapter 4 and 6: peak velocity pressure and structural factor, with the recommended values.

q_p(z) = (1 + 7 I_v(z)) rho/2 v_m(z)^2     (4.8)     v_m = c_r c_o v_b  (4.3)
c_r = k_r ln(z / z_0)  (4.4)   k_r = 0.19 (z_0 / 0.05 m)^0.07  (4.5)    I_v = k_I / (c_o ln(z / z_0))  (4.7)
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from ....model.loads import Step
from ....model.wind import WindRule
from .gusts import size_factor
from .profile import Profile

Floats = NDArray[np.float64]
TERRAINS = {"0": (0.003, 1.0), "I": (0.01, 1.0), "II": (0.05, 2.0), "III": (0.3, 5.0), "IV": (1.0, 10.0)}
"""z_0 and z_min [m], table 4.1."""
Z_MAX = 200.0
"""(4.4) holds up to here [m]."""
STEPS = tuple(float(z) for z in (*range(5, 50, 5), *range(50, 201, 10)))


def terrain_of(rule: WindRule) -> tuple[float, float, float]:
    """z_0, z_min [m] and k_r."""
    z_0, z_min = TERRAINS[rule.roughness]
    z_0, z_min = rule.number("z_0", z_0), rule.number("z_min", z_min)
    return z_0, z_min, rule.number("k_r", 0.19 * (z_0 / TERRAINS["II"][0]) ** 0.07)


def basic_speed(rule: WindRule) -> float:
    """v_b = c_dir c_season v_b0 [m/s] (4.1)."""
    return rule.V * rule.number("c_dir", 1.0) * rule.number("c_season", 1.0)


def mean_wind(rule: WindRule, z: Floats) -> tuple[Floats, Floats, Floats]:
    """c_r, I_v and v_m [m/s] at heights z [m] (4.3 to 4.7)."""
    z_0, z_min, k_r = terrain_of(rule)
    c_o = rule.number("c_o", 1.0)
    log = np.log(np.maximum(np.asarray(z, float), z_min) / z_0)
    return k_r * log, rule.number("k_I", 1.0) / (c_o * log), k_r * log * c_o * basic_speed(rule)


def peak_pressure(rule: WindRule) -> Profile:
    """q_p over the height (4.8)."""
    rho = rule.number("rho", 1.25)
    q_b = rho / 2 * basic_speed(rule) ** 2

    def at(z: Floats) -> Floats:
        _, I_v, v_m = mean_wind(rule, z)
        return np.asarray((1 + 7 * I_v) * rho / 2 * v_m**2)

    def columns(z: Floats) -> dict[str, Floats]:
        c_r, I_v, v_m = mean_wind(rule, z)
        return {"c_r": c_r, "I_v": I_v, "v_m [m/s]": v_m, "c_e": at(z) / q_b}

    def derived(z: float) -> tuple[Step, ...]:
        z_0, z_min, k_r = terrain_of(rule)
        c_r, I_v, _ = (float(v[0]) for v in mean_wind(rule, np.array([z])))
        return (
            Step(
                "v_b",
                f"c_dir c_season v_b0, {rule.number('c_dir', 1.0):g} {rule.number('c_season', 1.0):g} v_b0",
                basic_speed(rule),
                "m/s",
                "(4.1)",
            ),
            Step("z", "above the ground, not below z_min", max(z, z_min), "m"),
            Step("z_0", f"terrain {rule.roughness}", z_0, "m", "table 4.1"),
            Step("k_r", "0.19 (z_0 / 0.05 m)^0.07", k_r, "", "(4.5)"),
            Step("c_r", "k_r ln(z / z_0)", c_r, "", "(4.4)"),
            Step("c_o", "stated" if "c_o" in rule.stated else "no orography", rule.number("c_o", 1.0), "", "4.3.3"),
            Step("I_v", "k_I / (c_o ln(z / z_0))", I_v, "", "(4.7)"),
            Step("q_p", "(1 + 7 I_v) rho/2 (c_r c_o v_b)^2", float(at(np.array([z]))[0]), "N/m2", "(4.8)"),
        )

    return Profile("q_p", at, (terrain_of(rule)[1],), STEPS, columns, derived, made_by=(peak_pressure, rule))


def structural_factor(rule: WindRule, h: float, b: float) -> tuple[float, tuple[Step, ...]]:
    """c_s c_d: 1, stated, or by (6.1) with annex B from the lowest frequency n_1 [Hz] and delta; h, b [m]."""
    if rule.gust == "stated":
        c = rule.stated["c_scd"]
        return c, (Step("c_s c_d", "stated", c, "", "6.2"),)
    if rule.gust != "flexible":
        return 1.0, (Step("c_s c_d", "taken as 1", 1.0, "", "6.2 (1)"),)
    z_0, z_min, _ = terrain_of(rule)
    n, delta = rule.stated["n_1"], rule.number("delta", 0.05)
    z_s = max(0.6 * h, z_min)
    _, I_v, v_m = (float(v[0]) for v in mean_wind(rule, np.array([z_s])))
    L = 300.0 * (z_s / 200.0) ** (0.67 + 0.05 * math.log(z_0))
    B2 = 1 / (1 + 0.9 * ((b + h) / L) ** 0.63)
    f_L = n * L / v_m
    S_L = 6.8 * f_L / (1 + 10.2 * f_L) ** (5 / 3)
    R_h, R_b = (size_factor(4.6 * x / L * f_L) for x in (h, b))
    R2 = math.pi**2 / (2 * delta) * S_L * R_h * R_b
    nu = max(n * math.sqrt(R2 / (B2 + R2)), 0.08)
    root = math.sqrt(2 * math.log(nu * 600))
    k_p = max(root + 0.6 / root, 3.0)
    c = (1 + 2 * k_p * I_v * math.sqrt(B2 + R2)) / (1 + 7 * I_v)
    return c, (
        Step("z_s", "0.6 h, not below z_min", z_s, "m", "figure 6.1"),
        Step("L", "300 m (z_s / 200 m)^(0.67 + 0.05 ln z_0)", L, "m", "(B.1)"),
        Step("B2", "1 / (1 + 0.9 ((b + h) / L)^0.63)", B2, "", "(B.3)"),
        Step("n_1", f"lowest frequency, {'analysed' if rule.analysed else 'stated'}", n, "Hz", "F.2"),
        Step("delta", "logarithmic decrement" + ("" if "delta" in rule.stated else ", taken"), delta, "", "F.5"),
        Step("R2", "pi^2 / (2 delta) S_L R_h R_b", R2, "", "(B.6)"),
        Step("k_p", "sqrt(2 ln(nu 600 s)) + 0.6 / sqrt(2 ln(nu 600 s))", k_p, "", "(B.4)"),
        Step("c_s c_d", "(1 + 2 k_p I_v sqrt(B2 + R2)) / (1 + 7 I_v)", c, "", "(6.1)"),
    )  # fmt: skip


def eccentricity(rule: WindRule, h: float, b: float, d: float) -> tuple[float, tuple[Step, ...]]:
    """How far the wind is off the middle [m]: the stated share of b (7.1.2)."""
    share = rule.number("eccentricity", 0.0)
    return share * b, (Step("e", f"{share:g} b", share * b, "m", "7.1.2"),)
