"""Every ratio that docs/performance.md gives, with its wish, as a table. Exits 1 where one is more than a quarter above
its wish.

python benchmarks/ratios.py                  # all of them: some ten minutes on two cores
python benchmarks/ratios.py commands traffic # some
"""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path

from telling import MARK

PARTS = {
    "commands": ("feel.py",), "frames": ("building.py", "21", "11", "40"),
    "ties": ("building.py", "12", "10", "30", "200"),
    "second-order": ("building.py", "21", "11", "8", "0", "4"), "surfaces": ("surfaces.py",), "wind": ("wind.py",),
    "reading": ("reading.py",), "envelopes": ("envelopes.py",), "steel": ("steel.py",), "traffic": ("traffic.py",),
    "snow": ("snow.py",), "pictures": ("pictures.py",), "plates": ("plates.py",),
}  # fmt: skip
"""What is run for each part, with its sizes."""
WISHES = {
    "solution": 1.1, "200 one-way ties": 1.15, "each combination of second order": 0.7,
    "envelope of combinations": 0.15, "taking down": 0.35,
    "surfaces": 0.4, "wind": 0.3, "snow": 0.8, "reading": 0.6, "bands": 2.0, "EN 1993-1-1": 2.9, "AISC 360-22": 2.2,
    "unit answers of traffic": 1.8, "10,000 positions": 1.1, "1,000,000 positions": 1.1,
    "plates, 56 elements along a side": 1.3, "plates, 128 elements along a side": 1.3,
    "frame, 40": 1.3, "solid, 40": 1.4, "loads, 40": 1.5, "reactions, 40": 1.4, "deflected, 40": 1.1, "My, 40": 1.2,
    "frame, 5124": 1.6, "solid, 5124": 2.3, "loads, 5124": 2.1, "reactions, 5124": 2.3, "deflected, 5124": 2.4,
    "My, 5124": 1.7,
    "check": 1.2, "loads": 1.2, "combos": 1.2, "reactions, first": 4, "forces, first": 4, "envelope, first": 4,
    "verdict, first": 4, "members, first": 4, "stability, first": 3, "run, first": 9, "report, first": 10, "demo": 9,
    "check, again": 1.8, "reactions, again": 1.8, "forces, again": 1.8, "envelope, again": 1.8, "verdict, again": 1.8,
    "members, again": 1.8, "why, again": 1.8, "stability, again": 1.8,
}  # fmt: skip
"""What is wished for at most; what a benchmark tells beyond these is a figure without a wish."""
ROOM = 1.25


def told_by(words: tuple[str, ...]) -> dict[str, float]:
    """The ratios that a benchmark says."""
    script, *sizes = words
    path = str(Path(__file__).with_name(script))
    done = subprocess.run([sys.executable, path, *sizes], capture_output=True, text=True, check=False)
    if done.returncode:
        sys.exit(f"{script} {' '.join(sizes)}: {done.stderr.strip().splitlines()[-1]}")
    lines = (line.removeprefix(MARK).split("\t") for line in done.stdout.splitlines() if line.startswith(MARK))
    return {name: float(ratio) for name, ratio in lines}


def main(parts: list[str]) -> int:
    unknown = [p for p in parts if p not in PARTS]
    if unknown:
        sys.exit(f"there is no {unknown[0]}; known are {', '.join(PARTS)}")
    print("| part | what | ratio | at most | |\n| --- | --- | ---: | ---: | --- |")
    far = 0
    for part in parts or PARTS:
        for name, ratio in told_by(PARTS[part]).items():
            wish = WISHES.get(name)
            over = wish is not None and ratio > ROOM * wish
            far += over
            mark = "" if wish is None or ratio <= wish else "far above" if over else "above"
            print(f"| {part} | {name} | {ratio:.3g} | {'' if wish is None else f'{wish:g}'} | {mark} |", flush=True)
    return 1 if far else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
