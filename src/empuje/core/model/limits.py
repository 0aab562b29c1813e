"""Limits: what results must satisfy, as the model file says it.

>>> Bound("Fz", least=0.0).used(np.array([-2.0, 3.0]), 3.0).tolist()
[inf, 0.0]
>>> Bound("across", least=-0.02, most=0.02).used(np.array([-0.01, 0.03]), 0.03).tolist()
[0.5, 1.5]
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from .findings import Place
from .loads import Vector
from .words import LimitKind, Reference

Floats = NDArray[np.float64]

COMPONENTS: dict[LimitKind, dict[str, str]] = {
    LimitKind.REACTION: {
        "Fx": "force", "Fy": "force", "Fz": "force", "Mx": "moment", "My": "moment", "Mz": "moment",
        "H": "force", "uplift": "force", "H_to_V": "number", "e_x": "length", "e_y": "length",
    },
    LimitKind.FORCE: {
        "N": "force", "Vy": "force", "Vz": "force", "T": "moment", "My": "moment", "Mz": "moment",
    },
    LimitKind.STRESS: {"normal": "stress", "shear": "stress", "mises": "stress"},
    LimitKind.DEFLECTION: {"across": "displacement", "y": "displacement", "z": "displacement"},
    LimitKind.DISPLACEMENT: {
        "ux": "displacement", "uy": "displacement", "uz": "displacement", "u": "displacement",
        "u_level": "displacement", "rx": "rotation", "ry": "rotation", "rz": "rotation",
    },
    LimitKind.DRIFT: {"drift": "displacement", "drift_x": "displacement", "drift_y": "displacement"},
    LimitKind.TILT: {"tilt": "rotation"},
    LimitKind.PLATE: {
        **dict.fromkeys(("n_x", "n_y", "n_xy"), "line"), **dict.fromkeys(("m_x", "m_y", "m_xy"), "line moment"),
        **dict.fromkeys(("v_x", "v_y"), "line"), "w": "displacement", "p": "pressure",
        "sag": "displacement",
    },
    LimitKind.CUT: {
        **dict.fromkeys(("N", "V", "Q"), "force"), **dict.fromkeys(("M", "T", "M_in"), "moment"),
    },
    LimitKind.STABILITY: {"alpha_cr": "number"},
    LimitKind.STEEL: {"utilisation": "number"},
}  # fmt: skip
"""What each kind of limit can bound, and the kind of quantity that is."""

RATIOS = ("H_to_V", "e_x", "e_y")
"""Components that are one value over another."""

WARN_AT = 0.9
ROUNDING = 1e-9
"""Beyond a bound by less than this share of the bound, or of the largest value, is rounding."""


@dataclass(frozen=True, slots=True)
class Bound:
    """A component with the least and the most it may be, SI; where `share` is true as a share of a span or height.

    `written`: as the model file says it.
    """

    of: str
    least: float = -math.inf
    most: float = math.inf
    share: bool = False
    written: str = ""

    def of_length(self, length: float) -> Bound:
        """The same for a span or height [m]."""
        return replace(self, least=self.least * length, most=self.most * length, share=False) if self.share else self

    def used(self, value: Floats, largest: float) -> Floats:
        """How much of the bound values (n,) use: 1 at the bound, more beyond it, 0 where they go the other way;
        infinite beyond a bound of nothing. `largest`: of all such values, against which rounding is judged."""
        return np.maximum(_used(value, self.most, largest), _used(-value, -self.least, largest))


def _used(value: Floats, most: float, largest: float) -> Floats:
    """How much of `value <= most` is used: value/most; of a bound that asks for a negative value, bound/value."""
    if math.isinf(most):
        return np.zeros_like(value)
    slack = ROUNDING * max(largest, abs(most))
    if most <= 0:
        needed = value < 0
        share = np.where(needed, most / np.where(needed, value, -1.0), 0.0 if most == 0 else math.inf)
        return np.where(value > most + slack, np.where(needed & (most < 0), share, math.inf), np.minimum(share, 1.0))
    share = np.maximum(value, 0.0) / most
    return np.where((share > 1.0) & (value <= most + slack), 1.0, share)


@dataclass(frozen=True, slots=True)
class Limit:
    """A requirement: its name; what it is about; nodes, members or the nodes of floors and surfaces by name that it is
    on; the words for the results it holds under; and the bounds.

    `warn_at`: the share of a bound from which a value counts as near it. Of deflections `against` what, and the span
    [m] where one is stated; of stresses the fibre (any for none); of cuts the two ends [m]; of drifts the levels [m] by
    name, and whether the mean of a storey's plumb lines counts instead of the worst of them.
    """

    name: str
    kind: LimitKind
    under: tuple[str, ...]
    bounds: tuple[Bound, ...]
    place: Place
    on: tuple[int, ...] = ()
    floors: tuple[tuple[str, tuple[int, ...]], ...] = ()
    warn_at: float = WARN_AT
    against: Reference = Reference.CHORD
    span: float = math.nan
    fibre: str = ""
    levels: tuple[tuple[str, float], ...] = ()
    mean: bool = False
    cut: tuple[Vector, Vector] | None = None

    @property
    def convex(self) -> bool:
        """Whether a mix of results never comes nearer to its bounds than the worst of them: not so of ratios, critical
        factors and steel members."""
        no_sums = self.kind in (LimitKind.STEEL, LimitKind.STABILITY)
        return not no_sums and not any(bound.of in RATIOS for bound in self.bounds)
