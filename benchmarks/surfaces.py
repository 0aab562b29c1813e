"""Area loads on the floors of a regular building: surfaces to line loads, beside reading and solving its model.

python benchmarks/surfaces.py 21 11 5 4     # 21 x 21 bays, 11 storeys, surfaces on 5 of them, 4 cases of area loads
"""

from __future__ import annotations

import sys
import tempfile
import time
from pathlib import Path

from reading import write
from telling import tell

from empuje.core.actions.surfaces.sources.surface_loads import surface_geometries, surface_loads
from empuje.core.analysis import factor, solve
from empuje.core.resolve import resolve
from empuje.files.reader import read_model

DECKS = ("x", "two-way", "short")


def with_floors(model: Path, bays: int, floors: int, cases: int) -> None:
    """A surface on each of the lowest floors, spanning in turn one way, two ways and the shorter way."""
    n = bays + 1
    lines = [model.read_text(encoding="utf-8")]
    for k in range(1, floors + 1):
        corners = [f"n{k * n * n + j * n + i}" for i, j in ((0, 0), (bays, 0), (bays, bays), (0, bays))]
        lines.append(f'[surfaces.floor{k}]\ncorners = {corners}\ndeck = "{DECKS[k % 3]}"'.replace("'", '"'))
    names = ", ".join(f'"floor{k}"' for k in range(1, floors + 1))
    loads = [f"S{c} = [ {{ on = [{names}], area = {3e3 + 100 * c} }} ]" for c in range(cases)]
    text = "\n".join(lines)
    text = text.replace("[cases]", "[cases]\n" + "\n".join(f'S{c} = {{ action = "dead" }}' for c in range(cases)))
    model.write_text(text.replace("[loads]", "[loads]\n" + "\n".join(loads)), encoding="utf-8")


def main(bays: int = 21, storeys: int = 11, floors: int = 5, cases: int = 4) -> None:
    with tempfile.TemporaryDirectory() as folder:
        (Path(folder) / "small").mkdir()
        small = write(Path(folder) / "small", 2, 2, 2)  # load the libraries
        with_floors(small, 2, 2, 1)
        project = read_model(small).project
        solve.solve(resolve(project))
        model = write(Path(folder), bays, storeys, 36)
        start = time.perf_counter()
        solve.solve(resolve(read_model(model).project))
        whole = time.perf_counter() - start
        with_floors(model, bays, floors, cases)
        project = read_model(model).project
        start = time.perf_counter()
        found, _ = surface_loads(project, surface_geometries(project)[0])
        took = time.perf_counter() - start
    print(
        f"{factor.backend()}: {floors * bays * bays} bays on {len(project.members)} members, {cases} area loads each: "
        f"{len(found.lines.case)} line loads in {took:.2f} s = {took / whole:.2f} x reading and solving ({whole:.2f} s)"
    )
    tell("surfaces", took / whole)


if __name__ == "__main__":
    main(*map(int, sys.argv[1:]))
