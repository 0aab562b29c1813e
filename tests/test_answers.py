"""Envelopes, forces at positions, balance: against brute force and hand statics."""

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from build import FIXED, HERE, HINGED, PINNED, RIGID, SECTION, E, at_node, line, named, point, solved, toward
from empuje.core.analysis.pieces import FORCES
from empuje.core.analysis.polynomials import horner, turning_points
from empuje.core.answers.along import forces, member_displacements, node_displacements
from empuje.core.answers.deflection import deflections, largest_deflections
from empuje.core.answers.envelope import envelope, extremes
from empuje.core.answers.reactions import balance, reactions
from empuje.core.model.loads import Position, Settlement
from empuje.core.model.words import Reference
from models import PORTAL

values = st.floats(-5e3, 5e3).map(lambda v: round(v, 1))
share = st.floats(0, 1).map(lambda v: round(v, 3))


@st.composite
def loads_of(draw, case):
    out = []
    for m in range(3):
        a, b = sorted((draw(share), draw(share)))
        way = toward(draw(st.sampled_from([(0, 0, -1), (1, 0, 0), (0, 1, 0), (0.6, 0, 0.8)])), draw(st.booleans()))
        out.append(line(m, draw(values), draw(values), (Position(share=a), Position(share=b)), way, case))
        out.append(point(m, draw(values), 2 * draw(share), draw(st.sampled_from(["force", "moment"])), way, case))
    return out


@settings(max_examples=25, deadline=None, suppress_health_check=[HealthCheck.too_slow])
@given(loads_of("G"), loads_of("Q"), st.tuples(values, values))
def test_envelope_is_brute_force(dead, live, factors):
    """No sample on a fine grid lies outside, and each extreme is met where and when the table says."""
    xyz = [(0, 0, 0), (0.5, 0, 3.5), (4, 2, 4), (4, 3, 0), (2.25, 1, 3.75)]
    members = [(0, 1), (1, 2, {"joints": HINGED + RIGID, "roll": 0.3}), (3, 2)]
    combinations = {"U": {"G": 1.2, "Q": 1.6}, "V": {"G": factors[0] / 1e3, "Q": factors[1] / 1e3}, "W": {"G": 0.9}}
    s = solved(
        xyz, members, {0: FIXED, 3: PINNED, 4: (True,) * 3 + (False,) * 3}, dead + live, combinations=combinations
    )
    names, every = ["U", "V", "W"], np.arange(3)
    found = extremes(s, named(s, names), every)
    grid = [Position(share=x) for x in np.linspace(0, 1, 41)]
    table = forces(s, named(s, names), every, grid, breaks=True)
    for m in range(3):
        rows = table["member"] == f"m/{m}"
        for f, force in enumerate(FORCES):
            sample = table[force][rows]
            size = max(np.abs(table[force]).max(), 1.0)
            low, high = found.forces[m, f, :, f]
            assert low <= sample.min() + 1e-9 * size and high >= sample.max() - 1e-9 * size
            for side in (0, 1):
                x, name = found.x[m, f, side], names[found.result[m, f, side]]
                there = forces(s, named(s, [name]), np.array([m]), [Position(x)])
                assert np.abs(there[force] - found.forces[m, f, side, f]).min() <= 1e-7 * size


def test_concurrent_forces_and_plane_models():
    """A cantilever under two cases: what goes with the largest moment is what acts there and then."""
    loads = [at_node(1, 2e3, case="G"), at_node(1, 3e3, way=toward((1, 0, 0)), case="Q")]
    s = solved(
        [(0, 0, 0), (4, 0, 0)],
        [(0, 1)],
        {0: FIXED},
        loads,
        plane=True,
        combinations={"U": {"G": 1.0, "Q": 1.5}, "V": {"G": 1.2}},
    )
    table = envelope(s, named(s, ["U", "V"]), np.array([0]))
    assert sorted(set(table["of"])) == ["My", "N", "Vz"]
    row = np.flatnonzero((table["of"] == "My") & (table["extreme"] == "min"))[0]
    assert (table["case"][row], table["x"][row]) == ("V", 0.0)
    assert [table[f][row] for f in ("N", "Vz", "My")] == pytest.approx([0, 2400, -9600], abs=1e-6)
    assert np.isnan([table[f][row] for f in ("Vy", "T", "Mz")]).all()
    row = np.flatnonzero((table["of"] == "N") & (table["extreme"] == "max"))[0]
    assert table["N"][row] == pytest.approx(4500) and table["case"][row] == "U"


def test_two_rows_at_a_jump_left_then_right():
    s = solved(
        [(0, 0, 0), (6, 0, 0)],
        [(0, 1, {"joints": HINGED + HINGED})],
        {0: FIXED, 1: FIXED},
        [point(0, 6e3, 2.0), point(0, 3e3, 4.0, "moment", toward((0, 1, 0)))],
    )
    table = forces(s, named(s, ["Q"]), np.array([0]), [Position(2.0), Position(share=2 / 3), Position(1.0)])
    assert table["x"].tolist() == pytest.approx([1, 2, 2, 4, 4])
    # Reactions by moments about the far end: 6 * 4/6 -+ 3/6.
    assert table["Vz"] == pytest.approx([3500, 3500, -2500, -2500, -2500])
    assert table["My"] == pytest.approx([3500, 7000, 7000, 2000, 5000])


def test_displacements_along_a_member_meet_its_nodes():
    s = solved([(0, 0, 0), (1, 2, 3), (3, 3, 3)], [(0, 2, {"roll": 1.0}), (1, 2)], {0: FIXED, 1: FIXED}, [line(0, 900)])
    along = member_displacements(s, named(s, ["Q"]), np.array([0]), [Position(0.0), Position(share=1.0)])
    nodes = node_displacements(s, named(s, ["Q"]), np.array([0, 2]))
    for u in ("ux", "uy", "uz", "rx", "ry", "rz"):
        assert along[u] == pytest.approx(nodes[u], rel=1e-9, abs=1e-15)


def test_balance_names_its_parts():
    """Two posts side by side; sums about the centre of the supports by hand."""
    s = solved(
        [(0, 0, 0), (0, 0, 3), (4, 0, 0), (4, 0, 3)],
        [(0, 1), (2, 3)],
        {0: FIXED, 2: FIXED},
        [at_node(1, 5e3, way=toward((0, 1, 0))), at_node(3, 2e3)],
        combinations={"U": {"Q": 2.0}},
    )
    table = balance(s, named(s, ["Q", "U"]))
    assert table["sum"].tolist() == ["applied", "reactions", "difference"] * 2
    applied = [table[c][3] for c in ("Fx", "Fy", "Fz", "Mx", "My", "Mz")]
    assert applied == pytest.approx([0, 10e3, -4e3, -30e3, 8e3, -20e3])
    assert np.nanmax(table["relative"]) < 1e-12
    one = reactions(s, named(s, ["U"]), np.array([0]))
    assert len(one) == 1 and one["Mx"][0] == pytest.approx(30e3)


def two_spans(extra=(), **options):
    """A beam over three supports, 6 m each, and 2 m beyond the last."""
    xyz = [(0, 0, 0), (6, 0, 0), (12, 0, 0), (14, 0, 0)]
    held = {
        0: (True, True, True, True, False, False),
        1: (False, True, True, False, False, False),
        2: (False, True, True, False, False, False),
    }
    return solved(xyz, options.get("members", [(0, 3)]), held, [*extra])


def test_deflection_of_each_bay_against_its_own_chord():
    """Two spans under an even load, as a propped cantilever: q L^4/(48 EI) (x - 3 x^3 + 2 x^4) at x = (1 + sqrt 33)/16;
    a member over all of it says which span L/across is of."""
    q, L = 4e3, 6.0
    s = two_spans([line(0, q, at=(Position(0.0), Position(12.0)))])
    table = largest_deflections(s, named(s, ["Q"]), np.array([0]), Reference.CHORD)
    x = (1 + 33**0.5) / 16
    most = q * L**4 / (48 * E * SECTION.Iy) * (x - 3 * x**3 + 2 * x**4)
    assert table["span"].tolist() == ["n0 to n1", "n1 to n2", "overhang beyond n2"]
    assert table["across"][:2] == pytest.approx([most, most], rel=1e-9)
    assert table["x"][:2] == pytest.approx([x * L, 12 - x * L], rel=1e-6)
    assert table["L/across"][:2] == pytest.approx([L / most, L / most], rel=1e-9)
    slope = q * L**3 / (48 * E * SECTION.Iy)  # at the outer supports; the overhang stays straight
    assert table["across"][2] == pytest.approx(2 * slope, rel=1e-9) and table["L"][2] == pytest.approx(2.0)
    whole = largest_deflections(s, named(s, ["Q"]), np.array([0]), Reference.WHOLE)
    assert whole["L"].tolist() == [14.0] and whole["span"].tolist() == ["whole member"]
    at = deflections(
        s, named(s, ["Q"]), np.array([0]), Reference.CHORD, [Position(0.3 * L), Position(6.0), Position(14.0)]
    )
    shape = 0.3 - 3 * 0.3**3 + 2 * 0.3**4
    assert at["across"] == pytest.approx([q * L**4 / (48 * E * SECTION.Iy) * shape, 0.0, 2 * slope], abs=1e-12)


def test_supports_that_give_way_take_the_chord_with_them_and_pieces_share_a_bay():
    """A rigid motion of the supports is no deflection; a beam in two pieces has the bay of the whole beam."""
    sink = [Settlement("Q", (n,), (0, 0, -1e-3 * k, 0, 0, 0), "sink", HERE) for n, k in ((0, 1), (1, 4), (2, 7))]
    s = two_spans(sink)
    assert np.abs(largest_deflections(s, named(s, ["Q"]), np.array([0]), Reference.CHORD)["across"][:2]).max() < 1e-12
    xyz = [(0, 0, 0), (2.5, 0, 0), (6, 0, 0)]
    held = {0: (True, True, True, True, False, False), 2: (False, True, True, False, False, False)}
    q = 3e3
    s = solved(xyz, [(0, 1), (1, 2)], held, [line([0, 1], q)])
    table = largest_deflections(s, named(s, ["Q"]), np.array([0, 1]), Reference.CHORD)
    assert table["span"].tolist() == ["n0 to n2"] * 2 and table["L"].tolist() == [6.0, 6.0]
    assert table["across"][1] == pytest.approx(5 * q * 6**4 / (384 * E * SECTION.Iy), rel=1e-9)


def test_words_that_mean_nothing_are_refused_in_python_too(tmp_path):
    import empuje

    (tmp_path / "m.toml").write_text(PORTAL, encoding="utf-8")
    solved_ = empuje.read(tmp_path / "m.toml").solve()
    for call, words in (
        (lambda: solved_.stresses("Normal", on="rafters"), "normal, shear, mises"),
        (lambda: solved_.deflections(on="rafters", against="chrod"), "chord, whole, start, end"),
        (lambda: solved_.bands(on="rafters", stations=0), "two or more"),
        (lambda: solved_.bands(on="rafters", stations=1), "two or more"),
        (lambda: solved_.bands(on="rafters", of="MY"), "N, Vy, Vz, T, My, Mz"),
        (lambda: solved_.envelope(on="rafters", of=["N", "Q"]), "N, Vy, Vz, T, My, Mz"),
    ):
        with pytest.raises(ValueError, match=words):
            call()
    table = empuje.read(tmp_path / "m.toml").combinations()
    assert table.loc[table["combination"] == "U2", ["G", "Q", "W"]].to_numpy().tolist() == [[1.2, 0.5, -1.0]]


@pytest.mark.parametrize("degree", [3, 5, 13])
def test_polynomials_turn_nowhere_else(degree):
    """Ends and turning points hold the greatest and the least of polynomials of any degree, against 4,001 places."""
    rng = np.random.default_rng(degree)
    length = rng.uniform(0.5, 9.0, (40, 2, 6))
    # Shapes in shares of the length, some of which rise or fall all along.
    shares = rng.standard_normal((40, 2, degree + 1, 6)) * rng.choice([0.0, 1.0, 1.0], (40, 2, degree + 1, 1))
    shares[:10] = np.abs(shares[:10])
    c = shares / length[:, :, None] ** np.arange(degree + 1)[:, None]
    places = [np.zeros_like(length), length, *turning_points(c, np.zeros_like(length), length)]
    assert all((t >= 0).all() and (t <= length).all() for t in places)
    found = np.stack([horner(c, t) for t in places])
    s = np.linspace(0, 1, 4001)
    dense = np.einsum("nckr,kt->ncrt", shares, s ** np.arange(degree + 1)[:, None])
    size = np.abs(dense).max(axis=3)
    for mine, theirs in ((found.max(axis=0), dense.max(axis=3)), (-found.min(axis=0), -dense.min(axis=3))):
        assert (mine >= theirs - 1e-9 * size).all() and (mine <= theirs + 1e-4 * size).all()
