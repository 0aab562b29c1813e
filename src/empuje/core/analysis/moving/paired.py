"""Forces and displacements at places each under a position of its own."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..terms import ALONG_Y, ALONG_Z, AXIAL, TWIST, power
from .units import Put, Units

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
LANES = ((AXIAL, 1, 0, -1.0), (ALONG_Y, 1, 1, 1.0), (ALONG_Z, 1, 2, 1.0), (TWIST, 1, 3, -1.0), (ALONG_Z, 2, 4, 1.0),
         (ALONG_Y, 2, 5, 1.0))  # fmt: skip
AT_ONCE = 50_000


def paired_forces(units: Units, put: Put, element: Ints, x: Floats, column: Ints, after: NDArray[np.bool_]) -> Floats:
    """N Vy Vz T My Mz (n, 6) at x (n,) [m] of elements, each under one column of loads; a wheel at the place itself
    counts where it is looked at just `after` it (n,)."""
    out = np.zeros((len(x), 6))
    for i in range(0, len(x), AT_ONCE):
        some = slice(i, i + AT_ONCE)
        out[some] = _paired(units, put, element[some], x[some], column[some], after[some])
    return out


def _paired(units: Units, put: Put, element: Ints, x: Floats, column: Ints, after: NDArray[np.bool_]) -> Floats:
    start = np.einsum("nck,nk->nc", units.start_force[element], put.at_freedoms[:, column].T)
    rows = 6 * element[:, None] + np.arange(6)
    start += np.asarray(put.starts[rows.ravel(), np.repeat(column, 6)]).reshape(-1, 6)
    out = np.column_stack([
        -start[:, 0], start[:, 1], start[:, 2], -start[:, 3], start[:, 4] + start[:, 2] * x,
        -start[:, 5] + start[:, 1] * x,
    ])  # fmt: skip
    table = put.terms.value.tocoo()
    if not len(table.row):
        return out
    width = table.shape[1]
    key = put.terms.element[table.row] * width + table.col
    order = np.argsort(key, kind="stable")
    asked = element * width + column
    first, stop = (np.searchsorted(key[order], asked, side=side) for side in ("left", "right"))
    count = stop - first
    row = np.repeat(np.arange(len(x)), count)
    entry = order[np.arange(count.sum()) + np.repeat(first - np.append(0, np.cumsum(count)[:-1]), count)]
    term = table.row[entry]
    d = x[row] - put.terms.a[term]
    near = np.abs(d) <= 1e-9
    keep = (d > 0) & ~near | near & after[row]
    row, term, entry, d = row[keep], term[keep], entry[keep], np.maximum(d[keep], 0.0)
    for lane, times, component, sign in LANES:
        mine = put.terms.lane[term] == lane
        part = sign * power(d[mine], put.terms.order[term[mine]] + times) * table.data[entry[mine]]
        np.add.at(out[:, component], row[mine], part)
    return out
