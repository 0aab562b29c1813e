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

from telling import tell

IMPORTS = "import numpy, scipy.sparse.linalg, pint, shapely"
TIMES = 3
WHY = ["--on", "wall-ties/1/B@base-C@eave", "--of", "N"]
READ = ("check", "loads", "combos")
FIRST = ("reactions", "forces", "envelope", "verdict", "members", "stability")
MODEL = "demo/packing-house.toml"


def cost(words: list[str], folder: Path, times: int = TIMES) -> float:
    """The least processor time [s] of several runs."""
    least = float("inf")
    for _ in range(times):
        before = resource.getrusage(resource.RUSAGE_CHILDREN)
        done = subprocess.run(words, cwd=folder, check=False, capture_output=True)
        if done.returncode not in (0, 1):
            sys.exit(done.stderr.decode())
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
        print(f"bare import {bare:.2f} s")

        def told(name: str, words: list[str], times: int = TIMES) -> None:
            tell(name, cost([*ours, *words], folder, times) / bare)

        cost([*ours, "demo", "packing-house", "compiled"], folder, 1)
        (folder / "cache").rename(folder / "no-cache")
        told("demo", ["demo", "packing-house", "demo"], 1)
        for command in READ:
            told(command, [command, MODEL])
        for command in FIRST:
            told(f"{command}, first", [command, MODEL, "--no-cache"], 2)
        for command in (*FIRST, "why"):
            words = [command, MODEL, *(WHY if command == "why" else [])]
            cost([*ours, *words], folder, 1)  # what it keeps for the next time
            told(f"{command}, again", words)
        told("check, again", ["check", MODEL, "--deep"])
        told("run, first", ["run", MODEL, "--no-cache"], 1)
        told("report, first", ["report", MODEL, "--no-cache", "-o", "report.html"], 1)


if __name__ == "__main__":
    main()
