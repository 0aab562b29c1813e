"""Frames with traffic for tests, and what a position makes of them as loads written down one by one."""

import random

import numpy as np

from empuje.core.actions.traffic.laid import loads_of_train
from empuje.core.analysis.pieces import build_pieces
from empuje.core.analysis.polynomials import value_at
from empuje.core.analysis.solve import respond
from empuje.core.answers.moving import movers_of
from empuje.files.reader import read_text
from empuje.study.study import Study

FORCES = ("N", "Vy", "Vz", "T", "My", "Mz")


def study(text, tmp_path):
    path = tmp_path / "moving.toml"
    path.write_text(text, encoding="utf-8")
    return Study.read(path, cache=False)


def findings(text):
    from empuje.core.resolve import resolve

    reading = read_text(text, "m.toml")
    return reading.with_more(resolve(reading.project, reading.findings).findings)


def beam(spans, traffic, units="kN m", shear=False, more=""):
    """A straight beam over supports in a plane, its first span called b/b1, its nodes A, B, ..."""
    x, names = np.cumsum([0.0, *spans]), "ABCDEFG"
    nodes = "\n".join(f"{n} = [{v}, 0]" for n, v in zip(names, x, strict=False))
    pieces = ", ".join(f'b{k + 1} = "{names[k]} > {names[k + 1]}"' for k in range(len(spans)))
    held = ", ".join(f'"{n}"' for n in names[1 : len(spans) + 1])
    return f"""
[project]
units = "{units}"
space = "plane"
[nodes]
{nodes}
[materials]
m = {{ E = "210 GPa", G = "81 GPa" }}
[sections]
s = {{ A = "100 cm2", Iy = "40000 cm4", Iz = "3000 cm4", J = "90 cm4", Az = "40 cm2" }}
[members.b]
section = "s"
material = "m"
shear = {str(shear).lower()}
pieces = {{ {pieces} }}
[[supports]]
at = "A"
fix = "x z"
[[supports]]
at = [{held}]
fix = "z"
{traffic}
{more}
"""


def case(s, name="T"):
    """The solution, and a moving case as a result."""
    solution = s.solution()
    return solution, [next(r for r in solution.results if r.name == name)]


def random_frame(seed):
    """A frame of one storey with beams that traffic passes over, hinges, rigid ends, springs and slopes as it falls."""
    r = random.Random(seed)
    n, plane = r.randint(2, 3), r.random() < 0.5
    x = np.cumsum([0.0, *(r.uniform(3, 9) for _ in range(n))])
    names = "ABCDEFG"[: n + 1]
    hinges = r.choice(['"rigid"', '["hinged", "rigid"]', '{ ry = "20 MN*m/rad" }'])
    level, loaded = "" if plane else " / 1..2", r.choice(["beams", "beams/*A-B*"])
    gaps = [0.0, *(r.uniform(0.8, 4) for _ in range(r.randint(0, 3)))]
    axles = ", ".join(f'["{gap:.3f} m", "{r.uniform(10, 150):.2f} kN"]' for gap in gaps)
    lines = [
        '[project]\nunits = "kN m"', 'space = "plane"' if plane else "",
        "[grid]\nx = { " + ", ".join(f"{a} = {v:.4f}" for a, v in zip(names, x, strict=True)) + " }",
        "" if plane else f"y = {{ 1 = 0, 2 = {r.uniform(2, 4):.3f} }}", "z = { b = 0, t = 4 }",
        f'[members.beams]\nsection = "HEB 400"\nmaterial = "S355"\nends = {hinges}',
        f"offsets = {r.choice([0.0, 0.2])}\nshear = {r.choice(['true', 'false'])}",
        f'runs = ["A>>{names[-1]}{level} / t"]',
        "" if plane else f'[members.cross]\nsection = "IPE 300"\nmaterial = "S355"\nruns = ["A..{names[-1]} / 1>2 / t"]',
        f'[members.columns]\nsection = "HEB 220"\nmaterial = "S355"\nruns = ["A..{names[-1]}{level} / b>t"]',
        '[[supports]]\nat = "*@b"\nfix = "fixed"',
        '[cases]\nSW = { action = "dead", self_weight = 1 }\nQ = { action = "live", use = "storage" }\nW = { action = "wind" }',
        f'[loads]\nQ = [{{ on = "{loaded}", line = "7 kN/m", from = "20%", to = "70%" }}]',
        'W = [{ on = "columns", line = "2 kN/m", dir = "+x" }]', "[vehicles.v]",
        f"axles = [{axles}]",
    ]  # fmt: skip
    lines += [f"along = 0.25\nheight = {r.uniform(0, 2):.2f}"] if r.random() < 0.5 else []
    lines += ["across = 0.1"] if not plane and r.random() < 0.5 else []
    parts = r.choice(['["before", "behind"]', '["under"]'])
    lines += [f'lane = "{r.uniform(2, 9):.2f} kN/m"\nlane_on = {parts}'] if r.random() < 0.4 else []
    way = '"beams"' if plane else f'["A1@t", "{names[-1]}1@t"]\naside = {r.uniform(0.3, 1.5):.3f}'
    heading, enters = r.choice(["forward", "backward", "both"]), r.choice(["axle by axle", "axle by axle", "wholly"])
    step = r.choice(['"exact"', f"{r.uniform(0.2, 0.6):.3f}"])
    lines += [f'[traffic.T]\nvehicle = "v"\nuse = "storage"\nway = {way}\nheading = "{heading}"\nenters = "{enters}"']
    lines += [f"step = {step}", "[combinations.custom]", 'C1 = "1.35 SW + 1.5 T + 0.9 W"', 'C2 = "SW - 0.5 T + 1.5 W"',
              'C3 = "1.2 SW + 1.5 Q + T"']  # fmt: skip
    return "\n".join(lines) + "\n"


def forces_under(solution, member, x, weights):
    """N ... Mz (2, 6, results) of a member just left and just right of x."""
    pieces = build_pieces(solution, np.array([member]), weights)
    out = []
    for side in (-1, 1):
        k = int(np.clip(np.searchsorted(pieces.start, x + side * 1e-9, side="right") - 1, 0, len(pieces.start) - 1))
        t = np.array([np.clip(x - pieces.start[k], 0.0, pieces.length[k])])
        out.append(value_at(pieces.force[k : k + 1], t)[0])
    return np.array(out)


def swept(s, solution, count):
    """Positions (count or so) of every journey as columns of loads solved by themselves."""
    (mover,) = movers_of(solution).values()
    for train in mover.trains:
        low, high = train.reach(mover.laid.traffic.entering)
        t = mover.stepped(train) if mover.step else np.linspace(low, high, count)
        loads = loads_of_train(mover.laid.ways[0], train, t, np.arange(len(t)))
        yield respond(mover.equations, loads, len(t)), len(t)
