"""Members and supports that act one way only: by hand statics, and against every possible set of slack parts."""

from dataclasses import replace
from itertools import product

import numpy as np
import pytest

from build import FIXED, HERE, HINGED, PINNED, SECTION, E, at_node, inside, line, named, point, project, toward
from empuje.cli import main
from empuje.core.analysis.solve import Unstable, solve
from empuje.core.analysis.unilateral import complementary, slacks
from empuje.core.answers.envelope import extremes
from empuje.core.answers.reactions import closing_error, reactions
from empuje.core.model.frame import Support
from empuje.core.model.loads import Position
from empuje.core.resolve import resolve
from models import PORTAL, reading, solution

NEAR = 1e-9
BAR = {"joints": HINGED + HINGED, "bar": True}
TIE, STRUT = BAR | {"acts": "tension"}, BAR | {"acts": "compression"}
RIGHT = toward((1, 0, 0))
BAY = [(0, 0, 0), (0, 0, 3), (4, 0, 3), (4, 0, 0)]


def run(xyz, members, supports, loads, lift=(), **options):
    frame = project(xyz, members, supports, loads, plane=True, **options)
    more = tuple(replace(s, lift=True) if s.node in lift else s for s in frame.supports)
    frame = replace(frame, supports=more)
    return solve(resolve(frame))


def braced_bay(diagonal, combinations):
    """Posts, a beam and two crossed diagonals, all hinged; equal and opposite pushes at the eaves, one a case."""
    members = [(0, 1, BAR), (1, 2, BAR), (2, 3, BAR), (0, 2, diagonal), (3, 1, diagonal)]
    loads = [at_node(1, 10e3, way=RIGHT, case="L"), at_node(2, -10e3, way=RIGHT, case="R")]
    return run(BAY, members, {0: PINNED, 3: PINNED}, loads, combinations=combinations)


def test_crossed_ties_and_opposite_pushes():
    """Each case alone pulls one tie with H / cos; both together leave the ties and the posts at zero."""
    s = braced_bay(TIE, {"both": {"L": 1.0, "R": 1.0}, "half": {"L": 1.0, "R": 0.5}})
    pull = 10e3 * 5 / 4

    def forces(name):
        return [inside(s, m, 1.0, case=name)[0] for m in range(5)]

    # Pushed to the right, the tie from the left foot pulls; its upper end presses the right post.
    assert forces("L")[:3] == pytest.approx([0, -10e3, -pull * 3 / 5], rel=NEAR, abs=1e-6)
    assert forces("L")[3:] == pytest.approx([pull, 0], rel=NEAR, abs=1e-6)
    assert forces("R")[3:] == pytest.approx([0, pull], rel=NEAR, abs=1e-6)
    assert forces("both") == pytest.approx([0, -10e3, 0, 0, 0], rel=NEAR, abs=1e-6)
    # Half of the second push leaves half a push to the right: summed, the second tie would hold half a pull too.
    assert forces("half")[3:] == pytest.approx([pull / 2, 0], rel=NEAR, abs=1e-6)
    assert set(s.how(named(s, ["both"]))) == {"as one"} and set(reactions(s, named(s, ["both"]))["how"]) == {"as one"}
    assert closing_error(s, named(s, ["L", "R", "both", "half"])).max() < 1e-12
    found = extremes(s, named(s, ["both", "half"]), np.array([3]))
    assert found.forces[0, 0, 1, 0] == pytest.approx(pull / 2, rel=NEAR) and found.result[0, 0, 1] == 1


def test_crossed_struts_take_the_other_diagonal():
    s = braced_bay(STRUT, {})
    assert [inside(s, m, 1.0, case="L")[0] for m in (3, 4)] == pytest.approx([0, -12.5e3], rel=NEAR, abs=1e-6)


def test_what_acts_both_ways_is_still_summed():
    s = braced_bay(BAR, {"both": {"L": 1.0, "R": 1.0}})
    assert set(s.how(s.results)) == {"summed"}
    assert inside(s, 3, 1.0, case="L")[0] > 0 > inside(s, 4, 1.0, case="L")[0]


def test_a_support_lifts_off():
    """Load on the first of two spans: the far support lets go, the rest is a simple beam; gap = P L^3 / 16 EI."""
    L, P = 5.0, 8e3
    held = {0: PINNED, 1: (False, True, True, False, False, False), 2: (False, True, True, False, False, False)}
    loads = [point(0, P, L / 2), line(0, 1e3, case="G")]
    s = run([(0, 0, 0), (L, 0, 0), (2 * L, 0, 0)], [(0, 2)], held, loads, lift=(1, 2),
            combinations={"U": {"Q": 1.0, "G": 1.0}})  # fmt: skip
    Q, G, U = (s.reaction[:, 2] @ s.weights(named(s, [n]))[:, 0] for n in ("Q", "G", "U"))
    assert pytest.approx([P / 2, P / 2, 0], rel=NEAR, abs=1e-6) == Q
    gap = (s.displacement[2, 2] @ s.weights(named(s, ["Q"])))[0]
    assert gap == pytest.approx(P * L**3 / (16 * E * SECTION.Iy), rel=NEAR)
    # Even load presses all three down, as a continuous beam; with it the far support stays put under both.
    assert pytest.approx(np.array([3 / 8, 10 / 8, 3 / 8]) * 1e3 * L, rel=NEAR) == G
    assert pytest.approx(G + P * np.array([13, 22, -3]) / 32, rel=NEAR) == U


def test_a_spring_that_can_only_push():
    """A post on a lift-off spring: pressed it sinks by P/k, pulled it hangs from its beam."""
    k, P, L = 5e6, 4e3, 3.0
    held = {0: FIXED, 1: (False, True, False, True, False, True)}
    frame = project([(0, 0, 0), (L, 0, 0)], [(0, 1)], held, [at_node(1, P), at_node(1, -P, case="up")], plane=True)
    spring = Support(1, (False,) * 6, HERE, (0, 0, k, 0, 0, 0), True)
    frame = replace(frame, supports=(*frame.supports, spring))
    s = solve(resolve(frame))
    own = 3 * E * SECTION.Iy / L**3
    u = [(s.displacement[1, 2] @ s.weights(named(s, [n])))[0] for n in ("Q", "up")]
    assert u == pytest.approx([-P / (own + k), P / own], rel=NEAR)


def test_no_stable_answer_is_named_and_the_others_still_finish():
    """One tie only, pushed the wrong way: the frame falls; the push the other way stands."""
    members = [(0, 1, BAR), (1, 2, BAR), (2, 3, BAR), (0, 2, TIE)]
    loads = [at_node(1, 10e3, way=RIGHT, case="L"), at_node(1, -10e3, way=RIGHT, case="wrong")]
    s = run(BAY, members, {0: PINNED, 3: PINNED}, loads, combinations={"U": {"L": 1.2, "wrong": 1.0}})
    assert [r.name for r in s.failed] == ["wrong"]
    assert "under wrong the frame is unstable when m/3 do not act" in str(s.failed[named(s, "wrong")])
    assert inside(s, 3, 1.0, case="U")[0] == pytest.approx(2e3 * 5 / 4, rel=NEAR)


def test_a_frame_loose_even_with_all_ties_is_a_mechanism():
    with pytest.raises(Unstable):
        run(BAY, [(0, 1, BAR), (1, 2, TIE), (2, 3, BAR)], {0: PINNED, 3: PINNED}, [at_node(1, 1e3, way=RIGHT)])


@pytest.mark.parametrize("seed", range(8))
def test_against_every_set_of_slack_ties(seed):
    """A braced two-bay frame under random loads: of all 2^6 frames with some ties removed one is consistent; it is ours."""
    rng = np.random.default_rng(seed)
    xyz = [(4.0 * i, 0, 3.0 * k) for i in range(3) for k in range(3)]
    posts = [(3 * i + k, 3 * i + k + 1) for i in range(3) for k in range(2)]
    beams = [(3 * i + k, 3 * i + 3 + k, BAR) for i in range(2) for k in (1, 2)]
    ties = [(3 * i + k, 3 * i + 4 + k) for i in range(2) for k in range(2)] + [(1, 3), (5, 7)]
    loads = [at_node(n, 1.0, way=toward(rng.normal(size=3) * [1e4, 0, 1e4])) for n in (1, 2, 4, 5, 7, 8)]
    loads += [line(m, rng.uniform(-3e3, 3e3)) for m in range(6)]
    held = {0: FIXED, 3: FIXED, 6: PINNED}

    def frame(diagonals):
        return run(xyz, [*posts, *beams, *diagonals], held, loads)

    first = len(posts) + len(beams)
    ours = frame([(a, b, TIE) for a, b in ties])
    N = np.array([inside(ours, first + i, 1.0)[0] for i in range(6)])
    size = np.abs(ours.displacement @ ours.weights(named(ours, ["Q"]))).max()
    consistent = 0
    for acting in product((False, True), repeat=6):
        s = frame([(a, b, BAR) for (a, b), on in zip(ties, acting, strict=True) if on])
        forces = [inside(s, first + i, 1.0)[0] for i in range(sum(acting))]
        d = s.displacement[:, [0, 2], 0]
        length = [np.hypot(*(np.array(xyz[b]) - xyz[a])[[0, 2]]) for a, b in ties]
        along = [(np.array(xyz[b]) - xyz[a])[[0, 2]] / n for (a, b), n in zip(ties, length, strict=True)]
        stretch = [(d[b] - d[a]) @ x for (a, b), x in zip(ties, along, strict=True)]
        if min(forces, default=0) > 0 and all(g <= 0 for g, on in zip(stretch, acting, strict=True) if not on):
            consistent += 1
            mine = (ours.displacement @ ours.weights(named(ours, ["Q"])))[:, [0, 2], 0]
            assert np.abs(mine - d).max() < 1e-8 * size
            assert ((N > 1.0) == np.array(acting)).all()
    assert consistent == 1


@pytest.mark.parametrize("n", [1, 6, 60, 200])
def test_complementarity_on_random_matrices(n):
    rng = np.random.default_rng(n)
    for _ in range(5):
        root = rng.normal(size=(n, n + 3))
        C, q = root @ root.T / n, rng.normal(size=n)
        z, stable = complementary(C, q)
        w = q + C @ z
        assert stable and z.min() >= 0 and w.min() > -1e-8 and np.abs(z * w).max() < 1e-8


def test_what_is_tried_first_does_not_matter():
    """Slacks >= 0 with forces >= 0, only one of them not 0, whatever parts were thought to be slack."""
    rng = np.random.default_rng(4)
    root = rng.normal(size=(7, 9))
    C, t0, weight = root @ root.T, rng.normal(size=(7, 12)), rng.uniform(0.5, 2, 7)
    right = slacks(t0, np.abs(t0), C, weight)[0] > 0
    for tried in (
        right,
        ~right,
        np.where(np.arange(12) % 3, right, rng.random((7, 12)) < 0.5),
        right * 0 > 0,
        right * 0 == 0,
    ):
        s, failed = slacks(t0, np.abs(t0), C, weight, tried)
        w = t0 + C @ s
        assert not failed and s.min() >= 0 and w.min() > -1e-9 and np.abs(s * w).max() < 1e-9


def test_an_own_load_on_a_slack_tie_reaches_its_ends():
    """A sloping tie with self-weight gone slack carries its weight to both ends by halves and nothing at its middle."""
    members = [(0, 1, BAR), (1, 2, BAR), (2, 3, BAR), (0, 2, TIE), (3, 1, TIE)]
    loads = [at_node(1, 10e3, way=RIGHT), line(4, 400.0)]
    s = run(BAY, members, {0: PINNED, 3: PINNED}, loads)
    assert inside(s, 4, 2.5)[0] == pytest.approx(0, abs=1e-6)
    # N runs from minus to plus half the weight's part along the tie.
    assert inside(s, 4, 5.0)[0] - inside(s, 4, 0.0)[0] == pytest.approx(400 * 5 * 3 / 5, rel=NEAR)
    assert closing_error(s, named(s, ["Q"]))[0] < 1e-12


def test_a_one_way_member_cut_by_nodes_is_refused():
    text = PORTAL.replace('ends = "hinged"', 'acts = "tension"')
    assert not reading(text).findings
    text = text.replace("[grid]", '[nodes]\nM = { between = ["A1@eave", "A2@eave"], at = "50%" }\n[grid]')
    assert [f.code for f in reading(text).findings] == ["cut-one-way"]
    barred = reading(text.replace("acts =", "bar = true\nacts ="))
    assert [f.code for f in barred.findings] == ["unused-node"] and barred.sound


def test_through_the_model_file_and_the_commands(tmp_path, capsys):
    text = PORTAL.replace('ends = "hinged"', 'bar = true\nacts = "tension"')
    text = text.replace('fix = "fixed"', 'fix = "fixed"\nlift = true')
    s = solution(text)
    assert set(s.how_each) == {"as one"} and len(s.mix) == len(s.project.cases) + 2 + 4 and not reading(text).findings
    path = tmp_path / "m.toml"
    path.write_text(text, encoding="utf-8")
    assert main(["envelope", str(path), "--on", "ties", "--of", "N"]) == 0
    out = capsys.readouterr()
    assert "nothing is summed" in out.err and "as one" in out.out
    assert main(["run", str(path), "--no-pictures"]) == 0
    assert "analysed as one" in (tmp_path / "m-results" / "summary.md").read_text(encoding="utf-8")
    capsys.readouterr()
    pulled = text.replace("[combinations.custom]", '[combinations.custom]\nup = "-5.0 G"')
    path.write_text(pulled, encoding="utf-8")
    assert main(["check", str(path)]) == 1
    assert "under up the frame is unstable when support A1@base" in capsys.readouterr().out
    assert main(["reactions", str(path), "--under", "up"]) == 1
    capsys.readouterr()
    assert main(["reactions", str(path)]) == 1
    assert capsys.readouterr().out.startswith("No answer: up\n")


@pytest.mark.parametrize("k", range(30))
def test_a_tie_without_force_acts_whatever_rounding_says(k):
    """A hinged portal with one tie, under gravity: the tie has no force by statics, and without it nothing stands. Beside
    an overhang."""
    span, height = 3.0 + 0.317 * k, 2.7 + 0.091 * k
    xyz = [(0, 0, 0), (0, 0, height), (span, 0, height), (span, 0, 0), (-span / 3, 0, height)]
    members = [(0, 1, {"joints": HINGED + HINGED}), (4, 2, {}), (3, 2, {"joints": HINGED + HINGED}), (0, 2, TIE)]
    loads = [line(1, 7.3e3, at=(Position(span / 3), Position(share=1.0))), at_node(1, 1.1e4), at_node(2, 2.3e4)]
    frame = project(xyz, members, {0: PINNED, 3: PINNED}, loads, plane=True, combinations={"U": {"Q": 1.35}})
    s = solve(resolve(frame))
    assert not s.failed
    assert abs(inside(s, 3, 1.0, case="U")[0]) < 1e-6
    pushed = [*loads, at_node(1, 50.0, way=toward((-1, 0, 0)))]
    frame = project(xyz, members, {0: PINNED, 3: PINNED}, pushed, plane=True)
    assert [r.name for r in solve(resolve(frame)).failed] == ["Q"]  # a push of 50 N slackens it in earnest
