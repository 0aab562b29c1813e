"""How steel members are checked, as the model file says it."""

from __future__ import annotations

import math
from dataclasses import dataclass

from .findings import Place
from .loads import Position
from .words import Design, Lateral, SteelCode


@dataclass(frozen=True, slots=True)
class HeldAt:
    """How members are held, where that is stated instead of found: buckling lengths about y, z, in torsion, and of
    lateral-torsional buckling [m], NaN where they are found; factors on these; places where they are held sideways and
    against twisting; the flanges that are held all along: "top", "bottom", "both"; and factors of moments: C_m of EN,
    C_1 of EN or C_b of AISC, NaN where they are found from diagrams. `analysed`: whether lengths about y and z are
    those of the frame's critical shapes."""

    L_y: float = math.nan
    L_z: float = math.nan
    L_T: float = math.nan
    L_LT: float = math.nan
    k_y: float = 1.0
    k_z: float = 1.0
    k_T: float = 1.0
    k_LT: float = 1.0
    braced_at: tuple[Position, ...] | None = None
    flange: str = ""
    C_m: float = math.nan
    C_b: float = math.nan
    analysed: tuple[bool, bool] = (False, False)


@dataclass(frozen=True, slots=True)
class SteelRule:
    """The code; the members (indices) it is for; the words for the results; the code's factors and choices; how
    members are held, a later entry over an earlier one; and where loads across members act, "" where nobody says so."""

    code: SteelCode
    on: tuple[int, ...]
    under: tuple[str, ...]
    place: Place
    gamma_M0: float = 1.0
    gamma_M1: float = 1.0
    eta: float = 1.0
    lateral: Lateral = Lateral.GENERAL
    design: Design = Design.LRFD
    held: tuple[tuple[tuple[int, ...], HeldAt], ...] = ()
    warn_at: float = 0.9
    load_height: str = ""
