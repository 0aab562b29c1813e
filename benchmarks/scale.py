"""How reading grows: a building with many members, and many rows of loads in a table beside it.

python benchmarks/scale.py                   # 48,165 members and 40,000 rows; 2,800 members and 500,000 rows
python benchmarks/scale.py 115 40000         # 197,225 members (15 n^2 - 10 n), and the rows
"""

from __future__ import annotations

import random
import resource
import subprocess
import sys
import tempfile
from pathlib import Path

STOREYS = 5
MODEL = """
[project]
units = "kN m"
[grid]
x = {{ {x} }}
y = {{ {y} }}
z = {{ {z} }}
[members.columns]
section = "HEB 300"
material = "S355"
runs = ["A0..A{last} / b0..b{last} / c0>>c{storeys}"]
[members.beams]
section = "IPE 400"
material = "S355"
runs = ["A0>>A{last} / b0..b{last} / c1..c{storeys}", "A0..A{last} / b0>>b{last} / c1..c{storeys}"]
[[supports]]
at = "*@c0"
fix = "fixed"
[cases]
G = {{ action = "dead" }}
Q = {{ action = "live" }}
[tables]
loads = "loads.csv"
"""
MEASURED = """
import resource, sys, time
from empuje.study.study import Study
start = time.perf_counter()
study = Study.read(sys.argv[1], cache=False)
took = time.perf_counter() - start
assert study.sound and len(study.project.loads) == int(sys.argv[2])
peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1e6
sizes = f"{len(study.project.members):,} members, {int(sys.argv[2]):,} load rows"
print(f"{sizes}: read and resolved in {took:.1f} s, peak {peak:.2f} GB")
"""


def lines(letter: str, count: int, apart: float) -> str:
    return ", ".join(f"{letter}{i} = {i * apart}" for i in range(count))


def write(folder: Path, side: int, rows: int) -> Path:
    """A building of side x side columns, and rows of line loads and forces on its beams."""
    text = MODEL.format(
        x=lines("A", side, 6), y=lines("b", side, 5), z=lines("c", STOREYS + 1, 3.5), last=side - 1, storeys=STOREYS
    )
    (folder / "m.toml").write_text(text, encoding="utf-8")
    rng = random.Random(1)
    with (folder / "loads.csv").open("w", encoding="utf-8") as table:
        table.write("case,on,line [kN/m],force,at,dir,from,to\n")
        for i in range(rows):
            a, b, c = rng.randrange(side - 1), rng.randrange(side), rng.randrange(1, STOREYS + 1)
            on = f"beams/b{b}@c{c}/A{a}-A{a + 1}"
            if i % 3:
                table.write(
                    f"{'GQ'[i % 2]},{on},{rng.uniform(1, 9):.3f},,,,{'' if i % 5 else 1.5},{'' if i % 7 else '60%'}\n"
                )
            else:
                table.write(f"Q,{on},,{rng.uniform(1, 9):.2f},{rng.uniform(0, 5):.2f},down,,\n")
    return folder / "m.toml"


def main(*sizes: tuple[int, int]) -> None:
    for side, rows in sizes:
        with tempfile.TemporaryDirectory() as name:
            path = write(Path(name), side, rows)
            subprocess.run([sys.executable, "-c", MEASURED, str(path), str(rows)], check=True)


if __name__ == "__main__":
    given = list(map(int, sys.argv[1:]))
    main(*([(given[0], given[1])] if given else [(57, 40_000), (14, 500_000)]))
    print(f"peak of all {resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss / 1e6:.2f} GB")
