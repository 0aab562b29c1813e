"""Which spans partial loads of snow are full on (ASCE 7, 7.5.1).

>>> spans_of(3)
[(1.0, 0.5, 0.5), (0.5, 0.5, 1.0), (0.5, 1.0, 1.0), (1.0, 1.0, 0.5)]
>>> len(spans_of(5)), spans_of(2)
(8, [(1.0, 0.5), (0.5, 1.0)])
"""

from __future__ import annotations


def spans_of(count: int) -> list[tuple[float, ...]]:
    """The shares of the balanced load on each of `count` spans, arrangement by arrangement, each once; all in full is
    the balanced load itself."""
    ends = (0, count - 1)
    full = [{e} for e in ends]
    full += [set(range(count)) - {e} for e in ends]
    full += [{k, k + 1} for k in range(count - 1)]
    shares = [tuple(1.0 if k in own else 0.5 for k in range(count)) for own in full]
    return [s for s in dict.fromkeys(shares) if min(s) < 1]
