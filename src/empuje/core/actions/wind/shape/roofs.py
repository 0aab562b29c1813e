"""Roofs in the wind: the forms and heights of faces that join one another."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ....model.wind import WindRule
from ....model.words import RoofForm
from ...faces import FLAT, TOUCH, Face, bend_of, joined

Floats = NDArray[np.float64]
LOW = 10.0
"""Up to this slope [deg] the mean roof height is the eave's (ASCE 7, 26.2)."""


@dataclass(frozen=True)
class Roof:
    """Faces that join one another: eave, ridge and mean height `h` above the ground [m], steepest slope [deg], form."""

    faces: tuple[Face, ...]
    eave: float
    ridge: float
    h: float
    slope: float
    form: str

    @property
    def falls_many_ways(self) -> bool:
        """Whether it is none of the forms that all figures know: flat, or falling one way or two."""
        return self.form in ("hip", *RoofForm)

    @property
    def names(self) -> list[str]:
        """Of its surfaces."""
        return [f.name for f in self.faces]


def lies_before(face: Face, roof: Roof, way: Floats) -> bool:
    """Whether a face of a ridged roof lies on the near side of the ridge, or of the valley, seen along a level way
    (2,), however many pieces there are: it falls against that way from a ridge, along it to a valley."""
    falls = float(face.normal[:2] @ way)
    return falls > 0 if roof.form == "trough" else falls < 0


def ridge_at(roof: Roof, way: Floats) -> float:
    """Where the ridge or the valley of a roof is, along a level way (2,) [m]."""
    corners = np.concatenate([f.corners for f in roof.faces])
    z = corners[:, 2]
    there = z <= z.min() + TOUCH if roof.form == "trough" else z >= z.max() - TOUCH
    return float((corners[there, :2] @ way).mean())


def joined_roofs(flat: Sequence[Face], rule: WindRule) -> list[Roof]:
    """The roofs that faces form where they join one another."""
    return [roof_of(group, rule) for group in joined(flat)]


def roof_of(faces: Sequence[Face], rule: WindRule) -> Roof:
    """Faces that join one another as a roof."""
    eave, ridge = min(f.low for f in faces), max(f.top for f in faces)
    slope = rule.stated.get("theta", max(f.slope for f in faces))
    h = rule.stated.get("h", (eave + ridge) / 2 if slope > LOW else eave)
    form = form_of(faces)
    if form == RoofForm.FOLDED and rule.roof_form != RoofForm.FOLDED:
        bent = bend_of(faces)
        if rule.roof_form or (bent is not None and len(_planes(faces)) >= MANY):
            form = RoofForm.ARCHED
    return Roof(tuple(faces), eave, ridge, h, slope, form)


def form_of(faces: Sequence[Face]) -> str:
    """flat, monoslope, gable, trough, hip or folded, from the ways in which the faces fall and the planes they lie in.
    (Of folded roofs some are arches: `bend_of`.)

    gable  /\\    trough  \\/    folded  /\\/\\, mansards, dormers and all else
    """
    sloped = [f for f in faces if f.slope > FLAT]
    ways: list[Floats] = []
    planes = _planes(sloped)
    for face in sloped:
        level = face.normal[:2] / np.linalg.norm(face.normal[:2])
        if not any(level @ w > ALIKE for w in ways):
            ways.append(level)
    if not ways:
        return "flat"
    if len(sloped) < len(faces) or len(planes) != len(ways):
        return "folded"
    if len(ways) == 1:
        return "monoslope"
    if len(ways) == 2 and ways[0] @ ways[1] < -ALIKE:
        middles = np.array([np.mean(f.corners[:, :2], axis=0) for f in faces])
        falls = np.array([f.normal[:2] for f in faces])
        outwards = np.einsum("ij,ij->i", middles - middles.mean(axis=0), falls).sum()
        return "gable" if outwards > 0 else "trough"
    square = [abs(a @ b) > ALIKE or abs(a @ b) < 1 - ALIKE for a in ways for b in ways]
    return "hip" if len(ways) == 4 and all(square) else "folded"


def _planes(faces: Sequence[Face]) -> list[Floats]:
    """The planes (4,) that faces lie in: normal, and distance from the origin [m]."""
    planes: list[Floats] = []
    for face in faces:
        plane = np.append(face.normal, face.normal @ face.corners[0])
        if not any(plane[:3] @ p[:3] > ALIKE and abs(plane[3] - p[3]) < APART for p in planes):
            planes.append(plane)
    return planes


MANY = 5
"""From so many planes on a roof that bends one way is taken as an arch."""
ALIKE, APART = 0.999, 0.05
"""Cosine of directions that are one, and the distance [m] from which planes are two."""
