"""Reduced live loads: what was asked for, and the factor on the live loads of every member that came of it."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from .findings import Place
from .loads import PlainLoads, Step

CODES = ("ASCE 7-22", "ASCE 7-16", "EN 1991-1-1")


@dataclass(frozen=True, slots=True)
class ReductionRule:
    """The code by which live loads are reduced, for which cases (indices), and for which members.

    `K_LL`: live load element factors of chosen members (indices), later ones first; `without`: members left out;
    `values`: national values in place of recommended ones.
    """

    code: str
    cases: tuple[int, ...]
    K_LL: tuple[tuple[tuple[int, ...], float], ...]
    without: tuple[int, ...]
    place: Place
    values: tuple[tuple[str, float], ...] = ()


@dataclass(frozen=True)
class Reduced:
    """One member and case: its tributary area [m2], the floors above or on it, its factor, and how that came about."""

    member: int
    case: int
    area: float
    floors: int
    factor: float
    steps: tuple[Step, ...]


@dataclass(frozen=True)
class Reduction:
    """cases (n,) whose area loads are reduced, one of them twice where columns and beams go by different rules; factor
    (members, n); loads: these area loads, with their place in `cases` for a case; each factor's derivation; whether a
    factor holds beside a combination's own psi (n,); and the area [m2] that finds no column, by member."""

    cases: tuple[int, ...] = ()
    factor: NDArray[np.float64] = field(default_factory=lambda: np.ones((0, 0)))
    loads: PlainLoads = field(default_factory=PlainLoads)
    each: tuple[Reduced, ...] = ()
    beside_psi: tuple[bool, ...] = ()
    astray: tuple[tuple[int, float], ...] = ()
