"""Wind on a regular building: from the site to member loads, beside reading and solving its model.

python benchmarks/wind.py 18 13 8      # 18 x 18 bays, 13 storeys, walls in strips of 8 bays; 4 directions, all variants
"""

from __future__ import annotations

import sys
import tempfile
import time
from pathlib import Path

from reading import write
from telling import tell

from empuje.core.actions.surfaces.sources.surface_loads import surface_geometries
from empuje.core.actions.wind.blow import blow
from empuje.core.analysis import factor, solve
from empuje.core.resolve import resolve
from empuje.files.reader import read_model

WIND = """
[wind]
code       = "ASCE 7-22"
V          = "51 m/s"
exposure   = "C"
exterior   = ["wall*", "roof*"]
directions = { WE = "+x", WW = "-x", WN = "+y", WS = "-y" }
"""


def with_walls(model: Path, bays: int, storeys: int, strip: int) -> int:
    """A surface on each storey of every strip of bays of the four walls, and on each strip of the roof."""
    n = bays + 1
    lines = [model.read_text(encoding="utf-8")]

    def node(i: int, j: int, k: int) -> str:
        return f"n{k * n * n + j * n + i}"

    count = 0
    for k in range(storeys):
        for a in range(0, bays, strip):
            b = min(a + strip, bays)
            ends = (((a, 0), (b, 0)), ((bays, a), (bays, b)), ((b, bays), (a, bays)), ((0, b), (0, a)))
            for (i0, j0), (i1, j1) in ends:
                corners = [node(i0, j0, k), node(i1, j1, k), node(i1, j1, k + 1), node(i0, j0, k + 1)]
                lines.append(f'[surfaces.wall{count}]\ncorners = {corners}\ndeck = "z"'.replace("'", '"'))
                count += 1
    for a in range(0, bays, strip):
        b = min(a + strip, bays)
        corners = [node(a, 0, storeys), node(b, 0, storeys), node(b, bays, storeys), node(a, bays, storeys)]
        lines.append(f'[surfaces.roof{count}]\ncorners = {corners}\ndeck = "x"'.replace("'", '"'))
        count += 1
    model.write_text("\n".join([*lines, WIND]), encoding="utf-8")
    return count


def main(bays: int = 18, storeys: int = 13, strip: int = 2) -> None:
    with tempfile.TemporaryDirectory() as folder:
        (Path(folder) / "small").mkdir()
        small = write(Path(folder) / "small", 2, 2, 2)  # load the libraries
        with_walls(small, 2, 2, 1)
        resolve(read_model(small).project)
        model = write(Path(folder), bays, storeys, 36)
        count = with_walls(model, bays, storeys, strip)
        start = time.perf_counter()
        reading = read_model(model)
        resolved = resolve(reading.project)
        solve.solve(resolved)
        whole = time.perf_counter() - start
        project = reading.project
        surfaces, _ = surface_geometries(project)
        took = []
        for _ in range(2):
            start = time.perf_counter()
            wind, _ = blow(project, surfaces)
            took.append(time.perf_counter() - start)
    assert wind is not None
    print(
        f"{factor.backend()}: {count} surfaces, {len(wind.rule.cases)} cases, {len(project.members)} members: "
        f"{len(wind.loads.lines.case)} line loads in {took[0]:.2f} s, again {took[1]:.2f} s = "
        f"{took[0] / whole:.2f} x reading and solving ({whole:.2f} s)"
    )
    tell("wind", took[0] / whole)


if __name__ == "__main__":
    main(*map(int, sys.argv[1:]))
