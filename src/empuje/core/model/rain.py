"""Rain on roofs as the engineer states it."""

from __future__ import annotations

from dataclasses import dataclass

from .findings import Place
from .words import SnowCode


@dataclass(frozen=True, slots=True)
class RainedOn:
    """Surfaces (indices) that one body of water stands on [m]: `d_s` up to the inlet of the secondary drain, `d_h` over
    it, `d_p` of ponding (ASCE 7-22), all over the lowest point of these surfaces."""

    name: str
    surfaces: tuple[int, ...]
    d_s: float
    d_h: float
    d_p: float
    place: Place


@dataclass(frozen=True, slots=True)
class RainRule:
    """Everything stated about rain, and the name of its case."""

    code: SnowCode
    place: Place
    roofs: tuple[RainedOn, ...]
    case: str = "RN"
    known: bool = True
