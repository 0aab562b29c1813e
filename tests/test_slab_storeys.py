"""Storeys of slabs and walls: what passes through level cuts against all loads above, centres by hand."""

import math

import numpy as np
import pytest

from empuje.core.analysis.equations import build_equations
from empuje.core.answers.deflection import stretches
from empuje.core.answers.storey_cuts import storey_forces
from empuje.core.answers.storeys import storeys
from empuje.core.resolve import resolve
from empuje.files.reader import read_text
from test_plate_buckling import by_second_order

HEAD = """[project]
units = "kN m"
mass = "Q"
[materials]
m = { E = "30 GPa", G = "12.5 GPa", density = "25 kN/m3", expansion = "1e-5 1/K" }
[sections]
c = { shape = "rectangle", h = "0.4 m", b = "0.3 m" }
"""
E, h = 30e9, 3.0
PLAN = {"1": (0.0, 0.0), "2": (8.0, 0.0), "3": (8.0, 6.0), "4": (0.0, 6.0)}


def tower(turn, walls="", loads="", slab=""):
    """Two storeys of 3 m: four columns and a slab each, and walls from the ground to the top."""
    c, s = math.cos(math.radians(turn)), math.sin(math.radians(turn))

    def at(x, y, z):
        return [c * x - s * y, s * x + c * y, z]

    text = HEAD + "[nodes]\n"
    for n, z in (("B", 0.0), ("M", h), ("T", 2 * h)):
        text += "".join(f"{n}{k} = {at(x, y, z)}\n" for k, (x, y) in PLAN.items())
    pieces = ", ".join(f'{a}{k} = "{a}{k} > {b}{k}"' for a, b in ("BM", "MT") for k in PLAN)
    text += f'[members.c]\nsection = "c"\nmaterial = "m"\nroll = {turn}\npieces = {{ {pieces} }}\n'
    for name, z in (("low", h), ("top", 2 * h)):
        corners = [at(*PLAN[k], z) for k in "1234"]
        text += f'[surfaces.{name}]\ncorners = {corners}\nown_x = {corners[:2]}\nmaterial = "m"\nthickness = 0.2\nmesh = 0.7\n{slab}\n'
    foot = ""
    for name, ((x0, y0), (x1, y1)) in {"w1": ((0, 0), (0, 4)), "w2": ((3, 6), (7, 6))}.items() if walls else ():
        corners = [at(x0, y0, 0), at(x1, y1, 0), at(x1, y1, 2 * h), at(x0, y0, 2 * h)]
        text += f'[surfaces.{name}]\ncorners = {corners}\nmaterial = "m"\nthickness = 0.15\nmesh = 0.7\n{walls}\n'
        foot += f'[[supports]]\nalong = "{name}/1"\nfix = "x y z"\n'
    text += f'[[supports]]\nat = "B*"\nfix = "fixed"\n{foot}[cases]\nQ = {{ action = "live", self_weight = 1 }}\n'
    return text + f"[loads]\nQ = [ {loads} ]\n"


LOADS = (
    '{ on = ["low", "top"], area = 6 }, { on = "w1", area = 2, dir = "normal" }, { on = "M2", force = 30, dir = "+x" }, '
    '{ on = "top", line = 12, edge = 2, dir = "+y" }, { on = "w2", temperature = 20 }, { on = "c/B3", line = 3, dir = "+x" }'
)


@pytest.mark.parametrize(("turn", "level"), [(0.0, 0.0), (0.0, h), (33.0, h), (0.0, 1.3), (0.0, 1.75)])
def test_what_passes_through_a_cut_is_what_lies_above_it(turn, level):
    """Base: all loads; above the lower slab: its own left out, half of the walls; and half-way up a storey, where no
    line of the mesh is."""
    solution, (result,) = by_second_order(tower(turn, "# walls", LOADS))
    for results, second in (([solution.results[0]], False), ([result], True)):
        force, moment = storey_forces(solution, results, level)
        left = 2 * h - level
        normal = solution.project.plates.axes[2, 2]
        weight = -25e3 * (0.15 * 8 * left + 4 * 0.12 * left + 0.2 * 48 * (2 if level < h else 1))
        known = np.array([0.0, 0.0, weight - 6e3 * 48 * (2 if level < h else 1)])
        known += np.array([30e3 * (level < h), 72e3, 0.0])
        known[0] += 3e3 * max(h - level, 0.0)
        known += 2e3 * 4 * left * normal
        assert force[:, 0] == pytest.approx(
            known, abs=1e-6 * abs(known[2]) if level in (0.0, h) else 2e-3 * abs(known[2])
        )
        if level == 0.0:
            w = solution.weights(results)
            at = solution.project.xyz[solution.support_node] - np.append(solution.centre[:2], 0.0)
            R = (solution.reaction @ w)[:, :, 0]
            held = -(np.cross(at, R[:, :3]) + R[:, 3:]).sum(axis=0)
            assert moment[:, 0] == pytest.approx(held, abs=1e-6 * np.abs(held).max()), second


@pytest.mark.parametrize("turn", [0.0, 90.0])
def test_centres_of_rigidity_of_slabs(turn):
    """Columns fixed to stiff slabs: k = sum of 12 EI/h^3; one column thrice as wide draws the centre to it. Softer
    slabs turn the columns' ends and give less; a rigid floor on the same nodes gives the same."""
    stiff = 's = { E = "30e5 GPa", G = "12.5e5 GPa", density = "25 kN/m3" }\n[sections]'
    own = tower(turn, loads='{ on = ["low", "top"], area = 1 }').replace("[sections]", stiff, 1)
    own = own.replace('material = "m"\nthickness', 'material = "s"\nthickness').replace(
        "self_weight = 1", "self_weight = 0"
    )
    # So much area that no column gets shorter, and the frame does not bend as a whole.
    sections = "".join(f'{n} = {{ A = "1e4 m2", Iy = {0.4**3 * b / 12!r}, Iz = {0.4 * b**3 / 12!r}, J = "1e-6 m4" }}\n'
                       for n, b in (("c", 0.3), ("d", 0.9)))  # fmt: skip
    own = own.replace('c = { shape = "rectangle", h = "0.4 m", b = "0.3 m" }\n', sections)
    for a, b in ("BM", "MT"):
        own = own.replace(f'{a}3 = "{a}3 > {b}3"', f'{a}3 = {{ between = ["{a}3", "{b}3"], section = "d" }}')

    def found(text):
        model = resolve(*[getattr(read_text(text, "m.toml"), k) for k in ("project", "findings")])
        return storeys(build_equations(model.analysed), model.loads)

    known = found(own)
    along, across = (12 * E / h**3 * np.array([i, i, 3 * i, i]) for i in (0.3 * 0.4**3 / 12, 0.4 * 0.3**3 / 12))
    across[2] = 12 * E / h**3 * 0.4 * 0.9**3 / 12
    # A column's y is global Y: rolled by 90 degrees, along and across change places with x and y.
    k = (along.sum(), across.sum())
    assert known.stiffness[:, 0] == pytest.approx(k[turn != 0] * np.ones(2), rel=1e-2)
    assert known.stiffness[:, 1] == pytest.approx(k[turn == 0] * np.ones(2), rel=1e-2)
    plan = np.array(list(PLAN.values()))
    x_r, y_r = across @ plan[:, 0] / across.sum(), along @ plan[:, 1] / along.sum()
    here = (x_r, y_r) if turn == 0 else (-y_r, x_r)
    assert known.rigidity == pytest.approx(np.tile(here, (2, 1)), abs=2e-2)
    torsion = across @ (plan[:, 0] - x_r) ** 2 + along @ (plan[:, 1] - y_r) ** 2
    assert known.stiffness[:, 2] == pytest.approx(torsion, rel=2e-2)
    assert known.names == ["low", "top"] and known.level == pytest.approx([h, 2 * h])
    assert known.mass == pytest.approx(np.tile((4.0, 3.0) if turn == 0 else (-3.0, 4.0), (2, 1)), abs=1e-9)
    assert known.weight == pytest.approx(48e3, rel=1e-9)
    soft = found(own.replace('material = "s"\nthickness', 'material = "m"\nthickness'))
    assert (soft.stiffness[:, :2] < 0.9 * known.stiffness[:, :2]).all()
    floors = "[diaphragms]\n" + "".join(f'F{n} = {{ nodes = "{n}*" }}\n' for n in "MT")
    rigid = found(own.replace("[[supports]]", floors + "[[supports]]", 1))
    assert rigid.names == ["FM", "FT"]
    assert rigid.stiffness == pytest.approx(known.stiffness, rel=1e-2)


BEAM = """[project]
units = "kN m"
[nodes]
A = [0, 0, 3]
B = [6, 0, 3]
F = [6, 0, 0]
C = [8, 0, 3]
[surfaces.wall]
corners = [[0, -2, 0], [0, 2, 0], [0, 2, 4], [0, -2, 4]]
material = "C30/37"
thickness = "200 mm"
mesh = 0.5
[members.beam]
section = "IPE 300"
material = "S235"
pieces = { b = "A > C" }
[members.col]
section = "HEB 200"
material = "S235"
pieces = { c = "F > B" }
[[supports]]
at = "F"
fix = "fixed"
[[supports]]
along = "wall/1"
fix = "fixed"
[cases]
Q = { action = "live", use = "office" }
[loads]
Q = [ { on = "beam", line = 10 } ]
"""


def test_a_beam_spans_from_a_wall_to_a_column():
    """Not free at the wall, where a span of twice the length would allow twice the deflection; a surface that only
    bends bears nothing."""
    bends = BEAM.replace("thickness", 'acts = "bending"\nthickness')
    for text, known in ((BEAM, ["A to B", "overhang beyond B"]), (bends, ["overhang beyond B", "overhang beyond B"])):
        reading = read_text(text, "m.toml")
        (found,) = stretches(resolve(reading.project, reading.findings).project, [0])
        assert [s.words for s in found] == known and [s.span for s in found] == pytest.approx([6.0, 2.0])
