"""A regular building from CSV tables: the time to read it beside the time to solve it.

python benchmarks/reading.py 21 11             # 21 x 21 bays, 11 storeys, 40 cases
python benchmarks/reading.py 38 11 8 200000    # 50,000 members; loads from a table of so many rows
"""

from __future__ import annotations

import sys
import tempfile
import time
from pathlib import Path

from building import building
from telling import tell

from empuje.core.analysis import factor, solve
from empuje.core.resolve import resolve
from empuje.files.reader import read_model

MODEL = """
[project]
units = "N m"
[tables]
nodes = "nodes.csv"
members = "members.csv"
supports = "supports.csv"
[members.columns]
section = "HEB 300"
material = "S355"
[members.beams]
section = "IPE 400"
material = "S355"
[members.braces]
section = "L 100x100x10"
material = "S355"
bar = true
"""


def write(folder: Path, bays: int, storeys: int, cases: int, loads: int = 0) -> Path:
    """The benchmark's building as a model file and tables, loads too where they are so many rows."""
    frame = building(bays, storeys, cases)
    rows = ["name,x,y,z", *(",".join([n.name, *map(repr, n.xyz)]) for n in frame.nodes)]
    (folder / "nodes.csv").write_text("\n".join(rows), encoding="utf-8")
    names = {"HEB 300": "columns", "IPE 400": "beams", "L 100x100x10": "braces"}
    rows = ["family,name,start,end"]
    for i, m in enumerate(frame.members):
        rows.append(f"{names[m.section.name]},{i},{frame.nodes[m.start].name},{frame.nodes[m.end].name}")
    (folder / "members.csv").write_text("\n".join(rows), encoding="utf-8")
    rows = ["at,fix", *(f"{frame.nodes[s.node].name},fixed" for s in frame.supports)]
    (folder / "supports.csv").write_text("\n".join(rows), encoding="utf-8")
    tables = 'supports = "supports.csv"'
    head = MODEL.replace(tables, f'{tables}\nloads = "loads.csv"') if loads else MODEL
    lines = [head, "[cases]", *(f'C{c} = {{ action = "live" }}' for c in range(cases)), "[loads]"]
    if loads:
        beams = [f"beams/{i}" for i, m in enumerate(frame.members) if m.section.name == "IPE 400"]
        rows = ["case,on,line [kN/m],force [kN],at [m],dir"]
        for k in range(loads):
            force = k % 4 == 3
            value = f",{1 + k % 7},{0.5 + k % 3}" if force else f"{1 + k % 9 / 8},,"
            rows.append(f"C{k // len(beams) % cases},{beams[k % len(beams)]},{value},{'' if k % 5 else '+x'}")
        (folder / "loads.csv").write_text("\n".join(rows), encoding="utf-8")
        (folder / "building.toml").write_text("\n".join(lines), encoding="utf-8")
        return folder / "building.toml"
    ways = ["down", "+x", "+y", "up"]
    lines += [
        f'C{c} = [ {{ on = "beams", line = [{1e3 + 10 * c}, 2e3], dir = "{ways[c % 4]}" }} ]' for c in range(cases)
    ]
    (folder / "building.toml").write_text("\n".join(lines), encoding="utf-8")
    return folder / "building.toml"


def main(bays: int = 21, storeys: int = 11, cases: int = 40, loads: int = 0) -> None:
    with tempfile.TemporaryDirectory() as folder:
        model = write(Path(folder), bays, storeys, cases, loads)
        (Path(folder) / "small").mkdir()
        small = read_model(write(Path(folder) / "small", 2, 2, 2, min(loads, 9))).project  # load the libraries
        solve.solve(resolve(small))
        start = time.perf_counter()
        resolved = resolve(read_model(model).project)
        reading = time.perf_counter() - start
        start = time.perf_counter()
        solve.solve(resolved)
        solving = time.perf_counter() - start
    rows = len(resolved.loads.lines.member) + len(resolved.loads.points.member)
    print(
        f"{factor.backend()}: {len(resolved.project.members)} members and {rows} loads from CSV tables: "
        f"read and resolved in {reading:.2f} s "
        f"= {reading / solving:.2f} x the solution of {cases} cases ({solving:.2f} s)"
    )
    tell("reading", reading / solving)


if __name__ == "__main__":
    main(*map(int, sys.argv[1:]))
