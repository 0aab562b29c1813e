"""Draws docs/trusses.svg: the patterns of truss makers, and which of their bars pull and which push under loads that
act down on a truss on two supports, as the analysis has them.

python tools/guide_trusses.py
"""

from __future__ import annotations

import tempfile
from pathlib import Path

from empuje.api import read

FIGURE = Path(__file__).parents[1] / "docs" / "trusses.svg"
PATTERNS = ("pratt", "howe", "warren", "warren with posts", "K")
SHAPES = {"straight": '"2 m"', "pitched": '"3 m"'}
SPAN, SCALE, WIDE, HIGH = 12.0, 15.0, 250.0, 92.0
PULLS, PUSHES, NEITHER = "#1b3a6b", "#d95f3b", "#9a9a9a"
MODEL = """
[project]
units = "kN m"
space = "plane"
[members.chords]
section = "HEA 120"
material = "S355"
bar = true
[members.webs]
section = "L 60x60x6"
material = "S355"
bar = true
[makers.T]
make = "truss"
from = [0, 0]
to = [12, 0]
panels = {panels}
shape = "{shape}"
depth = {depth}
pattern = "{pattern}"
chord = "chords"
webs = "webs"
[[supports]]
at = "T.b0"
fix = "x z"
[[supports]]
at = "T.b{panels}"
fix = "z"
[cases]
Q = {{ action = "live" }}
[loads]
Q = [ {{ on = "T.b*", force = 10 }} ]
"""


def panels_of(pattern: str, shape: str) -> int:
    """So many that the ridge is at a joint."""
    return 6 if shape == "straight" or pattern == "warren" else 8


def forces(pattern: str, shape: str) -> list[tuple[str, tuple[float, float], tuple[float, float], float]]:
    """Of every bar its name, both ends [m] and N [kN]."""
    text = MODEL.format(pattern=pattern, shape=shape, depth=SHAPES[shape], panels=panels_of(pattern, shape))
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "truss.toml"
        path.write_text(text, encoding="utf-8")
        model = read(path, cache=False)
        table = model.solve().forces(under="Q")
    found = table.groupby("member", sort=False)["N [kN]"].first()
    xyz = {n.name: (n.xyz[0], n.xyz[2]) for n in model.project.nodes}
    return [
        (m.name, xyz[model.project.nodes[m.start].name], xyz[model.project.nodes[m.end].name], float(found[m.name]))
        for m in model.project.members
    ]


def drawn() -> str:
    """The figure, as SVG."""
    out = []
    for column, shape in enumerate(SHAPES):
        for row, pattern in enumerate(PATTERNS):
            left, foot = 20 + column * WIDE, HIGH * (row + 1) - 12
            out.append(f'<text x="{left}" y="{foot - 62:g}">{pattern}, {shape}</text>')
            for _, a, b, N in forces(pattern, shape):
                colour, wide = (NEITHER, 1) if abs(N) < 1e-6 else (PULLS, 1.6) if N > 0 else (PUSHES, 2.6)
                (x0, y0), (x1, y1) = ((left + SCALE * p[0], foot - SCALE * p[1]) for p in (a, b))
                out.append(
                    f'<line x1="{x0:g}" y1="{y0:g}" x2="{x1:g}" y2="{y1:g}" stroke="{colour}" stroke-width="{wide}"/>'
                )
    y = HIGH * len(PATTERNS) + 14
    for x, colour, wide, words in (
        (20, PULLS, 1.6, "pulls"),
        (110, PUSHES, 2.6, "pushes"),
        (200, NEITHER, 1, "neither"),
    ):
        out.append(
            f'<line x1="{x}" y1="{y - 4:g}" x2="{x + 24}" y2="{y - 4:g}" stroke="{colour}" stroke-width="{wide}"/>'
        )
        out.append(f'<text x="{x + 30}" y="{y:g}">{words}</text>')
    wide, high = 20 + 2 * WIDE, y + 12
    head = f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {wide:g} {high:g}" width="{wide:g}" height="{high:g}"'
    return "\n".join(
        [
            f'{head} font-family="sans-serif" font-size="10">',
            f'<rect width="{wide:g}" height="{high:g}" fill="white"/>',
            *out,
            "</svg>",
            "",
        ]
    )


if __name__ == "__main__":
    FIGURE.write_text(drawn(), encoding="utf-8", newline="\n")
