"""Drawings: loads sit on their members and point their way, diagrams lie on the tension side, labels keep apart."""

import numpy as np
import pytest

from empuje.core.actions import plain_loads
from empuje.show.display import Display
from empuje.show.draw_loads import draw_loads
from empuje.show.draw_results import draw_deflected, draw_diagram
from empuje.show.view import View
from models import PORTAL, project, solution

BEAM = """
[project]
units = "kN m"
space = "plane"
[nodes]
a = [0, 0]
b = [8, 0]
[members.beam]
section = "IPE 300"
material = "S235"
ends = "hinged"
pieces = { M = "a > b" }
[[supports]]
at = ["a", "b"]
fix = "fixed"
[cases]
Q = { action = "live" }
[loads]
Q = [ { on = "beam", line = 3 }, { on = "beam", force = 5, at = "50%" } ]
"""
KN = Display(("kN", "m", "mm", "MPa"))


def paths(sheet, kind):
    """Vertices of every collection of that kind, on paper."""
    return [
        path.vertices
        for collection in sheet.axes.collections
        if type(collection).__name__ == kind
        for path in collection.get_paths()
    ]


@pytest.mark.parametrize(
    ("name", "point", "flat"),
    [
        ("xz", (1, 5, 2), (1, 2)),
        ("yz", (1, 5, 2), (5, 2)),
        ("xy", (1, 5, 2), (1, 5)),
        ("0,0", (1, 5, 2), (5, 2)),
    ],
)
def test_views(name, point, flat):
    assert View.named(name).flat(np.array([point], float))[0] == pytest.approx(flat, abs=1e-9)


def test_the_tilted_view_shows_z_up_and_keeps_right_angles():
    view = View.named("iso")
    assert view.flat(np.array([0.0, 0, 1]))[1] > 0.8 and abs(view.flat(np.array([0.0, 0, 1]))[0]) < 1e-12
    assert view.right @ view.up == pytest.approx(0, abs=1e-9)
    assert np.linalg.norm(view.up) == pytest.approx(1)
    with pytest.raises(ValueError):
        View.named("top")


def test_a_sagging_beam_has_its_moment_below_and_its_shape_below():
    s = solution(BEAM)
    every = np.array([0])
    moment = draw_diagram(s, "Q", "My", every, View.named("xz"), KN, False)
    band = np.vstack(paths(moment, "PolyCollection"))
    assert band[:, 1].max() <= 1e-9 and band[:, 1].min() < -0.1
    assert any(text == f"{3 * 64 / 8 + 5 * 8 / 4:.4g}" for _, _, text, _, _ in moment.wishes)
    shape = draw_deflected(s, "Q", every, View.named("xz"), KN, 100.0, False)
    lowest = min(p[:, 1].min() for p in paths(shape, "LineCollection"))
    EI = 210e9 * s.project.members[0].section.Iy
    sag = 5 * 3e3 * 8**4 / (384 * EI) + 5e3 * 8**3 / (48 * EI)
    assert lowest == pytest.approx(-100 * sag, rel=1e-6)
    assert any(text == f"{sag * 1000:.3g}" for _, _, text, _, _ in shape.wishes)


def test_arrow_heads_touch_the_member_from_above():
    frame = project(BEAM)
    sheet = draw_loads(frame, plain_loads(frame)[0], "Q", np.array([0]), View.named("xz"), KN, True)
    heads = [p for p in paths(sheet, "PolyCollection") if len(p) == 4]
    assert len(heads) > 10
    assert all(p[0, 1] == pytest.approx(0, abs=1e-9) and (p[1:3, 1] > 0).all() for p in heads)
    words = {text for _, _, text, _, _ in sheet.wishes}
    assert {"3 kN/m", "5 kN", "beam/M"} <= words


def test_loads_of_a_combination_are_factored_and_turned_by_their_sign():
    frame = project(PORTAL)
    loads = plain_loads(frame)[0]
    every = np.arange(len(frame.members))
    sheet = draw_loads(frame, loads, "U2", every, View.named("iso"), KN, False)
    words = [text for _, _, text, _, _ in sheet.wishes]
    own = 5.381e-3 * 7850 * 9.80665e-3  # of an IPE 300: self-weight and cladding of G are one load
    assert "5 kN" in words and f"{1.2 * (2.1 + own):.3g} kN/m" in words
    assert any("U2" in text.get_text() for text in sheet.figure.texts)
    total = next(text.get_text() for text in sheet.figure.texts if "all loads together" in text.get_text())
    assert "Fx -10," in total


def test_labels_do_not_cover_each_other(tmp_path):
    s = solution(PORTAL)
    sheet = draw_diagram(s, "U1", "My", np.arange(len(s.project.members)), View.named("iso"), KN, True)
    sheet.save(tmp_path / "m.png")
    boxes = sheet.taken
    assert len(boxes) > 10
    for i, a in enumerate(boxes):
        for b in boxes[:i]:
            assert a[0] >= b[2] or a[2] <= b[0] or a[1] >= b[3] or a[3] <= b[1]


def test_a_chosen_part_is_drawn_strongly_and_the_rest_faintly():
    s = solution(PORTAL)
    rafters = np.array([i for i, m in enumerate(s.project.members) if m.family == "rafters"])
    sheet = draw_diagram(s, "U1", "N", rafters, View.named("iso"), KN, False)
    counts = [len(c.get_paths()) for c in sheet.axes.collections if type(c).__name__ == "LineCollection"][:2]
    assert counts == [len(s.project.members) - 4, 4]
