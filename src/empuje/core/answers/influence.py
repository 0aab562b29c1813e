"""Influence lines: what a force of so much, going down along a way, makes of a result.

Between nodes of the way, and the place asked about, each is one polynomial; its extremes and areas are exact.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..analysis.moving.bernstein import basis, from_samples, positive_parts, stationary
from ..analysis.moving.mover import Mover
from .table import Column, Table
from .traffic import Asked, inside, place_of

Floats = NDArray[np.float64]
STATIONS = 4
"""Places shown between the ends of a leg."""
SAME = 1e-9


@dataclass(frozen=True)
class Influence:
    """s0, s1 (legs,) [m] along the way, and the polynomials (legs, degree + 1) over them, for a force of 1 N."""

    asked: Asked
    s0: Floats
    s1: Floats
    b: Floats

    def sampled(self, per_leg: int) -> tuple[Floats, Floats]:
        """Places along the way [m] and values, each leg's ends among them: where the line jumps a place comes twice."""
        u = np.linspace(0, 1, per_leg + 1)
        s = self.s0[:, None] + (self.s1 - self.s0)[:, None] * u
        return s.ravel(), (self.b @ basis(self.b.shape[1] - 1, u).T).ravel()

    @property
    def extremes(self) -> tuple[tuple[float, float], tuple[float, float]]:
        """Place [m] and value of the least and of the greatest."""
        found = []
        for sign in (-1.0, 1.0):
            u = np.column_stack([np.zeros(len(self.b)), np.ones(len(self.b)), *stationary(sign * self.b)])
            v = np.einsum("lk,ljk->lj", sign * self.b, basis(self.b.shape[1] - 1, u))
            top = v >= v.max() - 1e-12 * np.abs(v).max()
            leg, j = (int(i[0]) for i in np.nonzero(top))
            place = self.s0[leg] + u[leg, j] * (self.s1[leg] - self.s0[leg])
            found.append((float(place), float(sign * v[leg, j])))
        return found[0], found[1]

    @property
    def areas(self) -> tuple[float, float]:
        """Below and above zero, as they are signed [result m/N]."""
        stretch = self.s1 - self.s0
        below, above = (float(positive_parts((sign * self.b)[None])[0][0] @ stretch) for sign in (-1.0, 1.0))
        return -below + 0.0, above


def influence(mover: Mover, way: int, asked: Asked) -> Influence:
    """The influence line along one way of a traffic. Raises LookupError where there is no such result."""
    legs, put = mover.influence(way, inside([asked]))
    last = asked.target.what == "force" and asked.x >= mover.equations.project.lengths[asked.target.index] - SAME
    place = place_of(mover.units, asked, -1 if last else 1)
    b = from_samples(place.values(put).reshape(legs.t.T.shape))
    return Influence(asked, legs.t0, legs.t1, b.T)


def influence_table(line: Influence, force: float) -> Table:
    """Place along the way, and the result under so much force [N]; at a jump two rows, left then right."""
    s, value = line.sampled(STATIONS)
    keep = np.append(True, (np.diff(s) > SAME) | (np.abs(np.diff(value)) > SAME * np.abs(value).max(initial=0)))
    return Table("influence", (
        Column("s", "length", s[keep]), Column(line.asked.target.of, line.asked.kind, force * value[keep] + 0.0),
    ))  # fmt: skip
