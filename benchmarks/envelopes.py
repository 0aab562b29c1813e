"""Bands of forces along the members of a regular building, beside bare NumPy on the same arrays.

python benchmarks/envelopes.py 18 14           # 18 x 18 bays, 14 storeys: 30 cases, 200 combinations, 11 stations
"""

from __future__ import annotations

import resource
import sys
import time
from dataclasses import replace

import numpy as np
from building import HERE, building
from telling import tell

from empuje.core.analysis.pieces import build_pieces
from empuje.core.analysis.solve import solve
from empuje.core.answers import bands as ours
from empuje.core.model.cases import Combination
from empuje.core.model.combining import Combining
from empuje.core.resolve import resolve

TIMES, ROWS = 3, 5000


def main(bays: int = 18, storeys: int = 14, cases: int = 30, results: int = 200, stations: int = 11) -> None:
    frame = building(bays, storeys, cases)
    rng = np.random.default_rng(0)
    combinations = tuple(
        Combination(f"U{k}", tuple((c.name, float(rng.uniform(-1, 1.6))) for c in frame.cases), "", HERE)
        for k in range(results)
    )
    frame = replace(frame, combining=Combining(combinations))
    solution = solve(resolve(frame))
    combined = [r for r in solution.results if not r.is_case]
    members = np.arange(len(frame.members))
    weights = solution.weights(combined)
    x = frame.lengths[:, None] * np.linspace(0, 1, stations)
    parts = [
        ours.station_values(build_pieces(solution, members[i : i + 500], np.eye(cases)), x[i : i + 500])[0]
        for i in range(0, len(members), 500)
    ]
    values = np.concatenate(parts).reshape(-1, cases)
    least, took = np.inf, np.inf
    for _ in range(TIMES):
        start = time.perf_counter()
        for i in range(0, len(values), ROWS):
            block = values[i : i + ROWS] @ weights
            block.min(axis=1), block.max(axis=1)
        least = min(least, time.perf_counter() - start)
        start = time.perf_counter()
        ours.bands(solution, combined, members, stations)
        took = min(took, time.perf_counter() - start)
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1e6
    print(
        f"{len(members)} members, {cases} cases, {results} combinations, {stations} stations, six forces: "
        f"{took:.2f} s = {took / least:.2f} x bare product and min/max ({least:.2f} s); peak {peak:.2f} GB"
    )
    tell("bands", took / least)


if __name__ == "__main__":
    main(*map(int, sys.argv[1:]))
