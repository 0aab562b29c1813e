"""Copies: what happens to a part happens to its image, turned and mirrored with it; and against models written out."""

import math

import numpy as np
import pytest

from empuje.api import read
from empuje.files.plain.model import as_toml, plain_model
from empuje.files.reader import read_text
from models import reading

PART = """
[project]
units = "kN m"
[nodes]
a = [0, 0, 0]
b = [5, 1, 0]
c = [4, 6, 0.5]
A = [0, 0.2, 4]
B = [5, 1, 4.5]
C = [4, 6, 5]
T = [-2, -1, 6]
D = [2.5, 0.6, 4.25]
[materials]
m = { E = "210 GPa", G = "81 GPa", density = "7850 kg/m3", expansion = "12e-6 1/K" }
[sections.own]
shape = "I"
h = "300 mm"
b = "150 mm"
tw = "7 mm"
tf = "11 mm"
fibres = { edge = { y = "60 mm", z = "140 mm" } }
[members.posts]
section = "UPE 200"
material = "m"
roll = 25
pieces = { a = "a > A", b = { between = "b > B", roll = -40 }, c = "C > c" }
[members.beams]
section = "own"
material = "m"
roll = 10
shear = true
ends = ["rigid", { ry = "8 MN*m/rad", free = "rz" }]
pieces = { ab = "A > B", bc = { between = "B > C", offsets = ["20 cm", "10 cm"] }, ca = "C > A" }
[members.angles]
section = "L 120x80x10"
material = "m"
roll = -15
pieces = { at = "A > T", bt = "T > B" }
[members.tees]
section = "WT7x34"
material = "m"
pieces = { ct = "C > T" }
[members.ties]
section = "L 60x60x6"
material = "m"
bar = true
acts = "tension"
pieces = { one = "a > B", two = "b > A" }
[[supports]]
at = ["a", "b"]
fix = "x y z rz"
spring = { rx = "5 MN*m/rad", ry = "3 MN*m/rad" }
settle = { case = "SET", z = "-4 mm", x = "2 mm", y = "-1 mm", rx = "1 mrad", ry = "2 mrad", rz = "3 mrad" }
[[supports]]
at = "c"
fix = "fixed"
turn = { z = "20 deg" }
lift = true
[surfaces.roof]
corners = ["A", "B", "T"]
deck = [ "A", "B" ]
[surfaces.wall]
corners = [[0, 0.2, 4], [5, 1, 4.5], [5, 1, 4.5], [0, 0.2, 4]]
deck = "short"
[cases]
SW = { action = "dead", self_weight = 1 }
L1 = { action = "live" }
L2 = { action = "live" }
TMP = { action = "thermal" }
SET = { action = "settlement" }
AR = { action = "live" }
[loads]
L1 = [ { on = "beams/ab", line = [2, 5], dir = "local y", from = "1 m" }, { on = "posts", line = 1.5, dir = "local z" },
       { on = "beams", line = 3 }, { on = "angles", line = 1, dir = "+y", per = "projected" },
       { on = "beams/bc", force = 9, dir = "-local y", at = ["30%", "2 m"] } ]
L2 = [ { on = "posts/a", moment = 4, dir = "local x", at = "50%" }, { on = "beams/ca", moment = 5, dir = "local y", at = "1 m" },
       { on = "posts/b", moment = -6, dir = "local z", at = "30%" }, { on = "T", moment = 7, dir = "+x" },
       { on = "T", force = 8, dir = "+x" }, { on = "beams/bc", moment = 3, dir = "+y", at = "60%" } ]
TMP = [ { on = "beams", temperature = 30, gradient_y = "40 K/m", gradient_z = "-25 K/m" }, { on = "posts/a", lack_of_fit = "3 mm" }, { on = "posts", temperature = 5, gradient_y = "50 K/m" },
        { on = "angles", gradient_y = "60 K/m", gradient_z = "20 K/m" } ]
AR = [ { on = "roof", area = 1.2, dir = "normal" }, { on = "roof", area = [0.5, 2], along = ["A", "T"], dir = "+y" },
       { on = "roof", force = 6, at = ["40%", "30%"] }, { on = "roof", line = 2, from = ["30%", "10%"], to = ["55%", "40%"], dir = "-x" } ]
[combinations.custom]
U = "SW + L1 + L2 + 0.5 AR"
V = "SW - L1 + 1.5 L2 + AR + TMP"
W = "SW + SET + 2 AR - L2"
[[accepted]]
finding = "local-axes-differ"
reason = "they differ on purpose"
[[copies]]
name = "image"
of = ["*/*", "roof"]
"""
PART = PART.replace("""[surfaces.wall]
corners = [[0, 0.2, 4], [5, 1, 4.5], [5, 1, 4.5], [0, 0.2, 4]]
deck = "short"
""", "").replace('D = [2.5, 0.6, 4.25]\n', "")  # fmt: skip


def turned(degrees, about):
    c, s = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    return np.array([[c, -s, 0], [s, c, 0], [0, 0, 1]]), np.array([*about, 0])


def mirrored(degrees, through):
    """The plane's trace is at so many degrees from x."""
    c, s = math.cos(math.radians(2 * degrees)), math.sin(math.radians(2 * degrees))
    return np.array([[c, s, 0], [s, -c, 0], [0, 0, 1]]), np.array([*through, 0])


MOTIONS = {
    "shifted": ('shift = ["40 m", -3, 2]', (np.eye(3), None)),
    "turned by 33 degrees": ('turn = "33 deg"\nabout = [40, 10]', turned(33, (40, 10))),
    "turned by a quarter": ("turn = 90\nabout = [40, 0]", turned(90, (40, 0))),
    "mirrored across x": ('mirror = { x = "-20 m" }', mirrored(90, (-20, 0))),
    "mirrored across y": ("mirror = { y = 25 }", mirrored(0, (0, 25))),
    "mirrored at 57 degrees": (
        f"mirror = {{ through = [[-20, 3], [{-20 + math.cos(math.radians(57))!r}, {3 + math.sin(math.radians(57))!r}, 9]] }}",
        mirrored(57, (-20, 3)),
    ),
}


def by_name(table, value):
    """Of a table of API results: what each name and case has."""
    key = "node" if "node" in table else "member"
    return {(row[key], row["case"], *((round(row["x [m]"], 6),) if "x [m]" in row else ())): row[value].to_numpy(float)
            for _, row in table.iterrows()}  # fmt: skip


@pytest.mark.parametrize("name", MOTIONS)
def test_what_happens_to_a_part_happens_to_its_image(name, tmp_path):
    """Reactions, displacements and stresses of the image are those of the part, moved: under every kind of load, with
    springs, turned supports that can lift, hinges, offsets, one-way bars, and sections that are alike on no side."""
    words, (R, about) = MOTIONS[name]
    (tmp_path / "m.toml").write_text(PART + words + "\n", encoding="utf-8")
    model = read(tmp_path / "m.toml", cache=False)
    t = np.array([40, -3, 2]) if about is None else about - R @ about
    nodes = {n.name: np.array(n.xyz) for n in model.project.nodes}
    for node in "abcABCT":
        assert nodes[f"{node}~image"] == pytest.approx(R @ nodes[node] + t, abs=1e-9)
    results = model.solve()
    det = np.linalg.det(R)
    force, turn = ["Fx [kN]", "Fy [kN]", "Fz [kN]"], ["Mx [kN*m]", "My [kN*m]", "Mz [kN*m]"]
    table = results.reactions()
    cases = set(table["case"])
    assert {"SW", "L1", "TMP", "SET", "AR", "U", "V", "W"} <= cases
    for value, factor in ((force, 1.0), (turn, det)):
        found = by_name(table, value)
        size = max(np.abs(v).max() for v in found.values())
        for node in "abc":
            for case in cases:
                assert found[f"{node}~image", case] == pytest.approx(factor * R @ found[node, case], abs=1e-9 * size), (
                    node,
                    case,
                )
    moved = by_name(results.displacements(), ["ux [mm]", "uy [mm]", "uz [mm]"])
    size = max(np.abs(v).max() for v in moved.values())
    for node in "ABCT":
        for case in cases:
            assert moved[f"{node}~image", case] == pytest.approx(R @ moved[node, case], abs=1e-8 * size), (node, case)
    forces = results.forces(at=["0%", "37%", "100%"])
    section = by_name(forces, ["N [kN]", "My [kN*m]", "Mz [kN*m]"])
    members = {m.name: m for m in model.project.members}
    seen = 0
    for (member, case, x), own in section.items():
        if "~" in member or members[member].bar:
            continue
        image = section[f"{member}~image", case, x]
        for stresses in zip(
            corners(members[member].section, own), corners(members[f"{member}~image"].section, image), strict=True
        ):
            assert np.sort(stresses[1]) == pytest.approx(
                np.sort(stresses[0]), abs=1e-8 * np.abs(stresses[0]).max() + 1e-9
            )
            seen += 1
    assert seen > 200
    # Named fibres keep their places in the structure.
    own, image = (members[m].section for m in ("beams/ab", "beams/ab~image"))
    a, b = (
        model.project.axes[[m.name for m in model.project.members].index(n)] for n in ("beams/ab", "beams/ab~image")
    )
    place = own.fibres[0].y * a[1] + own.fibres[0].z * a[2]
    assert image.fibres[0].y * b[1] + image.fibres[0].z * b[2] == pytest.approx(R @ place, abs=1e-12)


def corners(section, forces):
    """Normal stresses at the outline's points, loop by loop."""
    N, My, Mz = forces
    return [N / section.A - My * p[:, 1] / section.Iy - Mz * p[:, 0] / section.Iz for p in section.outline]


HALL = """
[project]
units = "kN m"
[grid]
x = { A = 0, B = 6, C = 12, D = 18 }
y = { 1 = 0, 2 = 8 }
z = { base = 0, eave = 5 }
[members.columns]
section = "HEA 200"
material = "S355"
runs = ["COLUMNS / 1,2 / base>eave"]
[members.beams]
section = "IPE 400"
material = "S355"
runs = ["COLUMNS / 1>2 / eave"]
[members.edges]
section = "IPE 240"
material = "S355"
ends = "hinged"
runs = ["EDGES / 1,2 / eave"]
[[supports]]
at = "*@base"
fix = "fixed"
[surfaces.roof]
corners = ["A1@eave", "EAST1@eave", "EAST2@eave", "A2@eave"]
deck = "x"
bearing = "beams"
[cases]
G = { action = "dead", self_weight = 1 }
S = { action = "snow" }
W = { action = "wind" }
[loads]
G = [ { on = "edges", line = 2 } ]
S = [ { on = "roof", area = 1 } ]
W = [ { on = "columns", line = 1.2, dir = "+x" } ]
"""


def hall(columns, edges, east, more=""):
    return HALL.replace("COLUMNS", columns).replace("EDGES", edges).replace("EAST", east) + more


def reactions(path, text):
    path.write_text(text, encoding="utf-8")
    model = read(path, cache=False)
    places = {n.name: tuple(np.round(n.xyz, 6)) for n in model.project.nodes}
    table = model.solve().reactions()
    return {
        (places[row["node"]], row["case"]): row[["Fx [kN]", "Fy [kN]", "Fz [kN]"]].to_numpy(float)
        for _, row in table.iterrows()
    }


def same(a, b):
    assert a.keys() == b.keys() and len(a) >= 24
    size = max(np.abs(v).max() for v in a.values())
    return all(np.abs(a[k] - b[k]).max() < 1e-9 * size for k in a)


def test_bays_copied_are_the_hall_written_out(tmp_path):
    """One bay shifted twice: columns that would be there twice are one, and everything is on them once. The roof's bays
    meet over a frame that bears both."""
    whole = reactions(tmp_path / "w.toml", hall("A..D", "A>>D", "D"))
    bay = hall("A,B", "A>>B", "B", '[[copies]]\nname = "bay"\nof = ["*/*", "roof"]\nshift = ["6 m", 0, 0]\ntimes = 2\n')
    assert same(whole, reactions(tmp_path / "c.toml", bay))
    assert [f.code for f in reading(bay).findings if f.level != "note"] == []
    assert "copy-meets-members" in [f.code for f in reading(bay).findings]


def test_a_half_mirrored_is_the_hall_written_out(tmp_path):
    """About the middle of the middle bay, with no loads of the wind: those of its own half are mirrored only if asked."""
    half = '[[copies]]\nname = "east"\nof = ["columns/*", "beams/*", "edges/*A-B", "roof"]\nmirror = { x = 9 }\nloads = ["G", "S"]\n'
    text = hall("A,B", "A>>C", "B", half).replace("runs = [\"A,B / 1>2", 'runs = ["A,B / 1>2').replace(
        'deck = "x"', 'deck = "x"\n[surfaces.middle]\ncorners = ["B1@eave", "C1@eave", "C2@eave", "B2@eave"]\ndeck = "x"\nbearing = ["beams", "beams/*~east"]').replace(
        'on = "roof", area', 'on = ["roof", "middle"], area').replace(
        'on = "columns", line = 1.2', 'on = ["columns", "columns/*~east"], line = 1.2').replace("bearing = \"beams\"\n", "", 1)  # fmt: skip
    whole = reactions(tmp_path / "w.toml", hall("A..D", "A>>D", "D"))
    assert same(whole, reactions(tmp_path / "c.toml", text))


@pytest.mark.parametrize(
    ("more", "code", "words"),
    [
        ('name = "x"\nof = "*/*"', "which-way", "one of shift, turn and mirror"),
        ('name = "x"\nof = "*/*"\nshift = [1, 0, 0]\nturn = 30', "which-way", "shift and turn"),
        ('name = "x"\nof = "*/*"\nshift = [1, 0]', "bad-place", "write [x, y, z]"),
        ('name = "x"\nof = "*/*"\nshift = [0, 0, "0.1 mm"]', "bad-place", "farther than a millimetre"),
        ('name = "x"\nof = "*/*"\nshift = [1, 0, "2 kN"]', "bad-quantity", "is a force"),
        ('name = "x"\nof = "*/*"\nturn = 30', "missing-key", "about"),
        ('name = "x"\nof = "*/*"\nturn = 30\nabout = "Z9"', "unknown-name", "no node or crossing Z9"),
        ('name = "x"\nof = "*/*"\nmirror = "B"', "not-a-table", "{ x ="),
        ('name = "x"\nof = "*/*"\nmirror = { x = "Q" }', "bad-quantity", "Q"),
        ('name = "x"\nof = "*/*"\nmirror = { w = 1 }', "unknown-key", "x"),
        ('name = "x"\nof = "*/*"\nmirror = { x = 1, y = 2 }', "which-way", "one of x, y and through"),
        ('name = "x"\nof = "*/*"\nmirror = { through = ["A1@base", "A1@eave"] }', "bad-place", "two apart in plan"),
        ('name = "x"\nof = "*/*"\nmirror = { x = 30 }\ntimes = 2', "wrong-key", "mirror has no `times`"),
        ('name = "x"\nof = "*/*"\nshift = [30, 0, 0]\ntimes = 0', "bad-quantity", "whole number"),
        ('name = "x"\nof = "*/*"\nshift = [30, 0, 0]\ntimes = true', "bad-quantity", "whole number"),
        ('name = "x"\nof = "*/*"\nshift = [30, 0, 0]\nloads = ["Q"]', "unknown-name", "no case Q"),
        ('name = "x~1"\nof = "*/*"\nshift = [30, 0, 0]', "bad-name", "letters, digits and _"),
        ('name = "x"\nof = ["*/*", "rof"]\nshift = [30, 0, 0]', "matches-nothing", "nothing is called rof"),
        ('name = "x"\nof = ["*/*", "beems/A*"]\nshift = [30, 0, 0]', "matches-nothing", "nothing is called beems/A"),
        ('of = "*/*"\nshift = [30, 0, 0]', "missing-key", "name"),
        (
            'name = "x"\nof = "*/*"\nshift = [30, 0, 0]\n[[copies]]\nname = "x"\nof = "*/*"\nshift = [60, 0, 0]',
            "bad-name",
            "twice",
        ),
    ],
)
def test_slips_are_told(more, code, words):
    found = [f for f in reading(hall("A,B", "A>>B", "B", f"[[copies]]\n{more}\n")).findings if f.level == "error"]
    assert code in [f.code for f in found] and any(words in str(f) for f in found), [str(f) for f in found]
    assert all(f.place.line > HALL.count("\n") for f in found if f.code == code)


def test_a_rigid_floor_grows_with_bays_that_join_it_and_comes_along_with_those_that_do_not():
    floor = '[diaphragms]\neave = { nodes = "*@eave" }\n'
    near = '[[copies]]\nname = "near"\nof = "*/*"\nshift = [6, 0, 0]\n'
    far = '[[copies]]\nname = "far"\nof = "*/*"\nshift = [60, 0, 0]\n'
    (one,) = reading(hall("A,B", "A>>B", "B", near + floor)).project.diaphragms
    assert len(one.nodes) == 6 and len(set(one.nodes)) == 6
    found = reading(hall("A,B", "A>>B", "B", far + floor))
    names = [{found.names.nodes[n] for n in d.nodes} for d in found.project.diaphragms]
    assert [d.name for d in found.project.diaphragms] == ["eave", "eave~far"]
    assert len(names[0]) == 4 and names[1] == {f"{n}~far" for n in names[0]}


def test_copies_of_copies_names_and_selectors(tmp_path, capsys):
    """A copy may be of earlier ones, by their names; commands mean copies too; loads may go to a copy alone."""
    more = """
[[copies]]
name = "far"
of = ["columns", "beams"]
shift = [0, 20, 0]
supports = false
loads = false
[[copies]]
name = "both"
of = ["columns", "columns/*~far", "beams/A*~far"]
shift = [0, 0, 7]
loads = "G"
"""
    text = hall("A,B", "A>>B", "B", more).replace(
        "W = [ {", 'W = [ { on = "columns/A1*~far", line = 9, dir = "+y" }, {'
    )
    found = reading(text)
    names = found.names.members
    assert sum(n.endswith("~far") for n in names) == 6 and sum(n.endswith("~far~both") for n in names) == 5
    assert sum(n.endswith("~both") for n in names) == 9
    assert {s.node for s in found.project.supports} == {i for i, n in enumerate(found.names.nodes) if n.endswith("base")} | {
        i for i, n in enumerate(found.names.nodes) if n.endswith("base~both")}  # fmt: skip
    by_case = {c: [load for load in found.project.loads if load.case == c] for c in ("G", "W")}
    assert [names[i] for i in by_case["W"][0].members] == ["columns/A1/base-eave~far"]
    assert len(by_case["W"]) == 2 and len(by_case["G"]) == 1
    assert len(found.names.members_meant(["columns"])) == 4 + 4 + 8
    less = reading(text.replace('on = "edges", line = 2', 'on = "!columns/*~far", line = 2'))
    (load, *_) = (x for x in less.project.loads if x.case == "G")
    assert {names[i].partition("/")[0] for i in load.members} == {"columns", "beams", "edges"} and len(
        load.members
    ) == 8
    assert len(found.names.members_meant(["columns/*~*", "!columns/*~both"])) == 4


FLOORS = """
[project]
units = "kN m"
[nodes]
a = [0, 0, 4]
b = [6, 0, 4]
c = [0, 4, 4]
d = [6, 4, 4]
[members.beams]
section = "IPE 300"
material = "S355"
pieces = {{ ab = "a > b", cd = "c > d" }}
[surfaces.floor]
corners = ["a", "b", "d", "c"]
deck = "y"
[[supports]]
at = {at}
fix = "x y z rx rz"
spring = {{ ry = "5 MN*m/rad" }}
[cases]
Q = {{ action = "live" }}
P = {{ action = "live" }}
[loads]
Q = [ {{ on = {floor}, area = 2 }} ]
P = [ {{ on = {beams}, line = 4 }}, {{ on = {nodes}, force = 3 }} ]
{copies}
"""
"""A floor of 48 kN, on beams with 48 kN of their own and 6 kN at two nodes."""
EAST = '[[copies]]\nname = "east"\nof = ["beams", "floor"]\nshift = [20, 0, 0]\n'
NORTH = '[[copies]]\nname = "north"\nof = {of}\nshift = [20, 0, 0]\ntimes = 3\n'


def floors(copies, at='"*"', floor='"floor"', beams='"beams"', nodes='["a", "b"]'):
    from empuje.core.findings.cases import total_forces
    from empuje.core.resolve import resolve

    found = reading(FLOORS.format(copies=copies, at=at, floor=floor, beams=beams, nodes=nodes))
    assert not [f for f in found.findings if f.level == "error"], found.findings
    down = -total_forces(resolve(found.project))[:, 2] / 1e3
    return found, down


@pytest.mark.parametrize(
    ("of", "units"),
    [('["beams/*~*", "floor~*"]', 2 + 3), ('["beams*", "beams/*~*", "*~*", "floor"]', 2 + 3)],
    ids=["of copies", "of all"],
)
def test_what_a_copy_is_of_is_settled_before_the_first_is_laid(of, units):
    """Copies of copies, each 20 m on, the first of them where the copy of the first is: loads once on every one."""
    copies = EAST + NORTH.format(of=of)
    found, down = floors(copies)
    assert down == pytest.approx([48 * units, 54 * units]) and len(found.project.surfaces) == units
    assert len(found.project.members) == 2 * units and len(found.project.supports) == 4 * units


def test_what_names_its_copies_itself_is_not_brought_to_them_again():
    """Loads, surfaces' loads, nodes' loads and springs on what was written and on copies, by one entry or brought along;
    a second copy of the first brings them once, too."""
    copies = EAST + '[[copies]]\nname = "up"\nof = ["beams", "beams/*~*", "floor", "floor~*"]\nshift = [0, 0, 3]\n'
    one, down = floors(copies)
    two, named = floors(
        copies, '["*", "*~*"]', '["floor", "floor~*"]', '["beams", "beams/*~*"]', '["a", "b", "a~*", "b~*"]'
    )
    assert down == pytest.approx([4 * 48, 4 * 54]) and named == pytest.approx(down)
    key = lambda s: (s.node, s.held, s.spring)  # noqa: E731
    assert sorted(map(key, one.project.supports)) == sorted(map(key, two.project.supports))
    assert len(one.project.supports) == 16


def test_what_copies_leave_out_and_what_cancels_is_told():
    west = '[[copies]]\nname = "w"\nof = ["beams", "floor"]\nmirror = { x = -5 }\n'
    of = lambda found, code: [f for f in found.findings if f.code == code]  # noqa: E731
    (said,) = of(floors(EAST + NORTH.format(of='["beams", "floor"]'))[0], "copies-left-out")
    assert "leaves beams/ab~east, beams/cd~east out" in said.message and said.level == "note"
    (said,) = of(floors(EAST + "loads = false\n")[0], "copies-unloaded")
    assert said.about == ("P", "Q") and not of(floors(EAST)[0], "copies-unloaded")
    push = lambda way, action: reading(  # noqa: E731
        FLOORS.format(copies=west, at='"*"', floor='"floor"', nodes='["a", "b"]', beams='"beams"')
        .replace("line = 4", f'line = 4, dir = "{way}"').replace('P = { action = "live"', f'P = {{ action = "{action}"')
    )  # fmt: skip
    for way, action, level in (("+x", "wind", "warning"), ("-x", "seismic", "warning"), ("local x", "live", "note")):
        (said,) = of(push(way, action), "mirrored-against")
        assert said.level == level and said.about == ("P", "w"), way
    assert not of(push("+y", "wind"), "mirrored-against") and not of(push("down", "wind"), "mirrored-against")
    from empuje.core.findings.every import suspicious
    from empuje.core.resolve import resolve

    text = FLOORS.format(copies=west, at='"*"', floor='"floor"', nodes='["a", "b"]', beams='"beams"')
    none = text.replace("force = 3", 'force = 3, dir = "+x"').replace("line = 4", 'line = 4, dir = "+x"')
    (said,) = of(type("", (), {"findings": suspicious(resolve(reading(none).project))}), "sums-to-nothing")
    assert said.about == ("P",) and "108 kN in all" in said.message


def test_a_copy_in_the_place_of_another_member_is_told():
    """A second frame of other columns where the copied bay ends: they stay, and it is said; names never meet."""
    text = hall("A,B", "A>>B", "B", '[[copies]]\nname = "n"\nof = "*/*"\nshift = [6, 0, 0]\n').replace(
        "[members.beams]", '[members.end]\nsection = "HEB 300"\nmaterial = "S355"\nruns = ["C / 1 / base>eave"]\n[members.beams]')  # fmt: skip
    found = [f for f in reading(text).findings if f.level != "note"]
    assert [(f.code, f.about) for f in found] == [("copy-differs", ("columns/B1/base-eave", "end/C1/base-eave"))]
    assert "HEA 200 of S355 where end/C1/base-eave is HEB 300 of S355, which stays" in found[0].message
    more = '[[copies]]\nname = "x"\nof = "*/*"\nshift = [30, 0, 0]\ntimes = 2\n[[copies]]\nname = "x2"\nof = "*/*"\nshift = [90, 0, 0]\n'
    assert "is there twice, as x2" in str(
        [f for f in reading(hall("A,B", "A>>B", "B", more)).findings if f.level == "error"]
    )


def test_half_a_plane_portal_mirrored_is_the_whole(tmp_path):
    """The starter, with its right half as the image of the left: columns and rafters with sections upright, and wind that is
    not mirrored."""
    from importlib.resources import files

    whole = files("empuje.samples").joinpath("starters", "portal.toml").read_text(encoding="utf-8")
    half = whole.replace('"A,C / base>eave"', '"A / base>eave"').replace(', "B>C / ridge>eave"', "")
    half = half.replace(
        "[[supports]]", '[[copies]]\nname = "right"\nof = "*/*"\nmirror = { x = "B" }\nloads = ["G", "Q"]\n[[supports]]'
    )
    half = half.replace("x = { A = 0, B = 5, C = 10 }", "x = { A = 0, B = 5 }")
    found, copied = reactions(tmp_path / "w.toml", whole), reactions(tmp_path / "c.toml", half)
    assert found.keys() == copied.keys() and len(found) > 20
    for key, force in found.items():
        assert copied[key] == pytest.approx(force, rel=1e-9, abs=1e-9, nan_ok=True), key
    assert [f.code for f in reading(half).findings if f.level != "note"] == []


CRANE = """
[project]
units = "kN m"
[nodes]
a = [0, 0, 4]
b = [6, 0, 4]
c = [0, 3, 4]
d = [6, 3, 4]
{more}
[members.runway]
section = "HEB 300"
material = "S355"
pieces = {{ ab = "a > b", cd = "c > d"{pieces} }}
[surfaces.deck]
corners = ["a", "b", "d", "c"]
deck = "y"
{surfaces}
[[supports]]
at = "*"
fix = "fixed"
[vehicles.v]
axles = [["0 m", "30 kN"], ["2 m", "20 kN"]]
[traffic.M]
vehicle = "v"
{way}
[cases]
G = {{ action = "dead", self_weight = 1 }}
{copies}
"""


@pytest.mark.parametrize(
    ("way", "ways"),
    [
        ('way = "runway/ab"', 'ways = ["runway/ab", "runway/ef"]'),
        ('way = ["a", "b"]', 'ways = [["a", "b"], ["e", "f"]]'),
        ('way = [[0, 2, 4], [6, 2, 4]]\nsurface = "deck"\naside = "0.4 m"',
         'ways = [[[0, 2, 4], [6, 2, 4]], [[0, -22, 4], [6, -22, 4]]]\nsurface = ["deck", "other"]\naside = ["0.4 m", "-0.4 m"]'),
    ],
)  # fmt: skip
def test_a_vehicles_way_goes_with_what_it_leads_over(way, ways, tmp_path):
    """Mirrored about y = -10, as if both ways were written: the same envelopes on every member and its image."""
    more = "e = [0, -20, 4]\nf = [6, -20, 4]\ng = [0, -23, 4]\nh = [6, -23, 4]"
    other = '[surfaces.other]\ncorners = ["g", "h", "f", "e"]\ndeck = "y"'
    copy = '[[copies]]\nname = "n"\nof = ["runway/*", "deck"]\nmirror = { y = -10 }'
    copied = CRANE.format(more="", pieces="", surfaces="", way=way, copies=copy)
    written = CRANE.format(more=more, pieces=', ef = "e > f", gh = "g > h"', surfaces=other, way=ways, copies="")
    tables = []
    for name, text in (("c.toml", copied), ("w.toml", written)):
        (tmp_path / name).write_text(text, encoding="utf-8")
        table = read(tmp_path / name, cache=False).solve().envelope(of="My", under="M")
        images = {"runway/ab~n": "runway/ef", "runway/cd~n": "runway/gh"}
        tables.append(
            {
                (images.get(m, m), e): v
                for m, e, v in zip(table["member"], table["extreme"], table["My [kN*m]"], strict=True)
            }
        )
    assert tables[0] == pytest.approx(tables[1], rel=1e-9) and len(tables[0]) == 8
    assert max(tables[0].values()) > 10
    plain = as_toml(plain_model(read_text(copied, "c.toml")))
    (tmp_path / "p.toml").write_text(plain, encoding="utf-8")
    table = read(tmp_path / "p.toml", cache=False).solve().envelope(of="My", under="M")
    again = {
        (images.get(m, m), e): v for m, e, v in zip(table["member"], table["extreme"], table["My [kN*m]"], strict=True)
    }
    assert again == pytest.approx(tables[1], rel=1e-9)
    left = CRANE.format(more="", pieces="", surfaces="", way=way, copies=copy + '\nloads = ["G"]')
    assert len(reading(left).project.traffic[0].ways) == 1
