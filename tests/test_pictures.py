"""Pictures of whole frames by what is drawn: symbols, solids, reactions, strips, parts, several side by side, labels."""

import itertools

import numpy as np
import pytest

import empuje
from build import named
from empuje.core.answers.slack import not_acting
from empuje.core.answers.strips import member_strip
from empuje.core.model.words import Label, Picture
from empuje.show.chart_text import chart_of
from empuje.show.display import Display
from empuje.show.drawings import canvas
from empuje.show.drawings.canvas import GRID, MINUS, PLUS, SLACK
from empuje.show.drawings.draw_frame import draw_frame
from empuje.show.drawings.draw_reactions import draw_reactions
from empuje.show.drawings.draw_results import draw_deflected, draw_diagram
from empuje.show.drawings.draw_solid import solid_faces
from empuje.show.drawings.draw_strip import draw_strip
from empuje.show.drawings.labels import write_labels
from empuje.show.drawings.paper import Drawing, figure_of
from empuje.show.drawings.parts import NoPart, elevation, plan
from empuje.show.drawings.picture import Asked, picture
from empuje.show.drawings.placing import width_of
from empuje.show.drawings.press import press
from empuje.show.drawings.view import View
from models import PORTAL, resolved, solution

KN = Display(("kN", "m", "mm", "MPa"))
ISO, XZ = View.named("iso"), View.named("xz")

BEAM = """
[project]
units = "kN m"
[nodes]
a = [0, 0, 0]
b = [8, 6, 0]
c = [4, 3, 0]
[sections]
plank = { shape = "rectangle", h = "300 mm", b = "100 mm" }
[members.beam]
section = "plank"
material = "S235"
ends = { free = "ry rz" }
pieces = { M = "a > b" }
[[supports]]
at = ["a", "b"]
fix = "fixed"
[cases]
Q = { action = "live" }
[loads]
Q = [ { on = "beam", line = 3 }, { on = "beam", force = 5, at = "50%" }, { on = "beam", line = 1.2, dir = "local y", from = "2 m", to = "6 m" } ]
[combinations.custom]
U = "1.5 Q"
"""  # fmt: skip


def grid_frame(bays, storeys):
    """A frame of bays both ways and storeys, all rigid; every beam loaded."""
    letters = [f"L{i}" for i in range(bays + 1)]
    lines = [f"N{i}" for i in range(bays + 1)]
    levels = [f"S{i}" for i in range(storeys + 1)]
    grid = "\n".join(
        f"{axis} = {{ {', '.join(f'{n} = {step * i}' for i, n in enumerate(names))} }}"
        for axis, names, step in (("x", letters, 6), ("y", lines, 5), ("z", levels, 3.5))
    )
    beams = ",".join(levels[1:])
    return f"""
[project]
units = "kN m"
[grid]
{grid}
[members.columns]
section = "HEB 240"
material = "S355"
runs = ["{letters[0]}..{letters[-1]} / {lines[0]}..{lines[-1]} / {levels[0]}>>{levels[-1]}"]
[members.beams]
section = "IPE 330"
material = "S355"
runs = ["{letters[0]}>>{letters[-1]} / {lines[0]}..{lines[-1]} / {beams}", "{letters[0]}..{letters[-1]} / {lines[0]}>>{lines[-1]} / {beams}"]
[[supports]]
at = "*@S0"
fix = "fixed"
[cases]
Q = {{ action = "live" }}
W = {{ action = "wind" }}
[loads]
Q = [ {{ on = "beams", line = 12 }} ]
W = [ {{ on = "columns/L0*", line = 2, dir = "+x" }} ]
"""


def apart(boxes, other=()):
    """Whether no two boxes overlap."""
    every = [*boxes, *other]
    return all(
        a[0] >= b[2] or a[2] <= b[0] or a[1] >= b[3] or a[3] <= b[1] for a, b in itertools.combinations(every, 2)
    )


@pytest.mark.parametrize(("bays", "storeys", "members"), [(7, 3, 528), (20, 4, 5124)])
def test_labels_thin_out_on_large_frames_and_the_governing_ones_stay(bays, storeys, members):
    """Of 500 and 5,000 members no label lies on another as Matplotlib measures them, and the largest values are there."""
    s = solution(grid_frame(bays, storeys))
    assert len(s.project.members) == members
    every = np.arange(members)
    for sheet in (
        draw_diagram(s, named(s, "W"), "My", every, ISO, KN),
        draw_deflected(s, named(s, "W"), every, ISO, KN),
    ):
        write_labels(sheet, [Label.NAMES])
        figure, (boxes,) = figure_of([sheet])
        assert 12 <= len(boxes) <= 70 and apart(boxes)
        axes = figure.axes[0]
        written = [t for t in axes.texts if t.get_zorder() == 9]
        renderer = figure._get_renderer()
        real = [t.get_window_extent(renderer).extents for t in written]
        assert len(real) == len(boxes) and apart([(x0 + 1, y0 + 2, x1 - 1, y1 - 2) for x0, y0, x1, y1 in real])
        assert {m.size for m in sheet.marks if m.symbol == "fixed"} == {9.0}  # of more than 60 supports
        largest = max(sheet.wishes, key=lambda w: w.weight)
        assert largest.text in {t.get_text() for t in written}
        left = next(t.get_text() for t in axes.texts if "labels written" in t.get_text())
        assert left.startswith(f"{len(boxes)} of {len(sheet.wishes)} ")


def test_text_is_as_wide_as_it_is_drawn():
    from matplotlib.textpath import TextPath

    for text in ("225.9", "columns/A1/base-eave", "WWW iii -3.14 kN*m"):
        drawn = TextPath((0, 0), text + "|", size=8).get_extents().x1 - TextPath((0, 0), "|", size=8).get_extents().x1
        assert width_of(text, 8) == pytest.approx(drawn * 100 / 72, rel=0.02)


HELD = """
[project]
units = "kN m"
[nodes]
a = [0, 0, 0]
b = [0, 0, 3]
c = [4, 0, 3]
d = [4, 0, 0]
e = [8, 0, 3]
f = [8, 0, 0]
[members.m]
section = "IPE 300"
material = "S235"
pieces = { ab = "a > b", bc = "b > c", cd = "c > d", ce = "c > e", ef = "e > f" }
[members.tie]
section = "L 60x60x6"
material = "S235"
bar = true
acts = "tension"
pieces = { t1 = "a > c", t2 = "d > b" }
[[supports]]
at = "a"
fix = "fixed"
[[supports]]
at = "d"
fix = "pinned"
[[supports]]
at = "f"
fix = "x y z rz"
lift = true
[[supports]]
at = "e"
fix = "y"
[[supports]]
at = "d"
spring = { ry = "3 MN*m/rad" }
[cases]
W = { action = "wind" }
V = { action = "wind" }
[loads]
W = [ { on = "b", force = 20, dir = "+x" }, { on = "e", force = 4, dir = "up" } ]
V = [ { on = "b", force = 20, dir = "-x" }, { on = "e", force = 9 } ]
"""


def test_supports_have_the_symbols_of_how_they_hold_and_a_legend():
    project = resolved(HELD).project
    sheet = draw_frame(project, np.arange(7), XZ)
    at = {mark.symbol: sorted(np.round(p, 3).tolist() for p in places) for mark, places in sheet.marks.items()}
    assert at["fixed"] == [[0, 0]] and at["roller"] == [[8, 3]] and at["spring"] == [[4, 0]]
    assert at["push"] == [[8, 0]] and at["part"] == [[8, 0]] and at["pinned"] == [[4, 0]]
    words = {entry.words for entry in sheet.key}
    assert {"fixed", "on springs", "compression only", "hinge", "tension only", "moves in some direction"} <= words
    assert {m.size for m in sheet.marks if m.symbol in ("fixed", "pinned")} == {15.0}
    # Bars turn freely at both ends.
    assert len(at["o"]) == 4


def test_slack_members_are_dashed_and_lifted_supports_marked():
    """The frame leans with the wind: the tie against it pulls, the other is slack; turned, the other way round."""
    s = solution(HELD)
    tie = {name: next(i for i, m in enumerate(s.project.members) if m.name == f"tie/{name}") for name in ("t1", "t2")}
    for case, slack, pulls in (("W", "t2", "t1"), ("V", "t1", "t2")):
        members, nodes = not_acting(s, named(s, case))
        assert members[tie[slack]] and not members[tie[pulls]] and members.sum() == 1
        sheet = draw_diagram(s, named(s, case), "N", np.arange(7), XZ, KN)
        dashed = [
            p
            for (colour, _, _, style, _), paths in sheet.strokes.items()
            if style == SLACK and colour == GRID
            for p in paths
        ]
        assert np.allclose(dashed, [s.project.xyz[s.project.ends[tie[slack]]][:, [0, 2]]])
        assert "slack" in {e.words for e in sheet.key}
    assert nodes.sum() == 0
    lifted = not_acting(s, named(s, "W"))[1]
    assert [s.project.nodes[n].name for n in np.flatnonzero(lifted)] == ["f"]
    sheet = draw_reactions(s, named(s, "W"), np.arange(7), XZ, KN)
    assert [p.tolist() for mark, places in sheet.marks.items() if mark.symbol == "x" for p in places] == [[8, 0]]


def test_axial_forces_are_said_as_tension_or_compression():
    s = solution(HELD)
    sheet = draw_diagram(s, named(s, "W"), "N", np.arange(7), XZ, KN)
    letters = {w.colour: {x.text[-1] for x in sheet.wishes if x.colour == w.colour} for w in sheet.wishes}
    assert letters == {PLUS: {"T"}, MINUS: {"C"}}


@pytest.mark.parametrize("turn", [0, 33])
def test_solids_stand_as_their_sections_do(turn):
    """A plank of 300 by 100 mm along x: seen from its side it is 0.3 high, rolled by a quarter 0.1; from its end both."""
    c, s = np.cos(np.radians(turn)), np.sin(np.radians(turn))
    for roll, high, wide in ((0, 0.3, 0.1), (90, 0.1, 0.3)):
        text = BEAM.replace("b = [8, 6, 0]", f"b = [{8 * c:.17g}, {8 * s:.17g}, 0]").replace("c = [4, 3, 0]\n", "")
        project = resolved(text.replace("ends = {", f"roll = {roll}\nends = {{")).project
        for around, across in ((-90 + turn, 8.0), (turn, wide)):
            faces, bright = solid_faces(project, np.array([0]), View.named(f"{around},0"))
            size = np.ptp(np.vstack(faces), axis=0)
            assert size == pytest.approx([across, high], abs=1e-6)
            assert (bright >= 0).all() and (bright <= 1).all()


def test_the_nearer_of_two_solids_hides_the_other():
    text = BEAM.replace("b = [8, 6, 0]", "b = [8, 0, 0]\nd = [0, 2, 0]\ne = [8, 2, 0]").replace("c = [4, 3, 0]\n", "")
    text = text.replace('M = "a > b"', 'M = "a > b", K = "d > e"').replace(
        'at = ["a", "b"]', 'at = ["a", "b", "d", "e"]'
    )
    project = resolved(text).project
    view = View.named("-80,5")
    far, near = (len(solid_faces(project, np.array([m]), view)[0]) for m in (1, 0))
    faces, _ = solid_faces(project, np.array([0, 1]), view)
    own = {tuple(np.round(f, 9).ravel()) for f in solid_faces(project, np.array([0]), view)[0]}
    order = [tuple(np.round(f, 9).ravel()) in own for f in faces]
    assert order == [False] * far + [True] * near


def test_reactions_are_arrows_at_the_feet_with_their_values():
    """A simple beam of 10 m: half of 1.5 (3 x 10 + 5) up at either end; 1.5 x 1.2 x 4 along local y, 3 : 7 shared alike."""
    s = solution(BEAM)
    sheet = draw_reactions(s, named(s, "U"), np.array([0]), XZ, KN)
    texts = [w.text for w in sheet.wishes]
    assert texts.count(f"Fz {1.5 * 35 / 2:.4g} kN") == 2
    side = 1.5 * 1.2 * 4
    a = side * (10 - 4) / 10  # the load's middle is 4 m from a
    # Local y is (-0.6, 0.8) here; the supports push the other way.
    assert f"Fx {0.6 * a:.4g} kN" in texts and f"Fy {-0.8 * a:.4g} kN" in texts
    heads = [p for (colour, _, strength), paths in sheet.fills.items() if strength == 1.0 for p in paths]
    up = [h for h in heads if abs(h[0, 1]) < 1e-9 and h[1:, 1].max() < 0]
    assert len(up) == 2
    shafts = np.vstack([p for key, paths in sheet.strokes.items() if key[0] == canvas.POINT for p in paths])
    assert shafts[:, 1].min() == pytest.approx(-0.1 * sheet.size)
    assert "reactions, on the structure," in sheet.foot[0][0] and f"Fz {1.5 * 35:.5g}" in sheet.foot[0][0]


def test_a_strip_shows_all_along_one_member_by_closed_form():
    """Under 3 kN/m and 5 kN at midspan: M = q L2/8 + F L/4, V jumps by F, the sag 5 q L4/384 EI + F L3/48 EI."""
    s = solution(BEAM)
    found = member_strip(s, named(s, "Q"), 0)
    assert found.q_x.tolist() == [0, 2, 2, 6, 6, 10]
    assert np.allclose(found.q, 1e3 * np.repeat([[0, 0, -3], [0, 1.2, -3], [0, 0, -3]], 2, axis=0))
    assert found.point_x.tolist() == [5] and np.allclose(found.point[0, :3], [0, 0, -5e3])
    figure = draw_strip(s, named(s, "Q"), 0, KN).figure
    texts = {t.get_text() for axes in figure.axes for t in axes.texts}
    EI = 210e9 * 0.1 * 0.3**3 / 12
    sag = 5 * 3e3 * 10**4 / (384 * EI) + 5e3 * 10**3 / (48 * EI)
    assert {f"{3 * 100 / 8 + 5 * 10 / 4:.4g}", "17.5", "2.5", "-2.5", "-17.5", f"{-1e3 * sag:.4g}"} <= texts
    assert {"3 kN/m", "5 kN", "1.2 kN/m", "c"} <= texts
    labels = [axes.get_ylabel().split("\n")[0] for axes in figure.axes]
    assert labels == ["loads", "Vz", "My", "deflection z", "loads", "Vy", "Mz", "deflection y"]
    inverted = {axes.get_ylabel().split("\n")[0]: axes.yaxis_inverted() for axes in figure.axes}
    assert inverted["My"] and inverted["Mz"] and not inverted["Vz"]
    my = next(axes for axes in figure.axes if axes.get_ylabel().startswith("My"))
    filled = np.vstack([p.vertices for c in my.collections for p in c.get_paths()])
    assert filled[:, 1].max() == pytest.approx(50) and filled[:, 1].min() > -1e-9
    # Along local y: 1.2 kN/m from 2 to 6 m; the largest moment where V vanishes.
    R = 1.2 * 4 * 6 / 10
    M = R * (2 + R / 1.2) - 1.2 * (R / 1.2) ** 2 / 2
    assert any(abs(abs(float(t)) - M) < 6e-4 * M for t in texts if t.replace(".", "").lstrip("-").isdigit())


def test_pictures_side_by_side_share_one_scale():
    """0.5 and 1 times one load on a level beam: the diagram of the second is twice as deep, its shape and arrows too."""
    s = solution(BEAM + 'H = "0.5 Q"\nD = "1.0 Q"\n')
    for what, of in ((Picture.MY, "fills"), (Picture.DEFLECTED, "strokes"), (Picture.LOADS, "strokes")):
        drawn = picture(Asked(what, np.array([0]), XZ), s.model, named(s, ["H", "D"]), KN, lambda: s, None)
        alone = picture(Asked(what, np.array([0]), XZ), s.model, [named(s, "H")], KN, lambda: s, None)
        assert isinstance(drawn, Drawing) and len(drawn.sheets) == 2
        colours = {Picture.DEFLECTED: (canvas.SHAPE,), Picture.LOADS: (canvas.LOAD,)}.get(what, (PLUS, MINUS))
        half, whole, itself = (
            max(abs(p[:, 1]).max() for key, paths in getattr(sheet, of).items() if key[0] in colours for p in paths)
            for sheet in (*drawn.sheets, *alone.sheets)
        )
        assert whole == pytest.approx(2 * half, rel=1e-6) and whole > 0.1
        assert itself == pytest.approx(whole, rel=1e-6) or what == Picture.DEFLECTED
        assert drawn.sheets[0].note.startswith("H") and drawn.sheets[1].note.startswith("D")
        limits = [(axes.get_xlim(), axes.get_ylim()) for axes in drawn.figure().axes]
        assert limits[0] == limits[1]


def test_elevations_and_plans_show_what_lies_in_them():
    project = resolved(grid_frame(2, 2)).project
    members, view = elevation(project, "N1")
    assert view.alone and (project.xyz[project.ends[members]][:, :, 1] == 5).all() and len(members) == 3 * 2 + 2 * 2
    assert view.flat(np.array([1.0, 9.0, 2.0])).tolist() == [1, 2]
    members, view = elevation(project, "L2")
    assert (project.xyz[project.ends[members]][:, :, 0] == 12).all()
    assert view.flat(np.array([9.0, 1.0, 2.0])).tolist() == [1, 2]
    members, view = plan(project, "S1")
    assert len(members) == 12 and view.flat(np.array([1.0, 2.0, 9.0])).tolist() == [1, 2]
    sheet = draw_frame(project, members, view)
    assert not sheet.marks.get(next((m for m in sheet.marks if m.symbol == "fixed"), None))
    assert "plan of S1" in sheet.note and len(np.vstack([p for paths in sheet.strokes.values() for p in paths])) < 80
    for ask, name, words in (
        (elevation, "S1", "--plan S1"), (plan, "L1", "--elevation L1"), (elevation, "L9", "known are L0, L1"),
        (plan, "S0", "no member lies"),
    ):  # fmt: skip
        with pytest.raises(NoPart, match=words):
            ask(project, name)
    both = resolved(grid_frame(2, 1).replace("N1", "L1")).project
    with pytest.raises(NoPart, match="x=L1 or y=L1"):
        elevation(both, "L1")
    assert len(elevation(both, "x=L1")[0]) == len(elevation(both, "y = L1")[0]) == 5


MACHADO = {
    "protan": [[0.152286, 1.052583, -0.204868], [0.114503, 0.786281, 0.099216], [-0.003882, -0.048116, 1.051998]],
    "deutan": [[0.367322, 0.860646, -0.227968], [0.280085, 0.672501, 0.047413], [-0.011820, 0.042940, 0.968881]],
    "tritan": [[1.255528, -0.076749, -0.178779], [-0.078411, 0.930809, 0.147602], [0.004733, 0.691367, 0.303900]],
}
"""Machado, Oliveira and Fernandes 2009, severity 1: linear RGB as it is seen."""


def lab(colour, seen=None):
    """CIE L*a*b* of an sRGB colour [IEC 61966-2-1], as someone with that colour vision sees it."""
    v = np.array([int(colour[i : i + 2], 16) / 255 for i in (1, 3, 5)])
    v = np.where(v <= 0.04045, v / 12.92, ((v + 0.055) / 1.055) ** 2.4)
    v = np.clip(np.array(MACHADO[seen]) @ v, 0, 1) if seen else v
    xyz = np.array([[0.4124, 0.3576, 0.1805], [0.2126, 0.7152, 0.0722], [0.0193, 0.1192, 0.9505]]) @ v
    f = np.cbrt(xyz / [0.9505, 1.0, 1.089])
    return np.array([116 * f[1] - 16, 500 * (f[0] - f[1]), 200 * (f[1] - f[2])])


def test_colours_are_told_apart_without_colour_and_by_the_colour_blind():
    """Signs by 15 of lightness, so also on paper in black and white; and by 25 of colour for every kind of vision."""
    assert abs(lab(PLUS)[0] - lab(MINUS)[0]) > 15
    for a, b in ((PLUS, MINUS), (canvas.LOAD, canvas.POINT), (canvas.SHAPE, canvas.FAINT), (canvas.POINT, canvas.GRID)):
        for seen in (None, *MACHADO):
            assert np.linalg.norm(lab(a, seen) - lab(b, seen)) > 25, (a, b, seen)
    from empuje.show.drawings.draw_use import SHADES

    light = [lab(s)[0] for s in SHADES]
    assert all(a - b > 10 for a, b in itertools.pairwise(light))


def test_what_is_painted_by_several_processes_is_the_same(tmp_path):
    s = solution(PORTAL)
    sheets = [draw_diagram(s, named(s, name), force, np.arange(len(s.project.members)), ISO, KN)
              for name in ("U1", "U2") for force in ("N", "My", "Vz", "T")]  # fmt: skip
    drawings = [Drawing((sheet,)) for sheet in sheets]
    for i, drawing in enumerate(drawings):
        drawing.save(tmp_path / f"one-{i}.png")
    with press(large=True) as painted:
        painted((d, tmp_path / f"all-{i}.png") for i, d in enumerate(drawings))
    for i in range(len(drawings)):
        assert (tmp_path / f"all-{i}.png").read_bytes() == (tmp_path / f"one-{i}.png").read_bytes()


def test_pictures_from_python(tmp_path):
    path = tmp_path / "f.toml"
    path.write_text(grid_frame(2, 2), encoding="utf-8")
    model = empuje.read(path, cache=False)
    results = model.solve()
    two = results.draw("My", under=["Q", "W"], elevation="N1", label="sections")
    assert len(two.sheets) == 2 and len(two.sheets[0].members) == 10
    assert any(w.text == "IPE 330" for w in two.sheets[1].wishes)
    assert "<svg" in results.draw("strip", under="Q", on="beams/N1@S1/L0-L1").svg()
    with pytest.raises(LookupError, match="one member"):
        results.draw("strip", under="Q", on="beams")
    with pytest.raises(NoPart):
        model.draw("frame", plan="S9")
    path.write_text(grid_frame(2, 2) + '[combinations.custom]\nA = "Q"\nB = "W"\nC = "Q + W"\n', encoding="utf-8")
    with pytest.raises(ValueError, match="up to 4"):
        empuje.read(path, cache=False).solve().draw("My")


def test_a_chart_of_characters_has_the_shape_of_the_force():
    """M below the axis as high as it is, V jumping at the force; figures by closed form; nothing where nothing is."""
    s = solution(BEAM)
    lines = chart_of(s, named(s, "Q"), 0, "My", Display(("kN", "m", "mm", "MPa"), 100)).splitlines()
    assert lines[0] == "beam/M: My [kN*m] under Q, on the tension side"
    body = [line[11:] for line in lines[1:] if "█" in line or "▀" in line]
    assert len(body) == 12 and lines[1].endswith("─") and all("▄" not in line for line in body)
    # Widest at the axis, narrowing downwards, deepest at midspan; as deep at a quarter as 3/4 and the force's half say.
    spans = [len(line.strip()) for line in body]
    assert spans == sorted(spans, reverse=True)
    columns = [
        sum(2 if line.ljust(90)[i] == "█" else 1 if line.ljust(90)[i] == "▀" else 0 for line in body) for i in range(89)
    ]
    assert columns[44] == 24 and columns[22] == pytest.approx(24 * (0.75 * 37.5 + 0.5 * 12.5) / 50, abs=1)
    text = "\n".join(lines)
    assert "greatest 50 kN*m at 5 m" in text and "0 at a, 0 kN*m at b, 10 m long" in text
    shear = chart_of(s, named(s, "Q"), 0, "Vz", KN)
    assert "17.5 at a, -17.5 kN at b" in shear
    rows = [line for line in shear.splitlines() if set(line[11:]) & set("█▀▄")]
    assert len(rows) == 12 and shear.splitlines()[7].endswith("─")
    assert "nothing all along it" in chart_of(s, named(s, "Q"), 0, "N", KN)
