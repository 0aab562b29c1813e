"""Frames that can move are refused with what moves and why."""

import sys
from types import SimpleNamespace

import numpy as np
import pytest
from scipy import sparse

from build import FIXED, HINGED, PINNED, RIGID, Y, at_node, solved, toward
from empuje.core.analysis.factor import NoSuchLibraryError, SingularError, _pardiso, backend
from empuje.core.analysis.solve import Unstable

BAR = {"joints": HINGED + HINGED, "bar": True}
PORTAL = [(0, 0, 0), (0, 0, 4), (6, 0, 4), (6, 0, 0)]
CHAIN = [(0, 1), (1, 2), (2, 3)]


@pytest.mark.parametrize(
    ("xyz", "members", "supports", "plane", "says"),
    [
        # nothing holds it along y
        (
            PORTAL,
            CHAIN,
            {0: (True, False, True, True, True, True), 3: (True, False, True, True, True, True)},
            False,
            ["whole frame", "along y", "no support in y"],
        ),
        # both feet on pins in one line
        (PORTAL, CHAIN, {0: PINNED, 3: PINNED}, False, ["turn about x", "rx"]),
        # a simple beam on two pins spins about its own axis
        ([(0, 0, 0), (5, 0, 0)], [(0, 1)], {0: PINNED, 1: PINNED}, False, ["turn about x"]),
        # hinges at all four corners
        (
            PORTAL,
            [(a, b, {"joints": HINGED + HINGED}) for a, b in CHAIN],
            {0: PINNED, 3: PINNED},
            True,
            ["n1 (x)", "n2 (x)", "hinges at n1, n2"],
        ),
        # three hinges in a line
        (
            [(0, 0, 0), (4, 0, 0), (8, 0, 0)],
            [(0, 1, BAR), (1, 2, BAR)],
            {0: PINNED, 2: PINNED},
            True,
            ["n1 (z)", "in one line or plane"],
        ),
        # a flat truss joint, loose across its plane
        (
            [(0, 0, 0), (4, 0, 0), (2, 0, 3)],
            [(0, 2, BAR), (1, 2, BAR)],
            {0: FIXED, 1: FIXED},
            False,
            ["n2 (y)", "in one line or plane"],
        ),
        # the same askew in space, where no direction is an axis
        (
            [(0, 0, 0), (4, 1, 0.5), (2, 1.5, 3)],
            [(0, 2, BAR), (1, 2, BAR)],
            {0: FIXED, 1: FIXED},
            False,
            ["n2 (", "in one line or plane"],
        ),
        # a part that stands on nothing
        (
            [*PORTAL, (20, 0, 0), (20, 0, 5)],
            [*CHAIN, (4, 5)],
            {0: FIXED, 3: FIXED},
            True,
            ["part with nodes n4, n5", "along"],
        ),
    ],
)
def test_mechanisms_are_named(xyz, members, supports, plane, says):
    with pytest.raises(Unstable) as caught:
        solved(xyz, members, supports, [], plane=plane)
    text = str(caught.value)
    assert all(word in text for word in says), text
    assert all(f.level == "error" and f.code == "mechanism" and f.remedy for f in caught.value.findings)


def test_two_loose_nodes_are_both_named():
    """A stable cantilever that carries two separate flaws."""
    xyz = [(0, 0, 0), (0, 0, 4), (4, 0, 4), (8, 0, 4), (0, 6, 4), (0, 10, 4)]
    members = [(0, 1), (1, 2, BAR), (2, 3, BAR), (1, 4, BAR), (4, 5, BAR)]
    with pytest.raises(Unstable) as caught:
        solved(xyz, members, {0: FIXED, 3: PINNED, 5: PINNED}, [])
    text = str(caught.value)
    assert "n2" in text and "n4" in text


def test_mechanisms_of_one_cause_are_one():
    """Three frames side by side that nothing holds across or turning: one error that names all of them, and each
    direction once; a frame on nothing: every motion in one."""
    frames, members, supports = [], [], {}
    for k in range(3):
        frames += [(x, 5.0 * k, z) for x, _, z in PORTAL]
        members += [(a + 4 * k, b + 4 * k) for a, b in CHAIN]
        supports |= {4 * k: (True, False, True, True, True, True), 4 * k + 3: (True, False, True, True, True, True)}
    with pytest.raises(Unstable) as caught:
        solved(frames, members, supports, [])
    (found,) = caught.value.findings
    assert found.message.count("along") == 1 and "likewise n4, n5" in found.message and "n11" in found.about
    with pytest.raises(Unstable) as caught:
        solved(PORTAL, CHAIN, {}, [])
    (found,) = caught.value.findings
    assert "move along x and y and z and to turn about x and y and z" in found.message
    assert found.remedy.startswith("there is no support in x, y, z")


def test_a_moment_where_everything_is_hinged():
    with pytest.raises(Unstable, match=r"moment acts on node n1, where every member is hinged"):
        solved(
            [(0, 0, 0), (3, 0, 0), (0, 0, -3)],
            [(0, 1, BAR), (2, 1, BAR)],
            {0: PINNED, 2: PINNED},
            [at_node(1, 1e3, "moment", toward(Y))],
            plane=True,
        )


def test_slender_is_not_loose():
    """A very flexible chain of short stiff and long soft members is still a frame."""
    xyz = [(0, 0, 0.05 * i) for i in range(120)] + [(0, 0, 60)]
    members = [(i, i + 1, {"joints": RIGID + RIGID}) for i in range(len(xyz) - 1)]
    s = solved(xyz, members, {0: FIXED}, [at_node(len(xyz) - 1, 1.0)])
    assert np.isfinite(s.displacement).all()


def test_what_the_fast_library_says_is_not_taken_for_a_mechanism(monkeypatch):
    """A pivot that is not positive is one; too little memory is not, and with its own troubles the other one answers."""

    class Failed(Exception):
        value = 0

    class Solver:
        def __init__(self, mtype):
            pass

        def set_iparm(self, i, value):
            pass

        def factorize(self, matrix):
            raise Failed

    monkeypatch.setitem(sys.modules, "pypardiso", SimpleNamespace(PyPardisoError=Failed, PyPardisoSolver=Solver))
    matrix = sparse.csr_matrix([[4.0, 1.0], [1.0, 2.0]])
    for value, error in ((-4, SingularError), (-2, MemoryError)):
        Failed.value = value
        with pytest.raises(error):
            _pardiso(matrix)
    Failed.value = -3
    assert _pardiso(matrix)(np.array([5.0, 3.0])) == pytest.approx([1.0, 1.0], rel=1e-12)
    for name in ("pardisso", "pypardiso"):
        monkeypatch.setattr("empuje.core.analysis.factor.find_spec", lambda name: None)
        monkeypatch.setenv("EMPUJE_SOLVER", name)
        with pytest.raises(NoSuchLibraryError, match=r"name scipy or pypardiso|pip install 'empuje\[fast\]'"):
            backend()


def test_both_solvers_agree(monkeypatch):
    pytest.importorskip("pypardiso")
    from build import line

    frame = ([(0, 0, 0), (0, 0, 4), (6, 1, 4), (6, 0, 0)], CHAIN, {0: FIXED, 3: FIXED}, [line(1, 1e3)])
    found = []
    for name in ("scipy", "pypardiso"):
        monkeypatch.setenv("EMPUJE_SOLVER", name)
        found.append(solved(*frame).displacement)
    assert np.abs(found[0] - found[1]).max() < 1e-11 * np.abs(found[0]).max()
