"""ASCE 7-16 and 7-22, chapter 26: velocity pressure and gust factor.

    q_z = 0.613 K_z K_zt K_d K_e V^2    [N/m2], V [m/s]      7-16 (26.10-1)
    q_z = 0.613 K_z K_zt K_e V^2        K_d stands beside G  7-22 (26.10-1)

In models in feet and pounds 0.613 is 0.00256 psf / mph^2.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ....model.findings import Finding
from ....model.loads import Step
from ....model.wind import Hill, WindRule
from ....model.words import Rise, WindCode
from .gusts import size_factor
from .profile import Profile

Floats = NDArray[np.float64]
FOOT, PSF, MPH = 0.3048, 47.88025898033584, 0.44704


@dataclass(frozen=True)
class Exposure:
    """A row of table 26.11-1; lengths in feet, as the table has them."""

    alpha: float
    z_g: float
    a_bar: float
    b_bar: float
    c: float
    length: float
    e_bar: float
    z_min: float


EXPOSURES = {
    WindCode.ASCE_16: {
        "B": Exposure(7.0, 1200, 1 / 4.0, 0.45, 0.30, 320, 1 / 3.0, 30),
        "C": Exposure(9.5, 900, 1 / 6.5, 0.65, 0.20, 500, 1 / 5.0, 15),
        "D": Exposure(11.5, 700, 1 / 9.0, 0.80, 0.15, 650, 1 / 8.0, 7),
    },
    WindCode.ASCE_22: {
        "B": Exposure(7.5, 3280, 1 / 4.5, 0.47, 0.30, 320, 1 / 3.0, 30),
        "C": Exposure(9.8, 2460, 1 / 6.4, 0.66, 0.20, 500, 1 / 5.0, 15),
        "D": Exposure(11.5, 1935, 1 / 8.0, 0.78, 0.15, 650, 1 / 8.0, 7),
    },
}
"""Table 26.11-1 (7-16: alpha and z_g of table 26.11-1; 7-22: of table 26.10-1 and 26.11-1)."""
FRONT = {WindCode.ASCE_16: 2.01, WindCode.ASCE_22: 2.41}
"""The factor before (z / z_g)^(2 / alpha), table 26.10-1 note 1."""
LOWEST = 15 * FOOT
HIGHEST_22 = 3280 * FOOT
TABLE = tuple(f * FOOT for f in (
    15, 20, 25, 30, 40, 50, 60, 70, 80, 90, 100, 120, 140, 160, 180, 200, 250, 300, 350, 400, 450, 500,
))  # fmt: skip
"""The heights [m] of table 26.10-1."""
HILLS = {
    Rise.RIDGE: ({"B": 1.30, "C": 1.45, "D": 1.55}, 3.0, 1.5, 1.5),
    Rise.ESCARPMENT: ({"B": 0.75, "C": 0.85, "D": 0.95}, 2.5, 1.5, 4.0),
    Rise.HILL: ({"B": 0.95, "C": 1.05, "D": 1.15}, 4.0, 1.5, 1.5),
}
"""Figure 26.8-1: K_1 / (H / L_h) by exposure, gamma, mu upwind and downwind of the crest."""
K_D = 0.85
G_RIGID = 0.85
G_Q = G_V = 3.4
BETA = 0.01
ECCENTRIC = 0.15
"""Of the building's width (figure 27.3-8)."""
RIGID_FROM = 1.0
"""Hz: a building of at least this lowest frequency is rigid (26.2)."""


def k_z(code: WindCode, exposure: str, z: Floats) -> Floats:
    """K_z at heights z [m] above the ground, table 26.10-1, note 1 (26.10-1 in 7-16, both editions alike in form)."""
    row = EXPOSURES[code][exposure]
    height = np.maximum(np.asarray(z, float), LOWEST) / (row.z_g * FOOT)
    return np.asarray(FRONT[code] * np.minimum(height, 1.0) ** (2 / row.alpha))


def k_e(elevation: float) -> float:
    """K_e at an elevation [m] above sea level, table 26.9-1, note 2."""
    return math.exp(-0.000119 * elevation)


def k_zt(hill: Hill | None, exposure: str, z: Floats) -> Floats:
    """K_zt = (1 + K_1 K_2 K_3)^2 at heights z [m], 26.8.2 with figure 26.8-1."""
    if hill is None:
        return np.ones(np.shape(z))
    slopes, gamma, upwind, downwind = HILLS[hill.shape]
    steepness, length = hill.H / hill.L_h, hill.L_h
    if steepness > 0.5:  # note 2 of the figure
        steepness, length = 0.5, 2 * hill.H
    k_1 = slopes[exposure] * steepness
    k_2 = max(0.0, 1 - abs(hill.x) / ((upwind if hill.x < 0 else downwind) * length))
    return np.asarray((1 + k_1 * k_2 * np.exp(-gamma * np.asarray(z, float) / length)) ** 2)


def front(rule: WindRule) -> float:
    """0.613 [N/m2 per (m/s)^2], or 0.00256 psf per mph^2 in these units."""
    return 0.00256 * PSF / MPH**2 if rule.customary else 0.613


def beside_g(rule: WindRule) -> float:
    """K_d where it stands beside the gust factor (7-22), 1 where it is in q_z (7-16)."""
    return rule.number("K_d", K_D) if rule.code == WindCode.ASCE_22 else 1.0


def velocity_pressure(rule: WindRule) -> Profile:
    """q_z over the height (26.10)."""
    code, exposure = rule.code, rule.roughness
    old = code == WindCode.ASCE_16
    K_e, K_d = rule.number("K_e", k_e(rule.number("elevation", 0.0))), rule.number("K_d", K_D)
    constant = front(rule) * rule.V**2 * K_e * (K_d if old else 1.0)

    def columns(z: Floats) -> dict[str, Floats]:
        z = np.asarray(z, float)
        of_hill = np.full(z.shape, rule.stated["K_zt"]) if "K_zt" in rule.stated else k_zt(rule.hill, exposure, z)
        found = {"K_z": k_z(code, exposure, z), "K_zt": of_hill, "K_e": np.full(z.shape, K_e)}
        if old:
            found["K_d"] = np.full(z.shape, K_d)
        return found

    def at(z: Floats) -> Floats:
        found = columns(z)
        return np.asarray(constant * found["K_z"] * found["K_zt"])

    def derived(z: float) -> tuple[Step, ...]:
        found = {k: float(v[0]) for k, v in columns(np.array([z])).items()}
        words = {
            "K_z": (f"exposure {exposure}", "table 26.10-1"),
            "K_zt": ("stated" if "K_zt" in rule.stated else _hill_words(rule.hill), "26.8.2"),
            "K_e": ("stated" if "K_e" in rule.stated else "e^(-0.000119 z_e), z_e in m", "26.9"),
            "K_d": ("stated" if "K_d" in rule.stated else "buildings, open frames of one plane: taken", "table 26.6-1"),
        }  # fmt: skip
        out = [Step("V", "basic wind speed, stated", rule.V, "m/s", "26.5.1"), Step("z", "above the ground", z, "m")]
        if "K_e" not in rule.stated:
            told = "of the ground above sea level" + ("" if "elevation" in rule.stated else ", taken")
            out.append(Step("z_e", told, rule.number("elevation", 0.0), "m"))
        out += [Step(k, words[k][0], v, "", words[k][1]) for k, v in found.items()]
        number = "0.00256 psf/mph2" if rule.customary else "0.613"
        formula = f"{number} * K_z * K_zt * {'K_d * ' if old else ''}K_e * V^2"
        return (*out, Step("q_z", formula, float(at(np.array([z]))[0]), "N/m2", "(26.10-1)"))

    row = EXPOSURES[code][exposure]
    return Profile(
        "q_z", at, (LOWEST, row.z_g * FOOT), TABLE, columns, derived, tuple(_limits(rule)), (velocity_pressure, rule)
    )


def _hill_words(hill: Hill | None) -> str:
    if hill is None:
        return "no hill, ridge or escarpment stated"
    return (
        f"(1 + K_1 K_2 K_3)^2 of a {hill.shape} with H/L_h = {hill.H / hill.L_h:.3g}, x/L_h = {hill.x / hill.L_h:.3g}"
    )


def _limits(rule: WindRule) -> list[Finding]:
    """Where the hill is outside 26.8.1."""
    hill = rule.hill
    if hill is None:
        return []
    least = (60 if rule.roughness == "B" else 15) * FOOT
    if hill.H / hill.L_h >= 0.2 and least <= hill.H:
        return []
    message = f"the {hill.shape} has H = {hill.H:.4g} m and H/L_h = {hill.H / hill.L_h:.3g}: speed-up need only be "
    message += f"counted from {least:.3g} m and 0.2 on (ASCE 7, 26.8.1); it is counted here all the same"
    return [Finding("note", "wind-limits", message, "write K_zt = 1, if that is intended", rule.place)]


def highest(code: WindCode, exposure: str) -> float:
    """The height [m] up to which K_z is given."""
    return EXPOSURES[code][exposure].z_g * FOOT if code == WindCode.ASCE_16 else HIGHEST_22


def gust_factor(rule: WindRule, h: float, B: float, L: float) -> tuple[float, tuple[Step, ...]]:
    """G (26.11): 0.85, stated, rigid by (26.11-6), or G_f of a flexible building by (26.11-10); h, B, L [m]."""
    if rule.gust == "stated":
        G = rule.stated["G"]
        return G, (Step("G", "stated", G, "", "26.11"),)
    if rule.gust not in ("rigid", "flexible"):
        return G_RIGID, (Step("G", "rigid building", G_RIGID, "", "26.11.1"),)
    row = EXPOSURES[rule.code][rule.roughness]
    z, I_z, L_z, Q = _turbulence(rule, h, B)
    steps = [
        Step("z_bar", "0.6 h, not below z_min", z, "m", "26.11.4"),
        Step("I_z", f"{row.c:g} (33 ft / z_bar)^(1/6)", I_z, "", "(26.11-7)"),
        Step("L_z", f"{row.length:g} ft (z_bar / 33 ft)^{row.e_bar:.3g}", L_z, "m", "(26.11-9)"),
        Step("Q", "sqrt(1 / (1 + 0.63 ((B + h) / L_z)^0.63))", Q, "", "(26.11-8)"),
    ]
    if rule.gust == "rigid":
        G = 0.925 * (1 + 1.7 * G_Q * I_z * Q) / (1 + 1.7 * G_V * I_z)
        return G, (*steps, Step("G", "0.925 (1 + 1.7 g_Q I_z Q) / (1 + 1.7 g_v I_z)", G, "", "(26.11-6)"))
    V_z, R_n, R, g_R = _resonance(rule, h, B, L)
    G = 0.925 * (1 + 1.7 * I_z * math.hypot(G_Q * Q, g_R * R)) / (1 + 1.7 * G_V * I_z)
    how = "analysed" if rule.analysed else "stated"
    steps += [
        Step("n_1", f"lowest frequency, {how}", rule.stated["n_1"], "Hz", "26.11.2"),
        Step("beta", "damping ratio", rule.number("beta", BETA), "", "26.11.5"),
        Step("V_z", f"{row.b_bar:g} (z_bar / 33 ft)^{row.a_bar:.3g} V", V_z, "m/s", "(26.11-16)"),
        Step("R_n", "7.47 N_1 / (1 + 10.3 N_1)^(5/3), N_1 = n_1 L_z / V_z", R_n, "", "(26.11-13)"),
        Step("R", "sqrt(R_n R_h R_B (0.53 + 0.47 R_L) / beta)", R, "", "(26.11-12)"),
        Step("g_R", "sqrt(2 ln(3600 n_1)) + 0.577 / sqrt(2 ln(3600 n_1))", g_R, "", "(26.11-11)"),
        Step("G_f", "0.925 (1 + 1.7 I_z sqrt(g_Q^2 Q^2 + g_R^2 R^2)) / (1 + 1.7 g_v I_z)", G, "", "(26.11-10)"),
    ]
    return G, tuple(steps)


def _turbulence(rule: WindRule, h: float, B: float) -> tuple[float, float, float, float]:
    """z_bar [m], I_z, L_z [m] and Q, (26.11-7) to (26.11-9)."""
    row = EXPOSURES[rule.code][rule.roughness]
    z = max(0.6 * h, row.z_min * FOOT)
    L_z = row.length * FOOT * (z / (33 * FOOT)) ** row.e_bar
    return z, row.c * (33 * FOOT / z) ** (1 / 6), L_z, math.sqrt(1 / (1 + 0.63 * ((B + h) / L_z) ** 0.63))


def _resonance(rule: WindRule, h: float, B: float, L: float) -> tuple[float, float, float, float]:
    """V_z [m/s], R_n, R and g_R of a flexible building, (26.11-11) to (26.11-16)."""
    row = EXPOSURES[rule.code][rule.roughness]
    z, _, L_z, _ = _turbulence(rule, h, B)
    n = rule.stated["n_1"]
    V_z = row.b_bar * (z / (33 * FOOT)) ** row.a_bar * rule.V
    root = math.sqrt(2 * math.log(3600 * n))
    N_1 = n * L_z / V_z
    R_n = 7.47 * N_1 / (1 + 10.3 * N_1) ** (5 / 3)
    R_h, R_B, R_L = (size_factor(c * n * x / V_z) for c, x in ((4.6, h), (4.6, B), (15.4, L)))
    R = math.sqrt(R_n * R_h * R_B * (0.53 + 0.47 * R_L) / rule.number("beta", BETA))
    return V_z, R_n, R, root + 0.577 / root


def eccentricity(rule: WindRule, h: float, B: float, L: float) -> tuple[float, tuple[Step, ...]]:
    """e [m] of load cases 2 and 4 (figure 27.3-8): a share of B, of flexible buildings with e_R by (27.3-4)."""
    share = rule.number("eccentricity", ECCENTRIC)
    e_Q = share * B
    if rule.gust != "flexible" or "e_R" not in rule.stated:
        return e_Q, (Step("e", f"{share:g} B", e_Q, "m", "figure 27.3-8"),)
    _, I_z, _, Q = _turbulence(rule, h, B)
    _, _, R, g_R = _resonance(rule, h, B, L)
    e_R = rule.stated["e_R"]
    moved = 1.7 * I_z * math.hypot(G_Q * Q * e_Q, g_R * R * e_R)
    e = (e_Q + moved) / (1 + 1.7 * I_z * math.hypot(G_Q * Q, g_R * R))
    formula = "(e_Q + 1.7 I_z sqrt((g_Q Q e_Q)^2 + (g_R R e_R)^2)) / (1 + 1.7 I_z sqrt((g_Q Q)^2 + (g_R R)^2))"
    return e, (
        Step("e_Q", f"{share:g} B", e_Q, "m", "figure 27.3-8"),
        Step("e_R", "from the shear centre to the centre of mass, stated", e_R, "m", "27.3.5"),
        Step("e", formula, e, "m", "(27.3-4)"),
    )
