"""Nodes that a spreadsheet or a drawing rounded apart are one where the model says so."""

from __future__ import annotations

import warnings

import numpy as np
import pytest

import empuje
from empuje.cli import main
from empuje.files.reader import read_text

HEAD = """
[project]
units = "kN m"
{snap}
[grid]
x = {{ A = 0, B = 6 }}
y = {{ 1 = 0 }}
z = {{ base = 0, top = 4 }}
[members.frame]
section = "HEB 200"
material = "S355"
[[supports]]
at = ["A1@base", "e4"]
fix = "fixed"
[cases]
Q = {{ action = "live" }}
[loads]
Q = [ {{ on = "e2", force = 8, dir = "+x" }}, {{ on = "frame/beam", line = 3 }} ]
[nodes]
{nodes}
[members.frame.pieces]
left = "A1@base > e1"
beam = "{begin} > e3"
right = "e4 > e5"
"""


def text(noise, snap="", turn=0):
    """A portal of three members of which each has ends of its own: e2 beside e1, e3 beside e5, e1 beside a crossing."""
    rng = np.random.default_rng(4)
    at = {"e1": (0, 0, 4), "e2": (0, 0, 4), "e3": (6, 0, 4), "e4": (6, 0, 0), "e5": (6, 0, 4)}
    off = {name: noise * v / np.linalg.norm(v) for name, v in zip(at, rng.normal(size=(5, 3)), strict=True)}
    names = list(at)[turn:] + list(at)[:turn]
    nodes = [f"{n} = {[float(c) for c in np.add(at[n], off[n])]}" for n in names]
    return HEAD.format(snap=snap, nodes="\n".join(nodes), begin="e2")


def forces(path, written):
    path.write_text(written, encoding="utf-8")
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        s = empuje.read(path, cache=False).solve()
    return s.reactions(under="Q").set_index("node")[["Fx [kN]", "Fz [kN]", "My [kN*m]"]].sort_index(), s


@pytest.mark.parametrize("turn", [0, 2, 3])
def test_a_frame_rounded_apart_is_that_in_one(turn, tmp_path):
    """Within 0.4 mm of their place; in any order of the nodes, whatever their names; by the closed form of the portal."""
    exact, _ = forces(tmp_path / "a.toml", text(0, 'snap = "2 mm"'))
    rounded, _ = forces(tmp_path / "b.toml", text(4e-4, 'snap = "2 mm"', turn))
    assert np.allclose(sorted(rounded["My [kN*m]"]), sorted(exact["My [kN*m]"]), rtol=2e-3)
    assert rounded["Fx [kN]"].sum() == pytest.approx(-8) and rounded["Fz [kN]"].sum() == pytest.approx(18, rel=1e-3)
    project = read_text(text(4e-4, 'snap = "2 mm"', turn), "m.toml").project
    assert len(project.nodes) == 4 and len({*project.ends.ravel().tolist()}) == 4


def test_without_it_or_from_too_far_nothing_is_joined(tmp_path):
    """Nodes apart by 20 mm or so at a reach of 2 mm; and any without a reach: parts that nothing joins can move."""
    for snap, apart, count in (("", 4e-4, 6), ('snap = "2 mm"', 2e-2, 6), ('snap = "50 mm"', 2e-2, 4)):
        assert len(read_text(text(apart, snap), "m.toml").project.nodes) == count
    (tmp_path / "m.toml").write_text(text(4e-4), encoding="utf-8")
    assert main(["reactions", str(tmp_path / "m.toml")]) == 1


def test_what_it_joined_is_told_named_and_written(tmp_path, capsys):
    path = tmp_path / "m.toml"
    path.write_text(text(4e-4, 'snap = "2 mm"'), encoding="utf-8")
    assert main(["check", str(path)]) == 0
    assert "5 nodes are joined to others within 2 mm" in "".join(capsys.readouterr())
    first, s = forces(path, path.read_text(encoding="utf-8"))
    named = [s.displacements(on=name, under="Q").iloc[0, 2:5].to_list() for name in ("e1", "e2", "A1@top")]
    assert named[0] == named[1] == named[2]
    assert main(["export", str(path), "-o", str(tmp_path / "tables")]) == 0
    again, _ = forces(tmp_path / "tables" / "m.toml", (tmp_path / "tables" / "m.toml").read_text(encoding="utf-8"))
    assert np.allclose(first, again, rtol=1e-9)


@pytest.mark.parametrize(("snap", "count"), [("", 8), ('snap = "2 mm"', 6)])
def test_what_a_copy_lays_joins_as_far(snap, count):
    """A bay of 5.9985 m repeated at 6 m: the copy's first column meets the far one."""
    written = HEAD.format(
        snap=snap, nodes="p = [0, 9, 0]\nq = [0, 9, 4]\nr = [5.9985, 9, 4]\nt = [5.9985, 9, 0]", begin="q"
    )
    written = (
        written.replace('"A1@base > e1"', '"p > q"').replace('"q > e3"', '"q > r"').replace('"e4 > e5"', '"t > r"')
    )
    written = written.replace('["A1@base", "e4"]', '["p", "t"]').replace('on = "e2"', 'on = "q"')
    written += '[[copies]]\nname = "2"\nof = "frame"\nshift = [6, 0, 0]\n'
    assert len(read_text(written, "m.toml").project.nodes) == count


@pytest.mark.parametrize("value", ['"0.1 mm"', '"1 m"', '"2 kN"', "true"])
def test_a_distance_that_joins_nothing_or_all_is_refused(value):
    found = read_text(text(0, f"snap = {value}"), "m.toml").findings
    assert any(f.code == "bad-quantity" and "snap" in f.message for f in found)
