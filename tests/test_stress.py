"""Fibre stresses against hand values, first moments against closed forms, and stress-led envelopes against a grid."""

import itertools
import json

import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from build import FIXED, PINNED, line, named, point, solved, toward
from empuje.cli import main
from empuje.core.analysis.pieces import build_pieces
from empuje.core.analysis.polynomials import value_at
from empuje.core.answers.stress import stress_envelope
from empuje.core.answers.stress_fibres import coefficients
from empuje.core.catalogue.catalogue import find_section
from empuje.core.catalogue.fibres import all_fibres, standard_fibres, with_first_moments
from empuje.core.catalogue.shapes import section
from empuje.core.model.moved import mirror_image
from empuje.core.resolve import resolve
from models import PORTAL, project

I = section("i", "I", {"h": 0.4, "b": 0.2, "tw": 0.01, "tf": 0.02})  # noqa: E741


def called(fibres, name):
    return next(f for f in fibres if f.name == name)


def test_shear_of_an_i_section_is_vq_over_it():
    """At the centroid Q = b tf (h - tf)/2 + tw hw^2/8; at the root of the web, on its side of the step, without the web."""
    hw, Q_flange = 0.36, 0.2 * 0.02 * 0.19
    middle = called(all_fibres(I), "middle")
    assert middle.S_y == pytest.approx(Q_flange + 0.01 * hw**2 / 8, rel=1e-12) and middle.t_y == pytest.approx(0.01)
    root = with_first_moments(I, "root", 0.0, hw / 2)
    assert root.S_y == pytest.approx(Q_flange, rel=1e-6) and root.t_y == pytest.approx(0.01)
    V = np.array([0, 0, 250e3, 0, 0, 0])
    inertia = 0.2 * 0.4**3 / 12 - 0.19 * 0.36**3 / 12
    tau = coefficients(I, [middle, root])[1] @ V
    assert tau == pytest.approx([250e3 * middle.S_y / inertia / 0.01, 250e3 * Q_flange / inertia / 0.01], rel=1e-6)
    # Across: both flanges carry it, Q = 2 tf (b/2)^2/2 and the web's half; width 2 tf beside the web.
    beside = with_first_moments(I, "beside", 0.006, 0.0)
    assert (beside.S_z, beside.t_z) == (pytest.approx(0.02 * (0.1**2 - 0.006**2), rel=1e-6), pytest.approx(0.04))


@pytest.mark.parametrize(
    ("shape", "dimensions", "ratio"),
    [("rectangle", {"h": 0.3, "b": 0.1}, 1.5), ("circle", {"d": 0.2}, 4 / 3), ("pipe", {"d": 0.2, "t": 0.001}, 2.0)],
)
def test_shear_at_the_middle_over_its_average(shape, dimensions, ratio):
    s = section("s", shape, dimensions)
    f = called(all_fibres(s), "middle")
    assert f.S_y / (s.Iy * f.t_y) * s.A == pytest.approx(ratio, rel=2e-3 if shape != "pipe" else 1e-2)
    assert f.S_z / (s.Iz * f.t_z) == pytest.approx(f.S_y / (s.Iy * f.t_y), rel=0.01) or shape == "rectangle"


def test_stresses_of_an_unsymmetrical_section_by_hand():
    """A channel of three plates: centroid, Iz and the stress at its four outer corners worked out on paper."""
    h, b, tw, tf = 0.3, 0.1, 0.01, 0.015
    s = section("c", "channel", {"h": h, "b": b, "tw": tw, "tf": tf})
    A = 2 * b * tf + (h - 2 * tf) * tw
    e = (2 * b * tf * b / 2 + (h - 2 * tf) * tw * tw / 2) / A  # from the back of the web
    Iy = (b * h**3 - (b - tw) * (h - 2 * tf) ** 3) / 12
    Iz = 2 * tf * b**3 / 3 + (h - 2 * tf) * tw**3 / 3 - A * e**2
    forces = np.array([120e3, 0, 0, 0, 40e3, -3e3])
    fibres = standard_fibres(s)[:4]
    corners = [(-e, -h / 2), (b - e, -h / 2), (b - e, h / 2), (-e, h / 2)]
    assert [(f.y, f.z) for f in fibres] == [pytest.approx(c, abs=1e-12) for c in corners]
    sigma = [120e3 / A - 40e3 * z / Iy + 3e3 * y / Iz for y, z in corners]
    assert coefficients(s, fibres)[0] @ forces == pytest.approx(sigma, rel=1e-9)


@pytest.mark.parametrize("shape", ["I", "channel", "tee"])
def test_the_root_of_web_and_flange(shape):
    """Bending and shear at once where the fillet ends: sigma and tau by the areas beyond, on paper; a mirror image too."""
    h, b, tw, tf, r = 0.4, 0.18, 0.0086, 0.0135, 0.0
    s = section("s", shape, {"h": h, "b": b, "tw": tw, "tf": tf, "r": r})
    for one in (s, mirror_image(s)):
        root = [f for f in standard_fibres(one) if f.name.startswith("root")][-1]
        top = float(one.outline[0][:, 1].max())
        assert root.z == pytest.approx(top - tf) and root.t_y == pytest.approx(tw, rel=1e-6)
        assert root.S_y == pytest.approx(b * tf * (top - tf / 2), rel=1e-6)
    assert sum(f.name.startswith("root") for f in standard_fibres(s)) == (1 if shape == "tee" else 2)
    rolled = find_section("IPE 400")
    assert [f.z for f in standard_fibres(rolled) if f.name.startswith("root")] == pytest.approx([-0.1655, 0.1655])


def test_corners_of_angles_are_in_principal_axes_and_round_shapes_have_points_all_round():
    angle = section("l", "angle", {"h": 0.1, "b": 0.06, "t": 0.008})
    y, z = np.array([(f.y, f.z) for f in standard_fibres(angle)[:-1]]).T
    assert (
        len(y) == 5
        and max(abs(z)) == pytest.approx(angle.Iy / angle.Wel_y)
        and max(abs(y)) == pytest.approx(angle.Iz / angle.Wel_z)
    )
    pipe = standard_fibres(section("p", "pipe", {"d": 0.1, "t": 0.005}))
    assert len(pipe) == 17 and {round(np.hypot(f.y, f.z), 9) for f in pipe[:-1]} == {0.05}


@pytest.mark.parametrize(
    "name", ["2L 80x80x8 gap 10 mm", "2L 80x60x7", "L 80x80x8", "CFRHS 80x40x8", "UPE 200", "HEB 240"]
)
def test_corners_reach_as_far_as_the_section_and_no_material_means_no_shear(name):
    """Both angles of a pair have corners; at the top edge, and in the gap between the angles, shear is nothing."""
    s = find_section(name)
    points = np.vstack(s.outline)
    at = np.array([(f.y, f.z) for f in standard_fibres(s)[:-1]])
    assert at.min(axis=0) == pytest.approx(points.min(axis=0), abs=1e-9)
    assert at.max(axis=0) == pytest.approx(points.max(axis=0), abs=1e-9)
    top = with_first_moments(s, "top", 0.0, points[:, 1].max())
    share = coefficients(s, [top, called(all_fibres(s), "middle")])
    assert np.isfinite(share).all() and share[1, 0, 2] == 0 and share[1, 1, 2] > 0
    assert (share[2, 1, 1] == 0) == ("10 mm" in name)


@settings(max_examples=15, deadline=None)
@given(st.integers(0, 10**6), st.sampled_from(["normal", "shear", "mises"]))
@example(27194, "shear")  # greatest just beside the end of a piece
def test_the_stress_envelope_is_brute_force(seed, led_by):
    rng = np.random.default_rng(seed)
    way = toward(np.array([0.48, -0.6, -0.64]))
    loads = [line(0, *rng.uniform(-9e3, 9e3, 2), way=way), point(1, 8e3, float(rng.uniform(0.5, 3)), way=way, case="W")]
    factors = {f"U{k}": {c: float(rng.uniform(-1.5, 1.5)) for c in "QW"} for k in range(5)}
    options = {"section": I}
    s = solved(
        [(0, 0, 0), (3, 1, 4), (7, 2, 4)],
        [(0, 1, options), (1, 2, options)],
        {0: FIXED, 2: PINNED},
        loads,
        combinations=factors,
    )
    names = list(factors)
    table = stress_envelope(s, named(s, names), np.arange(2), led_by)
    share, fibres = coefficients(I, all_fibres(I)), [f.name for f in all_fibres(I)]
    pieces = build_pieces(s, np.arange(2), s.weights(named(s, names)))
    piece = np.repeat(np.arange(len(pieces.start)), 201)
    forces = value_at(pieces.force[piece], np.concatenate([np.linspace(0, L, 201) for L in pieces.length]))
    sigma, tau_z, tau_y = np.einsum("sif,pfr->spir", share, forces)
    tau = np.hypot(tau_z, tau_y)
    stress = {"normal": sigma, "shear": tau, "mises": np.sqrt(sigma**2 + 3 * tau**2)}[led_by]
    size = np.abs(stress).max()
    for r in range(len(table)):
        m, f = int(table["member"][r][2:]), fibres.index(table["fibre"][r])
        mine = stress[pieces.member[piece] == m, f]
        found, sign = table[led_by][r], {"min": -1, "max": 1}[table["extreme"][r]]
        assert (sign * mine).max() - 1e-9 * size <= sign * found <= (sign * mine).max() + 1e-3 * size
        six = np.array([table[k][r] for k in ("N", "Vy", "Vz", "T", "My", "Mz")])
        own = share[:, f] @ six
        again = {
            "normal": own[0],
            "shear": np.hypot(*own[1:]),
            "mises": np.sqrt(own[0] ** 2 + 3 * (own[1] ** 2 + own[2] ** 2)),
        }
        assert again[led_by] == pytest.approx(found, rel=1e-6, abs=1e-9 * size)


OWN = PORTAL.replace(
    "[members.columns]",
    """[sections.girder]
shape = "I"
h = "400 mm"
b = "200 mm"
tw = "10 mm"
tf = "20 mm"
fibres = { root = { y = 0, z = "180 mm" } }
[sections.given]
A = "60 cm2"
Iy = "8000 cm4"
Iz = "600 cm4"
J = "20 cm4"
fibres = { top = { y = "50 mm", z = "150 mm" }, web = { y = 0, z = 0, S_y = "300 cm3", t_y = "7 mm" } }
[members.columns]""",
).replace('section = "IPE 300"', 'section = "girder"').replace('section = "HEB 200"', 'section = "given"')  # fmt: skip


def test_fibres_in_the_model_file_and_on_the_command_line(tmp_path, capsys):
    frame = project(OWN)
    given_ = next(m.section for m in frame.members if m.section.name == "given")
    assert coefficients(given_, all_fibres(given_))[0, 0] == pytest.approx(
        [1 / 6e-3, 0, 0, 0, -0.15 / 8e-5, -0.05 / 6e-6]
    )
    assert coefficients(given_, all_fibres(given_))[1, 1, 2] == pytest.approx(3e-4 / 8e-5 / 7e-3)
    (tmp_path / "m.toml").write_text(OWN, encoding="utf-8")
    path = str(tmp_path / "m.toml")
    assert main(["envelope", path, "--led-by", "shear", "--fibre", "root", "--format", "json"]) == 0
    rows = json.loads(capsys.readouterr().out)
    assert (
        {r["fibre"] for r in rows} == {"root"}
        and all("rafters" in r["member"] for r in rows)
        and "shear [MPa]" in rows[0]
    )
    assert main(["envelope", path, "--stations", "3", "--of", "My", "--format", "json"]) == 0
    rows = json.loads(capsys.readouterr().out)
    assert len(rows) == 3 * len(frame.members) and {"min moment [kN*m]", "max case"} <= set(rows[0])
    picture = tmp_path / "band.svg"
    assert main(["draw", path, "band", "--of", "My", "-o", str(picture)]) == 0
    assert "between minimum and maximum" in picture.read_text(encoding="utf-8")
    assert main(["draw", path, "band"]) == 2 and main(["draw", path, "My", "--of", "My"]) == 2
    for words, about in (
        (["--stations", "1"], "--stations"), (["--led-by", "mises", "--fibre", "roof"], "root"), (["--fibre", "root"], "--led-by"),
        (["--led-by", "normal", "--of", "My"], "leave --of"),
    ):  # fmt: skip
        assert main(["envelope", path, *words]) == 2
        assert about in capsys.readouterr().err
    (tmp_path / "m.toml").write_text(OWN.replace('z = "180 mm"', 'z = "280 mm"'), encoding="utf-8")
    assert main(["check", path]) == 1 and "outside its section" in capsys.readouterr().out


@settings(max_examples=15, deadline=None)
@given(st.integers(0, 10**6), st.booleans())
def test_bands_are_brute_force_at_every_station(seed, bent):
    """Both sides of a jump count; in second order every result has polynomials of its own."""
    from dataclasses import replace

    from empuje.core.analysis.solve import solve
    from empuje.core.answers.along import forces
    from empuje.core.answers.bands import bands
    from empuje.core.model.loads import Position

    rng = np.random.default_rng(seed)
    way = toward(np.array([0.48, -0.6, -0.64]))
    loads = [line(0, *rng.uniform(-9e3, 9e3, 2), way=way), point(1, 8e3, np.sqrt(17) / 4, way=way, case="W")]
    factors = {f"U{k}": {c: float(rng.uniform(-1.5, 1.5)) for c in "QW"} for k in range(5)}
    s = solved([(0, 0, 0), (3, 1, 4), (7, 2, 4)], [(0, 1), (1, 2)], {0: FIXED, 2: PINNED}, loads, combinations=factors)
    if bent:
        frame = replace(s.project, second_order=("*",))
        s = solve(resolve(frame))
    names = [n for n in factors if n not in s.failed]
    found = bands(s, named(s, names), np.arange(2), 9)
    assert (np.diff(found.value, axis=3) >= 0).all()
    table = forces(s, named(s, names), np.arange(2), [Position(share=i / 8) for i in range(9)])
    for m, x, f in itertools.product(range(2), range(9), range(6)):
        there = (table["member"] == f"m/{m}") & (np.abs(table["x"] - found.x[m, x]) < 1e-9)
        mine, cases = table[("N", "Vy", "Vz", "T", "My", "Mz")[f]][there], table["case"][there]
        size = np.abs(table[("N", "Vy", "Vz", "T", "My", "Mz")[f]]).max() + 1e-6
        for side, best in ((0, mine.min()), (1, mine.max())):
            assert found.value[m, x, f, side] == pytest.approx(best, abs=1e-9 * size)
            own = mine[cases == names[found.result[m, x, f, side]]]
            assert np.abs(own - best).min() < 1e-9 * size


LEADING = """
[project]
units = "kN m"
[nodes]
A = [0, 0, 0]
B = [6, 0, 0]
[sections.g]
shape = "I"
h = "400 mm"
b = "200 mm"
tw = "10 mm"
tf = "20 mm"
[sections.g.fibres]
tip = { y = "100 mm", z = "200 mm", led_by = "normal" }
web = { y = 0, z = 0, led_by = "shear" }
root = { y = 0, z = "180 mm" }
[members.b]
section = "g"
material = "S355"
pieces = { b = "A > B" }
[[supports]]
at = "A"
fix = "x y z rx"
[[supports]]
at = "B"
fix = "y z rx"
[cases]
G = { action = "dead" }
Q = { action = "live" }
[loads]
G = [ { on = "b", line = 8 } ]
Q = [ { on = "b", line = 12, dir = "+y" } ]
[combinations.custom]
U = "1.2 G"
V = "G + Q"
"""


def test_every_fibre_by_its_own_stress_with_those_beside_it(tmp_path, capsys):
    """The tip at mid-span by M/W of both axes, the web at a support by V S/(I t); and the others there, by hand."""
    path = tmp_path / "m.toml"
    path.write_text(LEADING, encoding="utf-8")
    g = section("g", "I", {"h": 0.4, "b": 0.2, "tw": 0.01, "tf": 0.02})
    assert main(["envelope", str(path), "--led-by", "own", "--format", "json"]) == 0
    rows = json.loads(capsys.readouterr().out)
    told = [(r["fibre"], r["led by"], r["extreme"], r["case"]) for r in rows]
    assert told == [("tip", "normal", "min", "U"), ("tip", "normal", "max", "V"), ("web", "shear", "max", "U")]
    My, Mz = 8e3 * 36 / 8, 12e3 * 36 / 8
    assert rows[0]["stress [MPa]"] == pytest.approx(-1.2 * My * 0.2 / g.Iy / 1e6)
    assert rows[1]["stress [MPa]"] == pytest.approx((-My * 0.2 / g.Iy + Mz * 0.1 / g.Iz) / 1e6)
    S = 0.2 * 0.02 * 0.19 + 0.01 * 0.18**2 / 2
    assert rows[2]["stress [MPa]"] == pytest.approx(1.2 * 24e3 * S / (g.Iy * 0.01) / 1e6)
    main(["envelope", str(path), "--led-by", "normal", "--fibre", "tip,root", "--all-fibres", "--format", "json"])
    rows = json.loads(capsys.readouterr().out)
    beside = {r["at fibre"]: r for r in rows if (r["fibre"], r["extreme"]) == ("tip", "max")}
    assert beside["tip"]["normal there [MPa]"] == pytest.approx((-My * 0.2 / g.Iy + Mz * 0.1 / g.Iz) / 1e6)
    assert beside["root"]["normal there [MPa]"] == pytest.approx(-My * 0.18 / g.Iy / 1e6)
    assert beside["web"]["normal there [MPa]"] == pytest.approx(0, abs=1e-9)
    assert {r["fibre"] for r in rows} == {"tip", "root"}
    main(["envelope", str(path), "--led-by", "shear", "--fibre", "web", "--stations", "5", "--format", "json"])
    rows = json.loads(capsys.readouterr().out)
    full = 1.2 * 24e3 * S / (g.Iy * 0.01) / 1e6
    assert [r["max shear [MPa]"] for r in rows] == pytest.approx([full, full / 2, 0, full / 2, full], abs=1e-9)
    main(["envelope", str(path), "--led-by", "normal", "--fibre", "root", "--stations", "3", "--format", "json"])
    rows = json.loads(capsys.readouterr().out)
    assert (rows[1]["min normal [MPa]"], rows[1]["min case"]) == (pytest.approx(-1.2 * My * 0.18 / g.Iy / 1e6), "U")
    assert main(["envelope", str(path), "--led-by", "own", "--fibre", "root"]) == 2
    assert "says by which stress it leads" in capsys.readouterr().err
    assert (
        main(["envelope", str(path), "--all-fibres"]) == 2
        and main(["envelope", str(path), "--led-by", "own", "--stations", "3"]) == 2
    )
