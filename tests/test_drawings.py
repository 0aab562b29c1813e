"""Drawings: loads sit on their members and point their way, diagrams lie on the tension side, labels keep apart."""

import numpy as np
import pytest

from build import named
from empuje.core.answers.deflection import furthest_motions
from empuje.core.answers.envelope import envelope
from empuje.core.answers.stress_fibres import NoFibre
from empuje.core.model.words import Label, Stress
from empuje.show.display import Display
from empuje.show.drawings.draw_band import draw_band
from empuje.show.drawings.draw_frame import draw_frame
from empuje.show.drawings.draw_loads import draw_loads
from empuje.show.drawings.draw_reactions import draw_reactions
from empuje.show.drawings.draw_results import draw_deflected, draw_diagram
from empuje.show.drawings.draw_use import SHADES, draw_stress
from empuje.show.drawings.labels import write_labels
from empuje.show.drawings.paper import across_of, figure_of
from empuje.show.drawings.view import View
from models import PORTAL, resolved, solution

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


def lines(sheet):
    """Vertices of every line, on paper."""
    return [path for paths in sheet.strokes.values() for path in paths]


def areas(sheet):
    return [path for paths in sheet.fills.values() for path in paths]


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
    moment = draw_diagram(s, named(s, "Q"), "My", every, View.named("xz"), KN)
    band = np.vstack(areas(moment))
    assert band[:, 1].max() <= 1e-9 and band[:, 1].min() < -0.1
    assert any(w.text == f"{3 * 64 / 8 + 5 * 8 / 4:.4g}" for w in moment.wishes)
    shape = draw_deflected(s, named(s, "Q"), every, View.named("xz"), KN, 100.0)
    lowest = min(p[:, 1].min() for p in lines(shape))
    EI = 210e9 * s.project.members[0].section.Iy
    sag = 5 * 3e3 * 8**4 / (384 * EI) + 5e3 * 8**3 / (48 * EI)
    assert lowest == pytest.approx(-100 * sag, rel=1e-6)
    assert any(w.text == f"{sag * 1000:.3g}" for w in shape.wishes)


def test_arrow_heads_touch_the_member_from_above():
    model = resolved(BEAM)
    sheet = draw_loads(model, named(model, "Q"), np.array([0]), View.named("xz"), KN)
    write_labels(sheet, [Label.NAMES])
    heads = [p for p in areas(sheet) if len(p) == 3]
    assert len(heads) > 10
    assert all(p[0, 1] == pytest.approx(0, abs=1e-9) and (p[1:3, 1] > 0).all() for p in heads)
    words = {wish.text for wish in sheet.wishes}
    assert {"3 kN/m", "5 kN", "beam/M"} <= words


def test_loads_of_a_combination_are_factored_and_turned_by_their_sign():
    model = resolved(PORTAL)
    every = np.arange(len(model.project.members))
    sheet = draw_loads(model, named(model, "U2"), every, View.named("iso"), KN)
    words = [wish.text for wish in sheet.wishes]
    own = 5.381e-3 * 7850 * 9.80665e-3  # of an IPE 300: self-weight and cladding of G are one load
    assert "5 kN" in words and f"{1.2 * (2.1 + own):.3g} kN/m" in words
    assert "U2" in sheet.title
    total = next(text for text, _ in sheet.foot if "all loads together" in text)
    assert "Fx -10," in total


def test_labels_do_not_cover_each_other():
    s = solution(PORTAL)
    sheet = draw_diagram(s, named(s, "U1"), "My", np.arange(len(s.project.members)), View.named("iso"), KN)
    write_labels(sheet, [Label.NAMES])
    (boxes,) = figure_of([sheet])[1]
    assert len(boxes) > 10
    for i, a in enumerate(boxes):
        for b in boxes[:i]:
            assert a[0] >= b[2] or a[2] <= b[0] or a[1] >= b[3] or a[3] <= b[1]


def test_a_chosen_part_is_drawn_strongly_and_the_rest_faintly():
    s = solution(PORTAL)
    rafters = np.array([i for i, m in enumerate(s.project.members) if m.family == "rafters"])
    sheet = draw_diagram(s, named(s, "U1"), "N", rafters, View.named("iso"), KN)
    counts = [len(paths) for paths in sheet.strokes.values()][:2]
    assert counts == [len(s.project.members) - 4, 4]


SPANS = BEAM.replace("b = [8, 0]", "b = [16, 0]\nm = [7.3, 0]").replace('ends = "hinged"\n', "").replace(
    'at = ["a", "b"]\nfix = "fixed"', 'at = ["a", "b", "m"]\nfix = "z"\n[[supports]]\nat = "a"\nfix = "x"'
).replace('{ on = "beam", line = 3 }, { on = "beam", force = 5, at = "50%" }', '{ on = "beam", line = 9.7 }, { on = "beam", force = 61.3, at = 3.3 }'
) + "[combinations.custom]\nU = \"1.35 Q\"\nV = \"0.9 Q\"\n"  # fmt: skip


@pytest.mark.parametrize("analysis", ["first-order", "second-order"])
def test_figures_in_pictures_are_those_of_the_tables(analysis):
    """Spans of 7.3 and 8.7 m: kink at 3.3 m, peaks between points, jump over the support; and curves go through them."""
    text = SPANS.replace("[nodes]", f'analysis = "{analysis}"\n[nodes]')
    text = text.replace("line = 9.7 }", 'line = 9.7 }, { on = "b", force = 300, dir = "-x" }')
    s = solution(text)
    every, xz, names = np.array([0]), View.named("xz"), ["U", "V"]
    for force in ("My", "Vz"):
        table = envelope(s, named(s, names), every, (force,))
        exact = dict(zip(table["extreme"], table[force] / 1e3, strict=True))
        band = draw_band(s, named(s, names), force, every, xz, KN)
        told = {wish.text.split()[0] for wish in band.wishes}
        assert {f"{v:.4g}" for v in exact.values()} <= told
        alone = draw_diagram(s, named(s, "U"), force, every, xz, KN)
        assert {f"{v:.4g}" for v in exact.values()} <= {wish.text for wish in alone.wishes}
        largest = max(exact.values(), key=abs)
        for sheet in (band, alone):
            assert f"largest {abs(largest):.4g}" in sheet.foot[0][0]
        # The drawn line reaches as far as the figures say, and no further.
        scale = 0.085 * alone.size / abs(largest)
        sign = -1 if force == "My" else 1
        for sheet in (band, alone):
            reach = np.vstack(lines(sheet))[:, 1] * sign / scale
            upright = {line[0, 0] for line in lines(sheet) if np.ptp(line[:, 0]) < 1e-9}
            closed = {0, 16} if sheet is band else {0, 3.3, 7.3, 16} if force == "Vz" else set()
            assert upright == closed
            assert reach.max() == pytest.approx(exact["max"], rel=1e-6) and reach.min() == pytest.approx(
                exact["min"], rel=1e-6
            )
    x, moved = furthest_motions(s, named(s, "U"), every)
    sheet = draw_deflected(s, named(s, "U"), every, xz, KN, 100.0)
    drawn = np.vstack(lines(sheet))
    assert drawn[:, 1].min() == pytest.approx(100 * moved[0, 2], rel=1e-6)
    assert f"{np.linalg.norm(moved[0]) * 1e3:.3g}" in {wish.text for wish in sheet.wishes}
    assert 0 < x[0] < 16


def test_a_shape_of_rounding_errors_is_not_drawn():
    """A simple beam under gravity has no N: nothing is drawn of what rounding leaves; nor a shape without loads."""
    s = solution(
        SPANS.replace("[loads]", 'Z = { action = "live" }\n[loads]').replace(
            "[combinations", 'Z = [ { on = "a", force = 5 } ]\n[combinations'
        )
    )
    sheet = draw_diagram(s, named(s, "U"), "N", np.array([0]), View.named("xz"), KN)
    assert not sheet.wishes and not areas(sheet)
    still = draw_deflected(s, named(s, "Z"), np.array([0]), View.named("xz"), KN)
    assert not still.wishes and any("nothing moves" in text for text, _ in still.foot)


def test_loads_along_one_line_are_added_up():
    """Two line loads and a lift on one member, three forces at one place, one of them on its node: one band, one arrow."""
    text = BEAM.replace('{ on = "beam", line = 3 }, { on = "beam", force = 5, at = "50%" }', """
  { on = "beam", line = 3 }, { on = "beam", line = 1.5, from = "2 m", to = "6 m" }, { on = "beam", line = 0.5, dir = "up" },
  { on = "beam", line = 0.8, dir = "+x" }, { on = "b", force = 7 }, { on = "beam", force = 5, at = "100%" },
  { on = "b", force = 2, dir = "up" }, { on = "beam", force = 4, at = "2 m" }, { on = "beam", force = 4, at = "2 m", dir = "up" },
""").replace("Q = [ \n", "Q = [\n")  # fmt: skip
    model = resolved(text)
    sheet = draw_loads(model, named(model, "Q"), np.array([0]), View.named("xz"), KN)
    words = {wish.text for wish in sheet.wishes}
    assert {"2.5 kN/m", "4 kN/m", "0.8 kN/m", "10 kN"} <= words and not {
        "3 kN/m",
        "5 kN",
        "7 kN",
        "2 kN",
        "4 kN",
    } & words
    assert any("tallest band 4 kN/m" in text for text, _ in sheet.foot)
    apart = draw_loads(model, named(model, "Q"), np.array([0]), View.named("xz"), KN, True)
    assert {"3 kN/m", "1.5 kN/m", "0.5 kN/m", "7 kN", "5 kN"} <= {wish.text for wish in apart.wishes}


def test_pressures_point_onto_the_surface_they_press():
    """Down on a floor: tails above; along the normal of a wall: tails behind it; what pulls points away from it."""
    from empuje.show.drawings.draw_pressures import draw_pressures

    text = PORTAL.replace("[cases]", """[surfaces.roof]
corners = ["A1@eave", "C1@eave", "C2@eave", "A2@eave"]
carry = "nodes"
[cases]""")  # fmt: skip
    for words, above in (
        ("area = 2", True),
        ('area = 2, dir = "up"', False),
        ('area = 2, dir = "-normal"', True),
    ):
        model = resolved(text.replace("Q = [ {", f'Q = [ {{ on = "roof", {words} }}, {{'))
        sheet = draw_pressures(model, named(model, "Q"), np.arange(len(model.project.members)), View.named("xz"), KN)
        heads = [p for p in areas(sheet) if len(p) == 3]
        assert heads and all(p[0, 1] == pytest.approx(4.0) and (p[1, 1] > 4.0) == above for p in heads)
    model = resolved(text.replace("Q = [ {", 'Q = [ { on = "roof", area = -2 }, {'))
    sheet = draw_pressures(model, named(model, "Q"), np.arange(len(model.project.members)), View.named("xz"), KN)
    heads = [p for p in areas(sheet) if len(p) == 3]
    assert heads and all(p[0, 1] > p[1, 1] > 4.0 for p in heads)


@pytest.mark.parametrize(
    ("load", "written"),
    [
        ('[["0 m", 1], ["2 m", 2], ["5 m", 4], ["8 m", 4.5]]', ["1 to 4.5 kN/m"]),
        ('[["0 m", 0], ["4 m", 3], ["8 m", 1]]', ["0 to 3 kN/m"]),
        ('[["0 m", 2], ["3 m", 2], ["3 m", 5], ["8 m", 5]]', ["2 kN/m", "5 kN/m"]),
    ],
)
def test_a_load_in_pieces_is_written_once(load, written):
    """From its first value to its last where it only grows or only shrinks; at a jump anew, beyond a peak not."""
    text = BEAM.replace(
        '{ on = "beam", line = 3 }, { on = "beam", force = 5, at = "50%" }', f'{{ on = "beam", line = {load} }}'
    )
    model = resolved(text)
    sheet = draw_loads(model, named(model, "Q"), np.array([0]), View.named("xz"), KN)
    assert [wish.text for wish in sheet.wishes if "kN/m" in wish.text] == written


def test_axes_are_those_of_the_members_and_hinges_stand_at_their_ends():
    """A beam at 3:4 in plan that is rolled by a quarter, and a bar: arrows on paper from above, circles beside free ends."""
    from empuje.show.drawings.canvas import LOAD, PLUS, SHAPE
    from empuje.show.drawings.draw_axes import draw_axes

    text = """
[project]
units = "kN m"
[nodes]
a = [0, 0, 0]
b = [6, 8, 0]
c = [6, 0, 0]
[members.m]
section = "IPE 300"
material = "S235"
roll = 90
ends = ["rigid", "hinged"]
pieces = { ab = "a > b" }
[members.n]
section = "IPE 300"
material = "S235"
bar = true
pieces = { bc = "b > c" }
[[supports]]
at = ["a", "b", "c"]
fix = "fixed"
[cases]
Q = { action = "live" }
"""
    sheet = draw_axes(resolved(text).project, np.array([0, 1]), View.named("xy"))
    tips = {}
    for (colour, *_), paths in sheet.strokes.items():
        if colour in (SHAPE, PLUS, LOAD):
            tips[colour] = [(path[0], (path[-1] - path[0]) / np.linalg.norm(path[-1] - path[0])) for path in paths]
    (middle, along), (_, along_bar) = tips[SHAPE]
    assert (
        middle == pytest.approx([3, 4]) and along == pytest.approx([0.6, 0.8]) and along_bar == pytest.approx([0, -1])
    )
    # Rolled by 90 degrees y points up, towards whoever looks from above; z to the right of x.
    assert [way.tolist() for _, way in tips[PLUS]] == [pytest.approx([1, 0])]  # that of the bar alone
    assert [way.tolist() for _, way in tips[LOAD]] == [pytest.approx([0.8, -0.6])]
    places = np.array(next(at for mark, at in sheet.marks.items() if mark.symbol == "o" and len(at) == 3))
    assert sorted(np.round(np.hypot(*(places - [6, 8]).T), 2).tolist())[:2] == pytest.approx([0.18, 0.18], abs=0.06)
    assert sum(np.hypot(*(places - [6, 0]).T) < 0.3) == 1 and sum(np.hypot(*(places - [0, 0]).T) < 1) == 0


def test_captions_speak_of_what_is_shown():
    """Of one of two columns its load and its reaction; then those of the whole frame."""
    s = solution(PORTAL)
    view = View.named("xz").part("a part")
    members = np.array([i for i, m in enumerate(s.project.members) if m.name.startswith("columns/A1")])
    nodes = set(s.project.ends[members].ravel().tolist())
    result = named(s, "W")
    own = sum(
        s.reaction[i, :, :] @ s.weights([result])[:, 0] for i, n in enumerate(s.support_node.tolist()) if n in nodes
    )
    told = " ".join(text for text, _ in draw_reactions(s, result, members, view, KN).foot)
    assert f"reactions shown, on the structure, Fx {own[0] / 1e3:.5g}" in told and "of the whole frame: loads" in told
    whole = draw_reactions(s, result, np.arange(len(s.project.members)), View.named("xz"), KN).foot
    assert "shown" not in " ".join(text for text, _ in whole)
    told = " ".join(text for text, _ in draw_loads(s.model, result, members, view, KN).foot)
    assert "loads shown Fx " in told and "all loads together Fx 10" in told


def test_sheets_stand_where_they_are_largest():
    """Two wide frames one above the other, two tall ones side by side, four in a square, three long ones in a column."""
    wide, tall, square = (np.array([[0, 0], size], float) for size in ((40, 6), (6, 40), (10, 7)))
    assert [across_of(2, limits, 12.0, 7.0) for limits in (wide, tall, square)] == [1, 2, 2]
    assert (
        across_of(4, square, 12.0, 7.0) == 2
        and across_of(3, wide, 12.0, 7.0) == 1
        and across_of(4, tall, 12.0, 7.0) == 4
    )


def test_hinges_of_a_large_frame_are_small():
    def size(count):
        nodes = "\n".join(f"a{i} = [{i}, 0, 0]\nb{i} = [{i}, 3, 0]" for i in range(count))
        pieces = ", ".join(f'm{i} = "a{i} > b{i}"' for i in range(count))
        text = (
            BEAM.replace('space = "plane"\n', "")
            .replace("a = [0, 0]\nb = [8, 0]", nodes)
            .replace('M = "a > b"', pieces)
        )
        project = resolved(text.replace('at = ["a", "b"]', 'at = "*"').split("[loads]")[0]).project
        sheet = draw_frame(project, np.arange(count), View.named("xy"))
        return next(mark.size for mark in sheet.marks if mark.symbol == "o" and mark.size < 9)

    assert size(20) == 4.5 and size(200) < 3 and size(3000) >= 2


def test_stresses_shade_a_beam_along_its_length():
    """A parabola of moments: of 20 pieces each in the shade of its larger end, by fifths of the greatest; at a fibre in
    the middle of the section nothing."""
    s = solution(BEAM.replace(', { on = "beam", force = 5, at = "50%" }', ""))
    results, members, view = [named(s, "Q")], np.arange(1), View.named("xz")
    sheet = draw_stress(s, results, Stress.NORMAL, members, view, KN, ["corner 1"])
    at = np.linspace(0, 1, 21)
    share = np.maximum(*(4 * x * (1 - x) for x in (at[:-1], at[1:])))
    wanted = [int(((share > k / 5 + 1e-9) & (share <= (k + 1) / 5 + 1e-9)).sum()) for k in range(5)]
    found = [sum(len(paths) for key, paths in sheet.strokes.items() if key[0] == shade) for shade in SHADES]
    assert found == wanted and sum(found) == 20
    W = s.project.members[0].section.Iy / 0.15
    assert any(
        w.text == f"{-3e3 * 64 / 8 / W / 1e6:.4g}".lstrip("-") or w.text == f"{-3e3 * 64 / 8 / W / 1e6:.4g}"
        for w in sheet.wishes
    )
    assert "at corner 1" in sheet.title and "under Q" in sheet.note
    with pytest.raises(NoFibre):
        draw_stress(s, results, Stress.NORMAL, members, view, KN, ["corner 9"])
