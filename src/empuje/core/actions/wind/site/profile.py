"""The pressure of the wind over the height, and how it is followed in straight pieces.

>>> square = Profile("q", lambda z: z**2, (0.0,), ())
>>> pieces(square, 1.0, 4.0, 0.01).round(2).tolist()
[1.0, 1.19, 1.38, 1.56, 1.75, 2.12, 2.5, 2.88, 3.25, 3.62, 4.0]
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any, SupportsIndex

import numpy as np
from numpy.typing import NDArray

from ....model.findings import Finding
from ....model.loads import Step
from ....model.words import Upward

Floats = NDArray[np.float64]
CLOSE = 1e-3
"""A straight piece is nowhere further from the profile than this share of it."""
INSIDE = np.linspace(0.0, 1.0, 17)
SHORTEST = 1e-6
"""Two heights this close [m] are one."""


@dataclass(frozen=True)
class Profile:
    """A pressure by height: `at` heights above the ground (n,) [m] gives q (n,) [N/m2], smooth between the `kinks`; the
    code's own `steps` of height. `columns`: the numbers behind it at heights (n,), by symbol; `derived`: the steps that
    lead to it at one height; `findings`: where its limits are passed; `made_by`: a function and its rule."""

    symbol: str
    at: Callable[[Floats], Floats]
    kinks: tuple[float, ...]
    steps: tuple[float, ...]
    columns: Callable[[Floats], Mapping[str, Floats]] = lambda z: {}
    derived: Callable[[float], tuple[Step, ...]] = lambda z: ()
    findings: tuple[Finding, ...] = field(default=())
    made_by: tuple[Callable[..., Profile], object] | None = None

    def __reduce_ex__(self, protocol: SupportsIndex) -> Any:
        """Pickled as the rule that it is made of."""
        return super().__reduce_ex__(protocol) if self.made_by is None else (self.made_by[0], (self.made_by[1],))

    def one(self, z: float) -> float:
        """At one height [N/m2]."""
        return float(self.at(np.array([z]))[0])


def pieces(profile: Profile, low: float, high: float, close: float = CLOSE) -> Floats:
    """Heights from `low` to `high` between which the profile is straight within a share `close` of itself."""
    if high - low <= SHORTEST:
        return np.array([low, high])
    inner = [k for k in profile.kinks if low + SHORTEST < k < high - SHORTEST]
    todo, out = list(zip([low, *inner], [*inner, high], strict=True))[::-1], [low]
    while todo:
        a, b = todo.pop()
        z = a + (b - a) * INSIDE
        q = profile.at(z)
        chord = q[0] + (q[-1] - q[0]) * INSIDE
        if np.all(np.abs(chord - q) <= close * np.abs(q)) or b - a <= SHORTEST:
            out.append(b)
        else:
            todo += [((a + b) / 2, b), (a, (a + b) / 2)]
    return np.array(out)


def followed(profile: Profile, low: float, high: float, upward: Upward) -> tuple[Floats, Floats]:
    """Heights (n + 1,) [m], and the pressures at the lower and the upper end of each piece (n, 2) [N/m2]: straight
    pieces, or steps, each with the pressure at its top."""
    if upward == Upward.STEPS:
        inner = [s for s in profile.steps if low + SHORTEST < s < high - SHORTEST]
        z = np.array([low, *inner, high])
        tops = np.array([min([s for s in profile.steps if s >= t - SHORTEST] or [t]) for t in z[1:]])
        q = profile.at(tops)
        return z, np.column_stack([q, q])
    z = pieces(profile, low, high)
    q = profile.at(z)
    return z, np.column_stack([q[:-1], q[1:]])
