"""The site of snow by ASCE 7-16 and 7-22, and the loads that it comes to on a pitch.

Symbols and clauses are the code's; in 7-22 p_g is of the limit state and I_s is none.
"""

from __future__ import annotations

from ...model.loads import Step
from ...model.snow import SnowRule
from ...model.words import SnowCode
from .asce_numbers import density, drift_height, exposure_factor, slope_factor
from .roofs import Pitch, SnowRoof


def site_steps(rule: SnowRule) -> list[Step]:
    """What all roofs share."""
    n = rule.stated
    out = [Step("p_g", "stated", rule.ground_load, "N/m2", "7.2")]
    out.append(
        Step("C_e", "stated", n["C_e"], "", "7.3.1") if "C_e" in n else
        Step("C_e", f"terrain {rule.exposure}, {rule.roof_exposure}", C_e_of(rule), "", "table 7.3-1")
    )  # fmt: skip
    if rule.code == SnowCode.ASCE_16:
        out.append(Step("I_s", "stated", n.get("I_s", 1.0), "", "table 1.5-2"))
    else:
        out.append(Step("W_2", "stated", n.get("W_2", 0.0), "", "figure 7.6-1"))
    how = "stated" if "gamma" in n else "0.13 p_g + 14 <= 30, in lb and ft"
    return [*out, Step("gamma", how, gamma_of(rule), "N/m3", "7.7.1")]


def C_e_of(rule: SnowRule) -> float:
    """C_e (7.3.1)."""
    return rule.stated.get("C_e") or exposure_factor(rule.exposure, rule.roof_exposure)


def gamma_of(rule: SnowRule) -> float:
    """gamma [N/m3] (7.7-1)."""
    return rule.stated.get("gamma") or density(rule.ground_load)


def C_t_of(rule: SnowRule, pitch: Pitch) -> float:
    """C_t (7.3.2)."""
    return rule.C_t[pitch.faces[0].surface]


def I_s_of(rule: SnowRule) -> float:
    """I_s; 1 in 7-22."""
    return rule.stated.get("I_s", 1.0) if rule.code == SnowCode.ASCE_16 else 1.0


def flat_load(rule: SnowRule, pitch: Pitch) -> float:
    """p_f [N/m2] (7.3-1)."""
    return 0.7 * C_e_of(rule) * C_t_of(rule, pitch) * I_s_of(rule) * rule.ground_load


def is_slippery(rule: SnowRule, pitch: Pitch) -> bool:
    """Whether snow slides off a pitch unobstructed."""
    return pitch.has(rule.slippery) and not pitch.has(rule.guarded)


def slope_factor_of(rule: SnowRule, roof: SnowRoof, pitch: Pitch) -> tuple[float, str, str]:
    """C_s, how it came about, and its clause (7.4)."""
    if roof.is_folded:
        return 1.0, "folded roofs are not reduced for their slope", "7.4.4"
    words = "warm" if C_t_of(rule, pitch) <= 1 else "cold"
    C_s = slope_factor(pitch.slope, C_t_of(rule, pitch), is_slippery(rule, pitch))
    return C_s, f"{words}, {'slippery' if is_slippery(rule, pitch) else 'not slippery'}", "figure 7.4-1"


def sloped_load(rule: SnowRule, roof: SnowRoof, pitch: Pitch) -> float:
    """p_s [N/m2] (7.4-1)."""
    return slope_factor_of(rule, roof, pitch)[0] * flat_load(rule, pitch)


def h_d_behind(rule: SnowRule, l_u: float) -> float:
    """h_d behind an upwind length [m]."""
    return drift_height(rule.code, rule.ground_load, l_u, I_s_of(rule), rule.stated.get("W_2", 0.0), gamma_of(rule))


def steps_of_height(rule: SnowRule, h_d: float) -> list[Step]:
    """How h_d came about."""
    if rule.code == SnowCode.ASCE_22:
        words = "1.5 sqrt(p_g^0.74 l_u^0.70 W_2^1.7/gamma), in lb and ft"
        W_2 = Step("W_2", "stated", rule.stated.get("W_2", 0.0), "")
        return [W_2, Step("gamma", "", gamma_of(rule), "N/m3", "7.7.1"), Step("h_d", words, h_d, "m", "7.6-1")]
    words = "sqrt(I_s) (0.43 l_u^(1/3) (p_g + 10)^(1/4) - 1.5), in lb and ft"
    return [Step("gamma", "", gamma_of(rule), "N/m3", "7.7.1"), Step("h_d", words, h_d, "m", "figure 7.6-1")]
