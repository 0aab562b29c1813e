"""Limits and the verdict: against hand statics, listed patterns, swept positions; and through the installed command."""

import json
import math
from itertools import product
from xml.etree import ElementTree as xml

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from empuje.api import read
from empuje.cli import main
from empuje.core.answers.deflection import extreme_deflections
from empuje.core.model.limits import Bound
from empuje.core.model.words import Holds, Reference
from empuje.study.study import Study
from empuje.study.verdicts import explained, judged
from models import PORTAL, reading
from moving import random_frame, swept

E, IY, W, AREA = 210e9, 8000e-8, 500e-6, 60e-4
BEAM = """
[project]
units = "kN m"
space = "plane"
[nodes]
A = [0, 0]
B = [8, 0]
C = [10, 0]
D = [10, -4]
[materials]
m = { E = "210 GPa", G = "81 GPa" }
[sections.s]
A = "60 cm2"
Iy = "8000 cm4"
Iz = "900 cm4"
J = "40 cm4"
[sections.s.fibres]
top = { y = 0, z = "16 cm", S_y = 0, t_y = "1 cm" }
web = { y = 0, z = 0, S_y = "300 cm3", t_y = "8 mm" }
[members.beams]
section = "s"
material = "m"
pieces = { b = "A > B" }
[members.posts]
section = "s"
material = "m"
pieces = { p = "D > C" }
[[supports]]
at = ["A", "B"]
fix = "x z"
[[supports]]
at = "D"
fix = "fixed"
[cases]
G = { action = "dead" }
Q = { action = "live" }
[loads]
G = [ { on = "beams", line = 4 }, { on = "C", force = 30 } ]
Q = [ { on = "beams", line = 6 }, { on = "C", force = 5, dir = "+x" } ]
[combinations.custom]
U = { formula = "1.2 G + 1.6 Q", set = "strength" }
V = { formula = "0.9 G - Q", set = "strength" }
S = { formula = "G + Q", set = "service" }
"""
q_U, q_S, q_V, L, H = 1.2 * 4 + 1.6 * 6, 10.0, 0.9 * 4 - 6, 8.0, 4.0
SAG = 5 * q_S * 1e3 * L**4 / (384 * E * IY)
SWAY = 5e3 * H**3 / (3 * E * IY)
SIGMA = q_U * 1e3 * L**2 / 8 * 0.16 / IY
TAU = q_U * 1e3 * L / 2 * 300e-6 / (IY * 8e-3)
BY_HAND = [
    # check, its keys, a bound, the governing value in SI, what is used of the bound, the combination, where
    ("reaction", 'at = "*"\nunder = "strength"', 'Fz = "<= 60 kN"', q_U * L / 2 * 1e3, q_U * L / 2 / 60, "U", "A"),
    ("reaction", 'at = ["A", "B"]\nunder = "strength"', 'Fz = ">= -4 kN"', q_V * L / 2 * 1e3, -q_V * L / 2 / 4, "V", "A"),
    ("reaction", 'at = "A"\nunder = "strength"', 'uplift = "8 kN"', -q_V * L / 2 * 1e3, -q_V * L / 2 / 8, "V", "A"),
    ("reaction", 'at = "A"\nunder = "strength"', 'uplift = "none"', -q_V * L / 2 * 1e3, math.inf, "V", "A"),
    ("reaction", 'at = "A"\nunder = "U"', 'uplift = "none"', -q_U * L / 2 * 1e3, 0, "U", "A"),
    ("reaction", 'at = "D"\nunder = "strength"', "H = 10", 8e3, 0.8, "U", "D"),
    ("reaction", 'at = "D"\nunder = "strength"', "H_to_V = 0.25", 8 / 36, 8 / 36 / 0.25, "U", "D"),
    ("reaction", 'at = "D"\nunder = "service"', "H_to_V = 0.25", 5 / 30, 5 / 30 / 0.25, "S", "D"),
    ("reaction", 'at = "D"\nunder = "strength"', 'e_x = "80 cm"', 32 / 36, 32 / 36 / 0.8, "U", "D"),
    ("force", 'on = "beams"\nunder = "strength"', "My = 100", q_U * 8e3, q_U * 8 / 100, "U", "beams/b"),
    ("force", 'on = "beams"\nunder = "strength"', 'My = ">= -25 kN*m"', q_V * 8e3, -q_V * 8 / 25, "V", "beams/b"),
    ("force", 'on = "posts"\nunder = "strength"', "N = [-40, -30]", -27e3, 30 / 27, "V", "posts/p"),
    ("stress", 'on = "beams"\nunder = "strength"\nfibre = "top"', 'normal = "200 MPa"', -SIGMA, SIGMA / 200e6, "U",
     "beams/b, top"),
    ("stress", 'on = "beams"\nunder = "U"', 'shear = "40 MPa"', TAU, TAU / 40e6, "U", "beams/b, web"),
    ("stress", 'on = "beams"\nunder = "U"\nfibre = "web"', 'mises = "100 MPa"', 3**0.5 * TAU, 3**0.5 * TAU / 100e6, "U",
     "beams/b, web"),
    ("deflection", 'on = "beams"\nunder = "service"', 'across = "span/250"', SAG, SAG / (L / 250), "S", "beams/b"),
    ("deflection", 'on = "beams"\nunder = "service"\nspan = "12 m"', 'z = "<= span/300"', 0, 0, "S", "beams/b"),
    ("deflection", 'on = "beams"\nunder = "service"\nspan = "12 m"', 'z = ">= -30 mm"', -SAG, SAG / 0.03, "S", "beams/b"),
    ("deflection", 'on = "beams"\nunder = "Q"', 'z = "span/400"', -0.6 * SAG, 0.6 * SAG / (L / 400), "Q", "beams/b"),
    ("deflection", 'on = "posts"\nunder = "service"\nagainst = "ground"', 'across = "25 mm"', SWAY, SWAY / 0.025, "S",
     "posts/p"),
    ("displacement", 'at = "C"\nunder = "service"', "ux = 0.02", SWAY, SWAY / 0.02, "S", "C"),
    ("displacement", 'at = ["C", "A"]\nunder = "strength"', 'u_level = "2 cm"', 1.6 * SWAY, 80 * SWAY, "U", "C"),
    ("displacement", 'at = "C"\nunder = "service"', 'u = "2 cm"', math.hypot(SWAY, 30e3 * 4 / (E * AREA)),
     50 * math.hypot(SWAY, 30e3 * 4 / (E * AREA)), "S", "C"),
    ("displacement", 'at = "C"\nunder = "service"', 'ry = "3 mrad"', 1.5 * SWAY / H, 1.5 * SWAY / H / 3e-3, "S", "C"),
    ("drift", 'levels = [-4, 0]\nunder = "service"', 'drift = "height/300"', SWAY, SWAY / (H / 300), "S", "D to C"),
    ("drift", 'levels = [-4, 0]\nunder = "V"', 'drift_x = ">= -8 mm"', -SWAY, SWAY / 8e-3, "V", "D to C"),
]  # fmt: skip


def written(cases, text=BEAM):
    parts = [f'[[limits]]\nname = "l{i}"\ncheck = "{check}"\n{keys}\n{bound}' for i, (check, keys, bound, *_) in
             enumerate(cases)]  # fmt: skip
    return text + "\n".join(parts) + "\n"


def study(text, tmp_path):
    path = tmp_path / "m.toml"
    path.write_text(text, encoding="utf-8")
    return Study.read(path, cache=False)


def outcomes(text, tmp_path, **options):
    return judged(study(text, tmp_path), **options).outcomes


def one(check, keys, bound, tmp_path, text=BEAM, **options):
    found = outcomes(written([(check, keys, bound)], text), tmp_path, **options)
    return found if options else found[0]


def test_every_kind_by_hand(tmp_path):
    """Value, share of the bound, combination and place; and shares of the cases that add up to the value."""
    s = study(written(BY_HAND), tmp_path)
    found = {o.limit.name: o for o in judged(s).outcomes}
    for i, (check, _, bound, value, used, case, place) in enumerate(BY_HAND):
        o = found[f"l{i}"]
        told = (check, bound, o)
        assert o.value == pytest.approx(value, rel=1e-9), told
        assert o.used == pytest.approx(used, rel=1e-9), told
        assert (o.case, o.place) == (case, place), told
        assert o.holds == (Holds.FAILS if used > 1 else Holds.NEAR if used >= 0.9 else Holds.PASSES), told
        (first, *_) = explained(s, o)
        assert sum(share.value for share in first.shares) == pytest.approx(first.values[0], rel=1e-9), told
        if not bound.startswith(("H_to_V", "e_")):
            assert first.values[0] == pytest.approx(o.value, rel=1e-9), told
    order = [o.used for o in judged(s).outcomes]
    assert order == sorted(order, reverse=True)


def test_the_critical_load_of_a_cantilever(tmp_path):
    """Euler: pi^2 EI / (4 H^2); at least, whether it says so or not; nothing buckles in tension."""
    alpha = math.pi**2 * E * IY / (4 * H**2) / 36e3
    for bound in (f"alpha_cr = {alpha * 0.9}", f'alpha_cr = ">= {alpha * 0.9}"'):
        o = one("stability", 'under = "strength"', bound, tmp_path)
        assert (o.used, o.case, o.holds) == (pytest.approx(0.9, rel=1e-4), "U", Holds.NEAR)
    o = one("stability", 'under = "P"', "alpha_cr = 5", tmp_path,
            BEAM.replace("[combinations.custom]", '[combinations.custom]\nP = "-1.0 G"'))  # fmt: skip
    assert (o.used, o.holds) == (0, Holds.PASSES)


def test_at_the_bound_and_at_nothing():
    """A rounding beyond a bound still holds, a millionth does not; a bound of nothing; bounds on the far side."""
    at = Bound("x", most=2.0).used(np.array([2 * (1 + 1e-12), 2 * (1 + 1e-6), -5.0]), 5.0)
    assert at[0] == 1 and at[1] > 1 and at[2] == 0
    none = Bound("x", least=0.0).used(np.array([1e-12, -1e-12, -1e-3, 7.0]), 7.0)
    assert none.tolist() == [0, 0, np.inf, 0]
    most = Bound("x", most=-5.0).used(np.array([-10.0, -5.0, -2.0, 3.0]), 10.0)
    assert most.tolist() == [0.5, 1, 2.5, np.inf]


def test_no_number_is_no_pass():
    from empuje.core.model.limits import Limit
    from empuje.core.model.words import LimitKind
    from empuje.core.verdict.found import Found
    from empuje.core.verdict.outcome import judged as judged_at

    bound = Bound("Fz", least=-5.0, most=5.0)
    limit = Limit("x", LimitKind.REACTION, ("U",), (bound,), None)
    found = Found(["A", "B"], np.array([[np.nan, np.nan], [1.0, 2.0]]), lambda row, side: [("U", "summed")] * len(row))
    (worst,) = judged_at(limit, bound, found, False)
    assert (worst.place, worst.holds, worst.failing) == ("A", Holds.FAILS, 1)


SPACE = """
[project]
units = "kip ft"
[nodes]
A = [0, 0, 0]
B = [0, 0, 20]
C = [8.386706, 5.446390, 20]
D = [30, 0, 0]
E = [30, 0, 10]
F = [30, 0, 20]
[members.posts]
section = "W12x58"
material = "A992"
pieces = { p = "A > B", r = "D > F" }
[members.arms]
section = "W12x58"
material = "A992"
pieces = { a = "B > C" }
[members.links]
section = "W12x58"
material = "A992"
ends = "hinged"
pieces = { l = "B > F" }
[[supports]]
at = ["A", "D"]
fix = "fixed"
[cases]
G = { action = "dead" }
W = { action = "wind" }
[loads]
G = [ { on = "C", force = 10 }, { on = "B", force = 26 }, { on = "F", force = 5 } ]
W = [ { on = "C", force = 4, dir = "+x" }, { on = "C", force = 3, dir = "-y" } ]
[combinations.custom]
U = { formula = "1.2 G + W", set = "strength" }
"""


def test_resultants_in_space_turned_and_in_feet(tmp_path):
    """An arm at 33 degrees: horizontal resultant 5 kip at both feet together, each by itself from the reactions."""
    s = study(written([("reaction", 'at = "*"\nunder = "U"', 'H = "3 kip"'), ("reaction", 'at = "A"\nunder = "U"', "e_y = 5"),
                       ("displacement", 'at = "C"\nunder = "U"', 'u = "1 ft"'),
                       ("drift", 'under = "U"\nlevels = [0, 20]\nstorey = "mean"', 'drift = "height/200"'),
                       ("drift", 'under = "U"\nlevels = [0, 10, 20]', 'drift = "height/200"'),
                       ("deflection", 'on = "arms"\nunder = "U"\nagainst = "ground"', 'across = "1 ft"')], SPACE), tmp_path)  # fmt: skip
    solution = s.solution()
    weights = solution.weights(s.under(["U"]))
    reaction = (solution.reaction @ weights)[:, :, 0]
    moved = (solution.displacement @ weights)[:, :, 0]
    nodes = {n.name: i for i, n in enumerate(s.project.nodes)}
    found = {o.limit.name: o for o in judged(s).outcomes}
    assert np.abs(reaction[:, :2].sum(axis=0)) / 4448.2216 == pytest.approx([4, 3], rel=1e-6)
    level = np.hypot(*reaction[:, :2].T)
    assert found["l0"].value == pytest.approx(level.max(), rel=1e-12)
    assert found["l1"].value == pytest.approx(abs(reaction[0, 3] / reaction[0, 2]), rel=1e-12)
    assert found["l2"].value == pytest.approx(np.linalg.norm(moved[nodes["C"], :3]), rel=1e-12)
    lines = moved[[nodes["B"], nodes["F"]], :2]
    assert found["l3"].value == pytest.approx(np.linalg.norm(lines.mean(axis=0)), rel=1e-12)
    # The line over D has a node half-way, the one over A has none: it is followed past that level.
    each = {
        "A to B": (lines[0], 20),
        "D to E": (moved[nodes["E"], :2], 10),
        "E to F": (lines[1] - moved[nodes["E"], :2], 10),
    }
    worst = max(each, key=lambda k: np.linalg.norm(each[k][0]) / each[k][1])
    assert (found["l4"].place, found["l4"].value) == (worst, pytest.approx(np.linalg.norm(each[worst][0])))
    assert len(one("drift", 'under = "U"\nlevels = [0, 10, 20]', "drift = 1", tmp_path, SPACE, every=True)) == 3
    axes = s.project.axes[[m.name for m in s.project.members].index("arms/a")]
    across = np.linalg.norm(axes[1:] @ moved[nodes["C"], :3])
    assert found["l5"].value == pytest.approx(across, rel=1e-9)
    for o in found.values():
        for why in explained(s, o):
            assert sum(share.value for share in why.shares) == pytest.approx(why.values[0], rel=1e-9)


def test_a_foot_that_presses_nothing_and_is_pushed(tmp_path):
    """Of two results under which a foot presses nothing one pushes it sideways: its ratio is beyond any bound, whichever
    of them comes first."""
    for first, second in ("PR", "RP"):
        text = BEAM.replace("[loads]", """P = { action = "live" }
R = { action = "live" }
[loads]
P = [ { on = "A", force = 4, dir = "+x" } ]
R = [ { on = "D", force = 1 } ]""")  # fmt: skip
        text += (
            f'one = {{ formula = "{first}", set = "stability" }}\ntwo = {{ formula = "{second}", set = "stability" }}\n'
        )
        o = one("reaction", 'at = "A"\nunder = "stability"', "H_to_V = 0.5", tmp_path, text)
        assert np.isinf(o.used) and o.holds == Holds.FAILS


FLOOR = """
[project]
units = "kN m"
[grid]
x = { A = 0, B = 5, C = 9 }
y = { 1 = 0, 2 = 6 }
z = { base = 0, top = 4 }
[members.posts]
section = "HEB 200"
material = "S235"
runs = ["A..C / 1,2 / base>top"]
[members.beams]
section = "IPE 300"
material = "S235"
ends = "hinged"
runs = ["A>>C / 1,2 / top", "A..C / 1>2 / top"]
[[supports]]
at = "*@base"
fix = "fixed"
[[supports]]
at = ["C1@base", "C2@base"]
settle = { case = "SET", z = "-18 mm", x = 0 }
[[supports]]
at = ["B1@base", "B2@base"]
settle = { case = "SET", z = "-10 mm" }
[[supports]]
at = ["A2@base", "B2@base", "C2@base"]
settle = { case = "SEZ", z = "-24 mm" }
[surfaces.slab]
corners = ["A1@top", "C1@top", "C2@top", "A2@top"]
deck = "x"
[diaphragms]
floor = { nodes = "*@top" }
[cases]
SET = { action = "settlement" }
SEZ = { action = "settlement" }
"""


def test_a_floor_tilts_with_its_feet(tmp_path):
    """Feet that sink by 2 mm a metre along x: 1/500; then 4 mm a metre along y, and both at once."""
    keys = 'on = ["floor", "slab"]\nunder = "cases"'
    found = one("tilt", keys, 'tilt = "1/200"', tmp_path, FLOOR, every=True)
    assert {o.place for o in found} == {"floor", "slab"} and {o.case for o in found} == {"SEZ"}
    assert [o.value for o in found] == pytest.approx([24 / 6000] * 2, rel=1e-3)
    both = FLOOR + '[combinations.custom]\nboth = "SET + SEZ"\n'
    o = one("tilt", keys.replace("cases", "both"), 'tilt = "5 mrad"', tmp_path, both)
    assert o.value == pytest.approx(math.hypot(0.002, 0.004), rel=1e-3)


def patterns_model(rng, n):
    """A beam over n spans with a live case in patterns on each, sloping in plan so that it bends two ways."""
    x = np.cumsum([0.0, *rng.uniform(3, 7, n)])
    nodes = "\n".join(f"n{i} = [{v}, 0, 0]" for i, v in enumerate(x))
    cases = "\n".join(f'L{i} = {{ action = "live", use = "offices", pattern = true }}' for i in range(n))
    loads = "\n".join(
        f'L{i} = [ {{ on = "b", line = {rng.uniform(2, 9):.3f}, from = {x[i]}, to = {x[i + 1]} }}, {{ on = "n{min(i + 1, n)}", '
        f'force = {rng.uniform(1, 5):.3f}, dir = "+y" }}, {{ on = "b", line = {rng.uniform(-4, 4):.3f}, dir = "+y", '
        f"from = {x[i]}, to = {x[i + 1]} }} ]"
        for i in range(n)
    )
    return f"""
[project]
units = "kN m"
[nodes]
{nodes}
[members.b]
section = "HEB 200"
material = "S235"
pieces = {{ b = "n0 > n{n}" }}
[[supports]]
at = "n*"
fix = "y z rx"
[[supports]]
at = "n0"
fix = "x"
[cases]
G = {{ action = "dead" }}
{cases}
[loads]
G = [ {{ on = "b", line = 3 }} ]
{loads}
[combinations]
rules = ["ASCE 7-22 service"]
"""


@settings(max_examples=8, deadline=None)
@given(st.integers(0, 10**6), st.integers(2, 4))
def test_patterns_without_listing_them_equal_the_list(seed, n):
    """Horizontal resultants, ratios and deflections over all patterns, against each pattern by itself."""
    import tempfile
    from pathlib import Path

    rng = np.random.default_rng(seed)
    cases = [("reaction", 'at = "n*"\nunder = "service"', "H = 5"), ("reaction", 'at = "n1"\nunder = "service"', "H_to_V = 0.5"),
             ("deflection", 'on = "b"\nunder = "service"', 'across = "span/300"'),
             ("displacement", 'at = "n*"\nunder = "service"', 'rz = "1 mrad"')]  # fmt: skip
    with tempfile.TemporaryDirectory() as folder:
        s = study(written(cases, patterns_model(rng, n)), Path(folder))
        found = {o.limit.name: o for o in judged(s).outcomes}
        explained(s, found["l2"])
    solution = s.solution()
    results = s.under(["service"])
    columns = []
    for r in results:
        for absent in product((False, True), repeat=len(r.free)):
            gone = {c for c, a in zip(r.free, absent, strict=True) if a}
            column = np.zeros(len(solution.weights([r])))
            for case, factor in r.factors:
                column[s.project.case_names.index(case)] += 0.0 if case in gone else factor
            columns.append(column)
    weights = np.column_stack(columns)
    assert any(r.free for r in results)
    reaction = solution.reaction @ weights
    assert found["l0"].value == pytest.approx(np.hypot(reaction[:, 0], reaction[:, 1]).max(), rel=1e-9)
    at = s.project.nodes.index(next(k for k in s.project.nodes if k.name == "n1"))
    own = reaction[solution.support_node.tolist().index(at)]
    ratio = np.hypot(own[0], own[1]) / own[2]
    if (own[2] > 1).all():
        assert found["l1"].value == pytest.approx(ratio.max(), rel=1e-9)
    else:
        assert np.isinf(found["l1"].value)
    assert found["l2"].place.split(", ")[1] in [f"n{i} to n{i + 1}" for i in range(n)]
    listed = extreme_deflections(solution, weights, np.array([0]), Reference.CHORD)
    used = listed.value[:, 0, 1] / (listed.span / 300)
    assert found["l2"].used == pytest.approx(used.max(), rel=1e-7)
    turned = np.abs(solution.displacement[:, 5] @ weights).max()
    assert abs(found["l3"].value) == pytest.approx(turned, rel=1e-9)


@pytest.mark.parametrize("seed", [1, 4, 9])
def test_over_positions_against_sweeps(seed, tmp_path):
    """No position of a sweep exceeds what the limits found, and the best of it comes within a hundredth."""
    text = random_frame(seed)
    keys = 'under = "C2"'
    cases = [("reaction", f'at = "*@b"\n{keys}', "H = 50"), ("reaction", f'at = "*@b"\n{keys}', "H_to_V = 1"),
             ("displacement", f'at = "*@t"\n{keys}', "u = 0.01"), ("drift", keys, 'drift = "height/300"'),
             ("deflection", f'on = "beams"\n{keys}', 'across = "span/300"')]  # fmt: skip
    s = study(written(cases, text), tmp_path)
    solution = s.solution()
    results = s.under(["C2"])
    still = solution.weights(results, still=True)[:, 0]
    lengths, ratios, moves = [], [], []
    top = [i for i, n in enumerate(s.project.nodes) if n.name.endswith("@t")]
    factor = dict(results[0].factors)["T"]
    for put, count in swept(s, solution, 400):
        reaction = (solution.reaction @ still)[:, :, None] + factor * put.reaction[:, :, :count]
        moved = (solution.displacement @ still)[:, :, None] + factor * put.displacement[
            : len(solution.displacement), :, :count
        ]
        lengths.append(np.hypot(reaction[:, 0], reaction[:, 1]).max())
        ratios.append(
            np.where(reaction[:, 2] > 0, np.hypot(reaction[:, 0], reaction[:, 1]) / reaction[:, 2], np.inf).max()
        )
        moves.append(np.linalg.norm(moved[top][:, :3], axis=1).max())
    found = {o.limit.name: o for o in judged(s).outcomes}
    for name, swept_values in ("l0", lengths), ("l1", ratios), ("l2", moves):
        best = max(swept_values)
        assert found[name].value >= best * (1 - 1e-9), name
        assert found[name].value <= best * 1.01 or np.isinf(best), name
    for o in found.values():
        if np.isfinite(o.used):
            for why in explained(s, o):
                assert sum(share.value for share in why.shares) == pytest.approx(why.values[0], rel=1e-7)


def test_nothing_is_skipped(tmp_path):
    """What matches nothing, or has no answer, fails: supports that are none, fibres that are not there, slack frames."""
    lost = [
        ("reaction", 'at = "C"\nunder = "U"', "Fz = 1", "none of them is a support"),
        ("reaction", 'at = "A"\nunder = "U"', "My = 1", "none of them gives My"),
        ("stress", 'on = ["beams", "posts"]\nunder = "U"\nfibre = "bottom"', "normal = 1e9", "has no fibre bottom"),
        ("reaction", 'at = "A"\nunder = "snow-*"', "Fz = 1", "snow-*"),
        ("drift", 'under = "U"\nlevels = [0, 3]', "drift = 1", "no plumb line"),
        ("force", 'on = "beams"\nunder = "E*"', "My = 1e9", "unstable"),
    ]
    text = BEAM.replace(
        'at = ["A", "B"]\nfix = "x z"', 'at = "A"\nfix = "x z"\n[[supports]]\nat = "B"\nfix = "z"\nlift = true'
    )
    text = text.replace("[combinations.custom]", '[combinations.custom]\nE1 = "G"\nE2 = "-1.0 G"')
    s = study(written(lost, text), tmp_path)
    found = judged(s).outcomes
    assert judged(s).fails and [o.limit.name for o in found if not o.fails] == ["l5"]  # what E1 makes of it
    for i, (*_, words) in enumerate(lost):
        own = [o for o in found if o.limit.name == f"l{i}" and o.holds == Holds.UNANSWERED]
        assert own and all(words in o.reason for o in own), words
    # Sections without fibres beside one that has them.
    bare = text.replace("[members.posts]\nsection", '[sections.t]\nA = 1e-3\nIy = 1e-5\nIz = 1e-5\nJ = 1e-5\n[members.posts]\nsection').replace(
        'section = "s"\nmaterial = "m"\npieces = { p', 'section = "t"\nmaterial = "m"\npieces = { p')  # fmt: skip
    found = one("stress", 'on = ["beams", "posts"]\nunder = "U"', 'normal = "400 MPa"', tmp_path, bare, every=True)
    assert [o.place for o in found if o.fails] == ["posts/p"] and len(found) == 3


def test_beyond_the_critical_load_there_is_no_verdict_but_a_failure(tmp_path):
    text = BEAM.replace('space = "plane"', 'space = "plane"\nanalysis = "second-order"').replace(
        "force = 30", "force = 4000"
    )
    found = judged(study(written([("stability", 'under = "U"', "alpha_cr = 2"), ("force", 'on = "posts"\nunder = "strength"', "N = 9000")],
                                 text), tmp_path)).outcomes  # fmt: skip
    assert {o.limit.name for o in found if o.holds == Holds.UNANSWERED} == {"l0", "l1"}


WRONG = [
    ('check = "reaction"\nat = "A"\nunder = "U"', "missing-key", "bounds nothing"),
    ('check = "reaction"\nat = "A"\nunder = "U"\nFz = "12 m"', "bad-bound", "is a length, not a force"),
    ('check = "reaction"\nat = "A"\nunder = "U"\nFz = "< 12 kN"', "bad-bound", "cannot hold '<'"),
    ('check = "reaction"\nat = "A"\nunder = "U"\nFz = [5, 2]', "bad-bound", "not below the most"),
    ('check = "reaction"\nat = "A"\nunder = "U"\nFz = [1, 2, 3]', "bad-bound", "write [least, most]"),
    ('check = "reaction"\nat = "A"\nunder = "U"\nFz = -5', "bad-bound", "a magnitude is not negative"),
    ('check = "reaction"\nat = "A"\nunder = "U"\nFz = "none"', "bad-bound", "holds no number"),
    ('check = "reaction"\nat = "Z9"\nunder = "U"\nFz = 1', "matches-nothing", "no node is called Z9"),
    ('check = "reaction"\nat = "A"\nunder = "U"\nFy = 1', "wrong-key", "a plane model has no Fy"),
    ('check = "reaction"\nat = "A"\nunder = "U"\nuz = 1', "unknown-key", "unknown key `uz`"),
    ('check = "reaction"\nat = "A"\nFz = 1', "missing-key", "no `under`"),
    ('check = "reaction"\nunder = "U"\nFz = 1', "missing-key", "no `at`"),
    ('check = "crack"\nunder = "U"\nFz = 1', "unknown-word", "crack"),
    ('check = "deflection"\non = "beams"\nunder = "U"\nacross = "height/300"', "bad-bound", 'write "span/300"'),
    ('check = "deflection"\non = "beams"\nunder = "U"\nacross = "span/0"', "bad-bound", "span/300"),
    ('check = "deflection"\non = "beams"\nunder = "U"\nspan = 0\nacross = "span/300"', "bad-quantity", "a span is a length"),
    ('check = "force"\non = "beams"\nunder = "U"\nN = "span/300"', "bad-bound", "write a value with its unit"),
    ('check = "drift"\nunder = "U"\ndrift = 1', "bad-levels", "two different levels"),
    ('check = "drift"\nunder = "U"\nlevels = ["roof", 0]\ndrift = 1', "bad-quantity", "roof"),
    ('check = "tilt"\nunder = "U"\non = "slab"\ntilt = 1', "matches-nothing", "no rigid floor or surface"),
    ('check = "reaction"\nat = "A"\nunder = "U"\nFz = 1\nwarn_at = 1.2', "bad-quantity", "share of the bound"),
]  # fmt: skip


@pytest.mark.parametrize(("text", "code", "words"), WRONG)
def test_slips_are_found_where_they_stand(text, code, words):
    found = [f for f in reading(f'{BEAM}[[limits]]\nname = "x"\n{text}\n').findings if f.level == "error"]
    assert [f.code for f in found] == [code] and words in str(found[0]), list(map(str, found))
    assert found[0].place.line > BEAM.count("\n")


def test_limits_have_names_of_their_own_and_say_where_nothing_is_meant(tmp_path):
    twice = '[[limits]]\nname = "x"\ncheck = "reaction"\nat = "A"\nunder = "nowhere"\nFz = 1\n' * 2
    assert [f.code for f in reading(BEAM + twice).findings if f.level == "error"] == ["name-clash"]
    s = study(BEAM + twice[: len(twice) // 2], tmp_path)
    assert [(f.level, f.code) for f in s.findings if "nowhere" in f.message] == [("warning", "limit-of-nothing")]


def test_the_command_and_what_it_writes(tmp_path, capsys, monkeypatch):
    monkeypatch.chdir(tmp_path)
    text = written([BY_HAND[0], BY_HAND[5], BY_HAND[15]], BEAM)
    (tmp_path / "m.toml").write_text(text.replace('"<= 60 kN"', '"<= 50 kN"'), encoding="utf-8")
    assert main(["verdict", "m.toml"]) == 1
    out = capsys.readouterr().out
    assert (
        out.splitlines()[2].split()[:4] == ["l0", "Fz", "fails", "1.152"]
        and "3 limits, 3 bounds: 1 not met, 1 near, 1 met." in out
    )
    assert main(["verdict", "m.toml", "--limit", "l1,l2"]) == 0
    assert "l0" not in capsys.readouterr().out
    main(["verdict", "m.toml", "--format", "json"])
    rows = json.loads(capsys.readouterr().out)
    assert rows[0]["value"] == pytest.approx(57.6) and rows[0]["bound"] == 50 and rows[0]["unit"] == "kN"
    assert rows[0]["source"] == f"m.toml:{text[: text.index('[[limits]]')].count(chr(10)) + 1}"
    assert main(["verdict", "m.toml", "-o", "v.xml"]) == 1
    root = xml.parse(tmp_path / "v.xml").getroot()
    suite = root.find("testsuite")
    assert (suite.get("tests"), suite.get("failures"), suite.get("errors")) == ("3", "1", "0")
    assert [c.get("name") for c in suite if c.find("failure") is not None] == ["l0: Fz"]
    capsys.readouterr()
    assert main(["verdict", "m.toml", "--all", "--format", "md"]) == 1
    assert "| l0 | Fz | fails | 1.152 | 57.6 kN | &lt;= 50 kN | A |" in capsys.readouterr().out
    assert main(["why", "m.toml", "--limit", "l0"]) == 0
    out = capsys.readouterr().out
    assert "A: Fz = 57.600 kN under U (summed)" in out and "The parts add up to the value" in out
    assert main(["run", "m.toml", "--no-pictures"]) == 1
    assert "Not all limits are met" in capsys.readouterr().out
    assert "## Does it pass?" in (tmp_path / "m-results" / "summary.md").read_text(encoding="utf-8")
    assert {"verdict.csv", "verdict.xml"} <= {p.name for p in (tmp_path / "m-results").iterdir()}
    for words, told in (
        (["verdict", "m.toml", "--limit", "l9"], "no limit is called l9"),
        (["why", "m.toml", "--limit", "l0", "--of", "Mx"], "bounds Fz"),
        (["why", "m.toml", "--limit", "l0", "--on", "A"], "goes with --of alone"),
        (["why", "m.toml", "--on", "A"], "--on and --of"),
    ):
        assert main(words) == 2 and told in capsys.readouterr().err
    (tmp_path / "p.toml").write_text(PORTAL, encoding="utf-8")
    assert main(["verdict", "p.toml"]) == 2 and "has no limits" in capsys.readouterr().err
    table = read("m.toml").solve().verdict("l1")
    assert table["utilisation"].tolist() == pytest.approx([0.8])
