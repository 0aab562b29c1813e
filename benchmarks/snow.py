"""Snow on halls of alternating height: from roofs and beams to member loads, beside reading and solving the model.

python benchmarks/snow.py 10 6      # 10 halls in a row, 6 x 6 bays each; 4 directions, all cases
"""

from __future__ import annotations

import sys
import tempfile
import time
from pathlib import Path

from telling import tell

from empuje.core.actions.snow.fall import fall
from empuje.core.actions.surfaces.sources.surface_loads import surface_geometries
from empuje.core.analysis import factor, solve
from empuje.core.load_path.snow_spans import found_spans
from empuje.core.resolve import resolve
from empuje.files.reader import read_model

BAY = 6.0
OF = 'section = "HEB 300"\nmaterial = "S355"\n'


def write(path: Path, halls: int, bays: int) -> Path:
    """Halls side by side, 6 m and 9 m high in turn, beams both ways on columns, a roof on every row of bays."""
    nodes, beams, columns, roofs = [], [], [], []
    for h in range(halls):
        z = 6.0 + 3.0 * (h % 2)
        for i in range(bays + 1):
            for j in range(bays + 1):
                x, y = BAY * (h * bays + i), BAY * j
                nodes += [f"T{h}_{i}_{j} = [{x}, {y}, {z}]", f"F{h}_{i}_{j} = [{x + 0.001 * h}, {y}, 0]"]
                columns.append(f'c{h}_{i}_{j} = "F{h}_{i}_{j} > T{h}_{i}_{j}"')
                beams += [f'x{h}_{i}_{j} = "T{h}_{i}_{j} > T{h}_{i + 1}_{j}"'] * (i < bays)
                beams += [f'y{h}_{i}_{j} = "T{h}_{i}_{j} > T{h}_{i}_{j + 1}"'] * (j < bays)
        for i in range(bays):
            corners = [f"T{h}_{i}_0", f"T{h}_{i + 1}_0", f"T{h}_{i + 1}_{bays}", f"T{h}_{i}_{bays}"]
            roofs.append(f'[surfaces.roof{h}-{i}]\ncorners = {corners}\ndeck = "x"'.replace("'", '"'))
    parts = [
        '[project]\nunits = "kN m"\n[nodes]', *nodes, f"[members.beams]\n{OF}[members.beams.pieces]", *beams,
        f"[members.columns]\n{OF}[members.columns.pieces]", *columns, *roofs,
        '[[supports]]\nat = "F*"\nfix = "fixed"\n[cases]\nG = { action = "dead", self_weight = 1 }',
        '[snow]\ncode = "ASCE 7-16"\np_g = "1.5 kN/m2"\nexposure = "C"\nC_t = 1.0\nI_s = 1.1\nroofs = "roof*"',
    ]  # fmt: skip
    path.write_text("\n".join(parts), encoding="utf-8")
    return path


def main(halls: int = 10, bays: int = 6) -> None:
    with tempfile.TemporaryDirectory() as folder:
        resolve(read_model(write(Path(folder) / "small.toml", 2, 2)).project)  # load the libraries
        model = write(Path(folder) / "model.toml", halls, bays)
        start = time.perf_counter()
        project = read_model(model).project
        solve.solve(resolve(project))
        whole = time.perf_counter() - start
        surfaces, _ = surface_geometries(project)
        assert project.snow is not None
        took = []
        for _ in range(2):
            start = time.perf_counter()
            found_spans(project, project.snow)
            between = time.perf_counter()
            snow, _ = fall(project, surfaces)
            took.append((between - start, time.perf_counter() - between))
    assert snow is not None
    (spans, falls), total = took[0], sum(took[0])
    print(
        f"{factor.backend()}: {len(surfaces)} roofs, {len(snow.rule.cases)} cases, {len(project.members)} members: "
        f"spans in {spans:.2f} s, {len(snow.loads.lines.case)} line loads in {falls:.2f} s = "
        f"{total / whole:.2f} x reading and solving ({whole:.2f} s)"
    )
    tell("snow", total / whole)


if __name__ == "__main__":
    main(*map(int, sys.argv[1:]))
