"""Tables beside the model file: the same frame as from runs and lists, and findings at their own rows."""

import numpy as np
import openpyxl
import pytest

from empuje.core.analysis.solve import solve
from empuje.core.model.loads import PointLoad, Position
from empuje.core.resolve import resolve
from empuje.files.reader import read_model, read_text
from empuje.study.study import Study

HEAD = """
[project]
units = "kN m"
[tables]
nodes    = "nodes.csv"
members  = "members.csv"
supports = "supports.csv"
loads    = "loads.csv"
[members.posts]
section = "HEB 200"
material = "S235"
[members.beams]
section = "IPE 300"
material = "S235"
[cases]
G = { action = "dead" }
"""
NODES = "name,x [mm],y,z [ft]\nA,0,0,0\nB,0,0,12\nC,6000,0,12\n4,6000,0,0\n"
MEMBERS = "family;name;start;end\nposts;P1;A;B\nbeams;;B;C\nposts;P2;4;C\n"
SUPPORTS = 'at,fix,lift\n"A, 4",fixed,\n'
LOADS = 'case,on,line [N/m],line end [N/m],from [mm],to,force,at,dir,per\nG,beams,4000,5500,500,60%,,,,projected\nG,posts,,,,,7.5,"25%, 2",+x,\nG,B,,,,,3 kip,,,\n'
FILES = {"model.toml": HEAD, "nodes.csv": NODES, "members.csv": MEMBERS, "supports.csv": SUPPORTS, "loads.csv": LOADS}
WRITTEN = """
[project]
units = "kN m"
[nodes]
A = [0, 0, 0]
B = [0, 0, "12 ft"]
C = [6, 0, "12 ft"]
N4 = [6, 0, 0]
[members.posts]
section = "HEB 200"
material = "S235"
pieces = { P1 = "A > B", P2 = "N4 > C" }
[members.beams]
section = "IPE 300"
material = "S235"
pieces = { B-C = "B > C" }
[[supports]]
at = ["A", "N4"]
fix = "fixed"
[cases]
G = { action = "dead" }
[loads]
G = [ { on = "beams", line = [4, 5.5], from = 0.5, to = "60%", per = "projected" },
      { on = "posts", force = 7.5, at = ["25%", 2], dir = "+x" }, { on = "B", force = "3 kip" } ]
"""


def write(folder, **changed):
    for name, text in (FILES | changed).items():
        (folder / name).write_text(text, encoding="utf-8")
    return Study.read(folder / "model.toml")


def forces(project):
    s = solve(resolve(project))
    order = np.argsort([m.name for m in project.members])
    return s.start_force[order]


def test_tables_say_what_the_model_file_would(tmp_path):
    read = write(tmp_path)
    assert not read.findings
    assert [m.name for m in read.project.members] == ["posts/P1", "posts/P2", "beams/B-C"]
    assert forces(read.project) == pytest.approx(forces(read_text(WRITTEN, "m.toml").project), rel=1e-12, abs=1e-9)


def test_workbooks_are_read_like_csv(tmp_path):
    wanted = forces(write(tmp_path).project)
    book = openpyxl.Workbook()
    for row in NODES.splitlines():
        book.active.append([float(c) if c.replace(".", "").isdigit() else c for c in row.split(",")])
    book.save(tmp_path / "nodes.xlsx")
    read = write(tmp_path, **{"model.toml": HEAD.replace("nodes.csv", "nodes.xlsx")})
    assert not read.findings and forces(read.project) == pytest.approx(wanted, rel=1e-12)
    (tmp_path / "nodes.xlsx").write_bytes(b"no workbook")
    assert {f.code for f in Study.read(tmp_path / "model.toml").findings} >= {"unusable-table"}


@pytest.mark.parametrize(
    ("file", "old", "new", "code", "place"),
    [
        ("nodes.csv", "C,6000", "C,6 kN", "bad-quantity", "nodes.csv:4"),
        ("nodes.csv", "C,6000", "B,6000", "name-clash", "nodes.csv:4"),
        ("nodes.csv", "C,6000", "C,6e9", "too-far", "nodes.csv:4"),
        ("nodes.csv", "C,6000", "C,nan", "bad-quantity", "nodes.csv:4"),
        ("nodes.csv", "x [mm]", "x [kN]", "bad-units", "model.toml:5"),
        ("nodes.csv", "x [mm]", "width", "unknown-key", "model.toml:5"),
        ("nodes.csv", ",z [ft]", ",y", "unknown-key", "model.toml:5"),
        ("members.csv", "B;C", "B;D", "unknown-name", "members.csv:3"),
        ("members.csv", "beams;;", "beam;;", "unknown-name", "members.csv:3"),
        ("members.csv", "P2", "P1", "name-clash", "members.csv:4"),
        ("supports.csv", "fixed", "fixt", "unknown-word", "supports.csv:2"),
        ("loads.csv", "G,B", "Q,B", "unknown-name", "loads.csv:4"),
        ("loads.csv", "G,B", "G,X", "matches-nothing", "loads.csv:4"),
        ("loads.csv", "3 kip", "3 kip/ft", "bad-quantity", "loads.csv:4"),
        ("loads.csv", "60%", "160%", "bad-position", "loads.csv:2"),
        ("model.toml", '"nodes.csv"', '"../nodes.csv"', "unusable-table", "model.toml:5"),
        ("model.toml", '"nodes.csv"', '"points.csv"', "unusable-table", "model.toml:5"),
    ],
)  # fmt: skip
def test_slips_in_tables_are_placed_at_their_rows(tmp_path, file, old, new, code, place):
    assert old in FILES[file]
    found = write(tmp_path, **{file: FILES[file].replace(old, new, 1)}).findings
    assert (code, place) in {(f.code, str(f.place)) for f in found}, found


def workbook(tmp_path, change):
    """The model with its nodes in a workbook whose sheet is changed; findings and project."""
    book = openpyxl.Workbook()
    for row in NODES.splitlines():
        book.active.append([float(c) if c.replace(".", "").isdigit() else c for c in row.split(",")])
    change(book.active)
    book.save(tmp_path / "nodes.xlsx")
    return write(tmp_path, **{"model.toml": HEAD.replace("nodes.csv", "nodes.xlsx")})


def test_cells_that_cannot_be_read_for_what_they_are_are_refused_by_name(tmp_path):
    """A formula without a stored value was read as blank: a load over the wrong length, without a word."""
    import datetime

    for value, said in (
        ("=B2*2", "cell B3 holds the formula"), (datetime.datetime(2026, 3, 1), "cell B3 is a date or time"),
        ("#DIV/0!", "cell B3 has the error"),
    ):  # fmt: skip

        def change(sheet, value=value):
            sheet["B3"] = value

        read = workbook(tmp_path, change)
        found = [f for f in read.findings if f.code == "unusable-cell"]
        assert (
            not read.sound
            and said in found[0].message
            and (found[0].place.file, found[0].place.line) == ("nodes.xlsx", 3)
        )
        assert found[0].remedy


def test_percentages_are_shares_and_what_is_not_seen_is_said(tmp_path):
    def share(sheet):
        sheet["B3"] = 0.25
        sheet["B3"].number_format = "0%"

    assert any("25%" in f.message for f in workbook(tmp_path, share).findings if f.level == "error")
    (tmp_path / "loads.xlsx").unlink(missing_ok=True)

    def hide(sheet):
        sheet.row_dimensions[3].hidden = True
        sheet.column_dimensions["D"].hidden = True

    read = workbook(tmp_path, hide)
    said = {f.code: f for f in read.findings}
    assert "rows 3 are hidden" in said["hidden-cells"].message and said["hidden-cells"].level == "warning"
    assert read.sound and any(f.message == "columns D are hidden, and were read" for f in read.findings)


def test_a_share_in_a_workbook_places_a_load(tmp_path):
    """25% of the member, from a cell formatted as percent."""
    write(tmp_path)
    book = openpyxl.Workbook()
    for row in (["case", "on", "force", "at", "dir"], ["G", "beams/B-C", 3, 0.25, "down"]):
        book.active.append(row)
    book.active["D2"].number_format = "0.0%"
    book.save(tmp_path / "loads.xlsx")
    read = write(tmp_path, **{"model.toml": HEAD.replace('"loads.csv"', '"loads.xlsx"')})
    assert read.sound, [str(f) for f in read.findings]
    (load,) = [load for load in read.project.loads if isinstance(load, PointLoad)]
    assert load.positions == (Position(share=0.25),)


WIDE = """
[project]
units = "kN m"
[tables]
nodes = "frame.xlsx#Nodes"
members = "frame.xlsx#Beams"
loads = ["frame.xlsx#Loads", "more.csv"]
[members.b]
section = "IPE 300"
material = "S235"
[[supports]]
at = "*"
fix = "pinned"
[[supports]]
at = "p1"
fix = "rx"
[cases]
G = { action = "dead" }
Q = { action = "live" }
W = { action = "wind" }
"""


def four_sheets(path, loads):
    book = openpyxl.Workbook()
    for title, rows in (
        ("Notes", [["the sheets behind this one are read"]]),
        ("Nodes", [["name", "x", "y [mm]", "z"], ["p1", 0, 0, 0], ["p2", 6, 0, 0], ["p3", 12, 500, 0]]),
        ("Beams", [["family", "name", "start", "end"], ["b", "1", "p1", "p2"], ["b", "2", "p2", "p3"]]),
        ("Loads", loads),
    ):
        sheet = book.active if title == "Notes" else book.create_sheet(title)
        sheet.title = title
        for row in rows:
            sheet.append(row)
    book.save(path)


def test_sheets_by_name_and_loads_with_a_column_a_case(tmp_path):
    """A row a beam and a column a case, in one workbook with the frame and in a CSV beside it; by hand on each beam."""
    (tmp_path / "m.toml").write_text(WIDE, encoding="utf-8")
    four_sheets(tmp_path / "frame.xlsx", [["on", "G [N/mm]", "Q [kN]", "W [N/mm]", "dir", "at"], ["b/1", 2.5, None, 0, None, None],
                                       ["b/2", 3, 4, 1.5, "+y", "50%"], ["p2", None, 7, None, None, None]])  # fmt: skip
    (tmp_path / "more.csv").write_text("on;Q;W [N/m];to\nb/1;1,5;500*2;3 m\n", encoding="utf-8")
    found = read_model(tmp_path / "m.toml")
    assert [str(f) for f in found.findings if f.level != "note"] == []
    forces = [x for x in found.project.loads if hasattr(x, "value")]
    assert [(x.case, x.value / 1e3, x.direction.text) for x in forces] == [("Q", 4.0, "+y"), ("Q", 7.0, "down")]
    assert forces[0].positions[0].share == 0.5
    four_sheets(
        tmp_path / "frame.xlsx", [["on", "G [N/mm]", "W [N/mm]", "dir"], ["b/1", 2.5, 0, None], ["b/2", 3, 1.5, "+y"]]
    )
    found = read_model(tmp_path / "m.toml")
    assert [str(f) for f in found.findings if f.level != "note"] == []
    loads = [(x.case, x.members, x.points[0][1] / 1e3, x.direction.text, str(x.place)) for x in found.project.loads]
    assert loads == [
        ("G", (0,), 2.5, "down", "frame.xlsx#Loads:2"), ("G", (1,), 3.0, "+y", "frame.xlsx#Loads:3"),
        ("W", (1,), 1.5, "+y", "frame.xlsx#Loads:3"), ("Q", (0,), 1.5, "down", "more.csv:2"), ("W", (0,), 1.0, "down", "more.csv:2"),
    ]  # fmt: skip
    assert found.project.loads[3].points[1][0].on(6) == 3


@pytest.mark.parametrize(
    ("tables", "text", "words"),
    [
        ('loads = "more.csv"', "on,G [kN],Q [m]\nb/1,1,2\n", "[m] under Q is no unit of a load"),
        ('loads = "more.csv"', "on,G,Q\nb/1,1,3 kN\n", "row 2, column C (Q) has \"3 kN\""),
        ('loads = "more.csv"', "on,G,Q,S\nb/1,1,2,3\n", "a column \"S\""),
        ('loads = "more.csv"', "on,G,Q\nb/1,1,2,3\n", "in column D, which has no head"),
        ('loads = "more.csv"', "on,G,Q\nb/1,1,two\n", "row 2, column C (Q) has \"two\""),
        ('loads = "more.csv"', "G,Q\n1,2\n", "has no column on"),
        ('nodes = "frame.xlsx#Node"', "", "has no sheet of that name; did you mean Nodes"),
        ('nodes = "frame.xls#Nodes"', "", "there is no file frame.xls#Nodes"),
    ],
)  # fmt: skip
def test_what_is_wrong_in_them_is_told_by_file_sheet_and_row(tables, text, words, tmp_path):
    four_sheets(tmp_path / "frame.xlsx", [["on", "G"], ["b/1", 1]])
    (tmp_path / "more.csv").write_text(text, encoding="utf-8")
    own = tables.partition(" ")[0]
    model = "\n".join(tables if line.startswith(f"{own} = ") and ".xlsx" in line else line for line in WIDE.split("\n"))
    (tmp_path / "m.toml").write_text(model, encoding="utf-8")
    found = [str(f) for f in read_model(tmp_path / "m.toml").findings if f.level == "error"]
    assert any(words in f for f in found), found
