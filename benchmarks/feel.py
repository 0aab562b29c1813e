"""How commands feel: processor time of each on the demo, over that of the libraries' bare import.

python benchmarks/feel.py              # on a fresh demo, in a temporary folder; nothing of the user's cache is used
"""

from __future__ import annotations

import os
import resource
import subprocess
import sys
import tempfile
from pathlib import Path

IMPORTS = "import numpy, scipy.sparse.linalg, pint, shapely"
TIMES = 3
WHY = ["--on", "wall-ties/1/B@base-C@eave", "--of", "N"]
COMMANDS: tuple[tuple[str, list[str], float], ...] = (
    ("check", [], 1.8), ("check", ["--deep"], 0.0), ("loads", [], 1.8), ("combos", [], 1.8),
    ("reactions", ["--no-cache"], 0.0), ("reactions", [], 2.5), ("envelope", [], 2.5), ("forces", [], 2.5),
    ("why", WHY, 2.5), ("stability", ["--no-cache"], 4.0), ("stability", [], 0.0), ("run", ["--no-cache"], 8.0),
    ("run", [], 0.0),
)  # fmt: skip
"""Words, and what they should cost at most; 0 where nothing is asked."""


def cost(words: list[str], folder: Path, times: int = TIMES) -> float:
    """The least processor time [s] of several runs."""
    least = float("inf")
    for _ in range(times):
        before = resource.getrusage(resource.RUSAGE_CHILDREN)
        subprocess.run(words, cwd=folder, check=True, capture_output=True)
        after = resource.getrusage(resource.RUSAGE_CHILDREN)
        least = min(least, after.ru_utime + after.ru_stime - before.ru_utime - before.ru_stime)
    return least


def main() -> None:
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        os.environ["EMPUJE_CACHE"] = str(folder / "cache")
        os.environ.pop("PYTHONDONTWRITEBYTECODE", None)
        ours = [sys.executable, "-m", "empuje"]
        bare = cost([sys.executable, "-c", IMPORTS], folder, 5)
        made = min(cost([*ours, "demo", "packing-house", name], folder, 1) for name in ("demo", "demo-2", "demo-3"))
        print(f"bare import {bare:.2f} s")
        print(f"{'demo':24s} {made / bare:5.1f}   (at most 9)")
        model = "demo/packing-house.toml"
        for command, more, most in COMMANDS:
            ratio = cost([*ours, command, model, *more], folder) / bare
            print(f"{' '.join([command, *more])[:24]:24s} {ratio:5.1f}" + (f"   (at most {most:g})" if most else ""))


if __name__ == "__main__":
    main()
