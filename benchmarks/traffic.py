"""Traffic on a regular building: unit answers of a way beside a bare solve, and many positions beside few.

python benchmarks/traffic.py 24 14 16
"""

from __future__ import annotations

import sys
import tempfile
import time
from pathlib import Path

import numpy as np
from telling import tell

from empuje.core.answers.envelope import extremes
from empuje.core.answers.foundations import reaction_envelope
from empuje.core.answers.moving import movers_of
from empuje.study.study import Study


def text(nx: int, ny: int, nz: int, step: float) -> str:
    """A building of nx by ny columns and nz levels, a lorry over a row of its beams."""
    x, y, z = (", ".join(f"{a}{i} = {size * i}" for i in range(n)) for a, size, n in
               (("X", 6, nx), ("Y", 5, ny), ("Z", 3.5, nz)))  # fmt: skip
    return f"""
[project]
units = "kN m"
[grid]
x = {{ {x} }}
y = {{ {y} }}
z = {{ {z} }}
[members.long]
section = "IPE 400"
material = "S355"
runs = ["X0>>X{nx - 1} / Y0..Y{ny - 1} / Z1..Z{nz - 1}"]
[members.cross]
section = "IPE 360"
material = "S355"
runs = ["X0..X{nx - 1} / Y0>>Y{ny - 1} / Z1..Z{nz - 1}"]
[members.columns]
section = "HEB 300"
material = "S355"
runs = ["X0..X{nx - 1} / Y0..Y{ny - 1} / Z0>>Z{nz - 1}"]
[[supports]]
at = "*@Z0"
fix = "fixed"
[cases]
SW = {{ action = "dead", self_weight = 1 }}
Q = {{ action = "live", use = "storage" }}
W = {{ action = "wind" }}
[loads]
Q = [{{ on = "long", line = "10 kN/m" }}]
W = [{{ on = "columns", line = "1 kN/m", dir = "+x" }}]
[vehicles.lorry]
axles = [[0, "40 kN"], [2.0, "60 kN"], [1.5, "60 kN"]]
[traffic.T]
vehicle = "lorry"
use = "storage"
way = "long/Y{ny // 4}@Z{nz // 3}/*"
step = {step}
[combinations.custom]
A = "1.35 SW + 1.5 Q + 1.5 T"
B = "1.35 SW + 1.5 T + 0.9 W"
C = "SW + 1.5 W - 0.3 T"
"""


def main(nx: int = 24, ny: int = 14, nz: int = 16) -> None:
    length = 6 * (nx - 1) + 3.5
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "model.toml"
        spent = []
        for count in (10, 10_000, 1_000_000):
            path.write_text(text(nx, ny, nz, length / count), encoding="utf-8")
            study = Study.read(path, cache=False)
            solution = study.solution()
            results = [r for r in solution.results if r.moving]
            (mover,) = movers_of(solution).values()
            start = time.perf_counter()
            units = mover.units
            made = time.perf_counter() - start
            members = np.arange(len(study.project.members))
            start = time.perf_counter()
            extremes(solution, results, members)
            reaction_envelope(solution, results)
            spent.append(time.perf_counter() - start)
            print(
                f"{len(members)} members, {count:,} positions: unit answers {made:.2f} s, governing {spent[-1]:.1f} s"
            )
        right = np.random.default_rng(1).standard_normal((solution.equations.reduced.shape[0], len(units.freedoms)))  # type: ignore[union-attr]
        start = time.perf_counter()
        solution.equations.solve(right)  # type: ignore[union-attr]
        bare = time.perf_counter() - start
        print(f"a bare solve of {len(units.freedoms)} columns: {bare:.2f} s")
        tell("unit answers of traffic", made / bare)
        tell("10,000 positions", spent[1] / spent[0])
        tell("1,000,000 positions", spent[2] / spent[0])


if __name__ == "__main__":
    main(*map(int, sys.argv[1:]))
