"""Checks of steel members beside the solution of the same frame by SciPy.

python benchmarks/steel.py                   # 15,040 members, 200 combinations (15 n^2 - 10 n members)
python benchmarks/steel.py 12 50             # side of the building in columns, combinations
"""

from __future__ import annotations

import resource
import sys
import tempfile
import time
from pathlib import Path

import numpy as np
from scale import MODEL, STOREYS, lines
from telling import tell

from empuje.core.steel.checked import check_members
from empuje.study.study import Study

CASES = 12


def write(folder: Path, side: int, combinations: int, code: str) -> Path:
    """A building of side x side columns with even loads of many cases on its beams and columns."""
    rng = np.random.default_rng(1)
    text = MODEL.format(x=lines("A", side, 6.0), y=lines("b", side, 7.0), z=lines("c", STOREYS + 1, 3.5), last=side - 1,
                        storeys=STOREYS)  # fmt: skip
    text = text.replace('[tables]\nloads = "loads.csv"\n', "").replace('Q = { action = "live" }\n', "")
    ways = ("down", "+x", "+y", "down")
    text += "".join(f'L{i} = {{ action = "live" }}\n' for i in range(CASES)) + "[loads]\n"
    for i in range(CASES):
        on, dir_ = ("beams", "columns")[i % 4 in (1, 2)], ways[i % 4]
        text += f'L{i} = [ {{ on = "{on}", line = {rng.uniform(1, 6):.3f}, dir = "{dir_}" }} ]\n'
    text += "[combinations.custom]\n"
    for k in range(combinations):
        formula = " + ".join(f"{rng.uniform(0, 1.6):.3f} L{i}" for i in range(CASES))
        text += f'U{k} = {{ formula = "{formula}", set = "strength" }}\n'
    path = folder / "building.toml"
    path.write_text(text + f'[steel]\ncode = "{code}"\n', encoding="utf-8")
    return path


def main() -> None:
    side, combinations = (int(sys.argv[i]) if len(sys.argv) > i else v for i, v in ((1, 32), (2, 200)))
    with tempfile.TemporaryDirectory() as folder:
        for code in ("EN 1993-1-1", "AISC 360-22"):
            study = Study.read(write(Path(folder), side, combinations, code), cache=False)
            results = study.under(["strength"])
            start = time.perf_counter()
            solution = study.solution(results)
            solved = time.perf_counter() - start
            rule = study.project.steel
            assert rule is not None
            start = time.perf_counter()
            found = check_members(solution, results, rule, np.arange(len(study.project.members)))
            took = time.perf_counter() - start
            peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1e6
            sizes = f"{len(found.members):,} members x {len(found.results)} combinations"
            times = f"solved in {solved:.1f} s, checked in {took:.1f} s ({took / solved:.2f})"
            print(f"{code}: {sizes}: {times}; largest {found.use.max():.2f}; peak {peak:.2f} GB")
            tell(code, took / solved)


if __name__ == "__main__":
    main()
