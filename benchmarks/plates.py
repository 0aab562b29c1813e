"""A slab under 40 cases, from a model read to displacements, beside the bare factor and solve of its own matrix.

python benchmarks/plates.py [ELEMENTS ALONG A SIDE ...]
"""

from __future__ import annotations

import sys
import tempfile
import time
from collections.abc import Sequence
from pathlib import Path

import numpy as np
from telling import tell

from empuje.core.analysis.factor import factorise
from empuje.core.analysis.solve import first_order
from empuje.study.study import Study

CASES = 40


def slab(folder: Path, side: int) -> Path:
    """A model of a square slab of 6 m that is supported along its edges, in elements of 6 m / side."""
    cases = "\n".join(f'Q{i} = {{ action = "live" }}' for i in range(CASES))
    loads = "\n".join(f'Q{i} = [{{ on = "slab", area = {i + 1} }}]' for i in range(CASES))
    path = folder / f"slab-{side}.toml"
    path.write_text(
        '[project]\nunits = "kN m"\n[surfaces.slab]\ncorners = [[0, 0, 0], [6, 0, 0], [6, 6, 0], [0, 6, 0]]\n'
        f'material = "C30/37"\nthickness = "0.2 m"\nmesh = {6 / side!r}\n'
        f'[[supports]]\nalong = "slab"\nfix = "x y z"\n[cases]\n{cases}\n[loads]\n{loads}\n'
    )
    return path


def main(sides: Sequence[int]) -> None:
    rng = np.random.default_rng(3)
    with tempfile.TemporaryDirectory() as folder:
        first_order(Study.read(slab(Path(folder), 4), cache=False).resolved)  # what is loaded at first use
        for side in sides:
            resolved = Study.read(slab(Path(folder), side), cache=False).resolved
            start = time.process_time()
            solved = first_order(resolved)
            whole = time.process_time() - start
            matrix = solved.equations.reduced.copy()
            size = 1 / np.sqrt(matrix.diagonal())
            matrix.data *= np.repeat(size, np.diff(matrix.indptr)) * size[matrix.indices]
            matrix.eliminate_zeros()
            right = rng.normal(size=(matrix.shape[0], CASES))
            start = time.process_time()
            factorise(matrix)(right)
            bare = time.process_time() - start
            tell(f"plates, {side} elements along a side", whole / bare)


if __name__ == "__main__":
    main([int(word) for word in sys.argv[1:]] or [56, 128])
