"""What tables hold is read for what it is, refused by name, or said: nothing is dropped without a word."""

import io
import os
import random
import re
import time
import zipfile

import openpyxl
import pytest

from empuje.cli import main
from empuje.core.model.loads import LineLoad, PointLoad, Position
from empuje.files.loads.plain_rows import PlainRows
from empuje.files.reader import UnusableFile
from empuje.study.study import Study
from models import PATIENCE

MODEL = """
[project]
units = "kN m"
[nodes]
A = [0, 0, 0]
B = [8, 0, 0]
[members.beams]
section = "IPE 300"
material = "S235"
pieces = { AB = "A > B" }
[[supports]]
at = ["A", "B"]
fix = "fixed"
[cases]
Q = { action = "live" }
[tables]
loads = "loads.csv"
"""


def read(folder, table, name="loads.csv"):
    (folder / name).write_bytes(table if isinstance(table, bytes) else table.encode())
    (folder / "m.toml").write_text(MODEL.replace("loads.csv", name), encoding="utf-8")
    return Study.read(folder / "m.toml", cache=False)


def values(study):
    return [load.points[0][1] for load in study.project.loads if isinstance(load, LineLoad)]


def places(study):
    return [p for load in study.project.loads if isinstance(load, PointLoad) for p in load.positions]


def said(study, code):
    return [(f.place.line, f.message) for f in study.findings if f.code == code]


@pytest.mark.parametrize(
    ("cell", "newtons"),
    [
        ("300", 300),
        ("0.85*300", 255),
        ("(300)", 300),
        ("2*(100+50)", 300),
        ("1.2 kN/m", 1200),
        ("0.5*3 kN/m", 1500),
        ("1e3/4", 250),
    ],
)
def test_the_unit_of_a_head_holds_for_all_numbers_without_one(tmp_path, cell, newtons):
    assert values(read(tmp_path, f"case,on,line [N/m]\nQ,beams,{cell}\n")) == [pytest.approx(newtons)]
    assert values(read(tmp_path, f"case,on,line [lbf/ft]\nQ,beams,{cell}\n")) == [
        pytest.approx(newtons * (1 if "kN" in cell else 14.593902937), rel=1e-9)
    ]


def test_lists_of_places_take_the_unit_too(tmp_path):
    found = read(tmp_path, 'case,on,force,at [cm]\nQ,beams,1,"150, 2*125"\nQ,beams,1,"25%, 1.5 m"\n')
    assert places(found) == [Position(1.5), Position(2.5), Position(share=0.25), Position(1.5)]


def test_a_comma_in_a_number_is_a_point_between_semicolons_and_refused_between_commas(tmp_path):
    found = read(tmp_path, "case;on;force;at\nQ;beams;2,5;1,5\nQ;beams;1;25%, 2\n")
    assert places(found) == [Position(1.5), Position(share=0.25), Position(2.0)] and found.sound
    assert said(found, "decimal-comma")[0][1].startswith("table loads.csv: 2 cells with a decimal comma")
    found = read(tmp_path, 'case,on,force,at\nQ,beams,1,"1,5"\n')
    assert not found.sound and "one number, or two?" in said(found, "decimal-comma")[0][1]
    assert not read(tmp_path, "case;on;force;at\nQ;beams;1.234,5;2\n").sound
    assert places(read(tmp_path, "case\ton\tforce\tat\nQ\tbeams\t1\t2.5\n")) == [Position(2.5)]


@pytest.mark.parametrize(("first", "second", "read_as"), [
    ("2,1", "5.000", None), ("5.000", "2,1", None), ("2,1", "5,5", [2.1, 5.5]), ("2,1", "5,000", [2.1, 5.0]),
    ("2,1", "5.5", None), ("2.1", "5,000", None), ("2.1", "5.000", [2.1, 5.0]), ("0.500", "5.000", [0.5, 5.0]),
    ("5.000", "7.000", None), ("5,000", "7", None), ("12000", "7", [12000, 7]), ("1.234,5", "2,1", None),
    ("1.234.567", "2", None), ("0,35*6", "2 kN/m", [2.1, 2.0]), ("1234.567", "5.000", [1234.567, 5.0]),
])  # fmt: skip
@pytest.mark.parametrize("kind", [";", "\t", "xlsx", "wide"])
def test_numbers_of_a_table_are_written_in_one_way(tmp_path, kind, first, second, read_as):
    """Decimal points or decimal commas, settled for a whole table; what may be read in two ways is refused, and told by
    row and column; whichever row comes first, in text cells of workbooks and in tables with a column a case too."""
    head, rows = ["case", "on", "line"], [["Q", "beams", first], ["Q", "beams", second]]
    if kind == "wide":
        head, rows = ["on", "Q"], [["beams", first], ["beams", second]]
    for order in (1, -1):
        if kind == "xlsx":
            book = openpyxl.Workbook()
            for row in [head, *rows[::order]]:
                book.active.append(row)
            file = io.BytesIO()
            book.save(file)
            found = read(tmp_path, file.getvalue(), "loads.xlsx")
        else:
            mark = ";" if kind == "wide" else kind
            found = read(tmp_path, "\n".join(mark.join(row) for row in [head, *rows[::order]]) + "\n")
        if read_as is None:
            assert not found.sound and values(found) == []
            assert all("under line: " in m or "under Q: " in m for _, m in said(found, "decimal-comma"))
        else:
            assert found.sound and values(found) == pytest.approx([1e3 * v for v in read_as[::order]])
            assert bool(said(found, "decimal-comma")) == ("," in first + second)


def test_cells_without_a_head_and_records_over_several_lines(tmp_path):
    found = read(tmp_path, 'case,on,line,\n"Q",beams,1,\nQ,beams,2,,,,300\n,,,,\n\nQ,beams,3,x\n')
    assert not found.sound
    assert said(found, "cell-without-head") == [
        (3, 'row 3 has "300" in column G, which has no head'), (6, 'row 6 has "x" in column D, which has no head'),
    ]  # fmt: skip
    # A line end, and what Unicode counts as one, inside a cell does not begin a record; lines count on.
    found = read(tmp_path, 'case,on,line,dir\nQ,"beams,\nbeams/AB",1,"down"\nQ,beams\u2028,2,\nQ,nothing,1,\n')
    assert [line for line, _ in said(found, "matches-nothing")] == [5] and values(found) == [1e3]
    assert [line for line, _ in said(found, "control-character")] == [4]


@pytest.mark.parametrize(
    ("table", "words"),
    [
        ('case,on,line\nQ,"beams,1\n', "is no CSV from line 2 on"),
        ('case,on,line\nQ,"be"ams,1\n', "is no CSV from line 2 on"),
        ("case,on,line\nQ," + "b" * 200_000 + ",1\n", "has a cell of more than 131,072 characters from line 2 on"),
        ("case,on," + ",".join(f"c{i}" for i in range(1_000_000)) + "\n", "has 1,000,002 cells in line 1"),
        (b"case,on,line\nQ,be\0ams,1\n", "NUL"),
        (b"case,on,line\nQ,be\xff,1\n", "is not UTF-8 text (byte 17)"),
        ("case,on,line " + " " * 3000 + "[\n", "has a column"),
    ],
)
def test_what_is_no_table_is_told_at_once(tmp_path, table, words):
    start = time.process_time()
    found = [f for f in read(tmp_path, table).findings if f.level == "error"]
    assert time.process_time() - start < PATIENCE and len(found) < 20
    assert any(words in f.message for f in found), found


def sheet(rows):
    book = openpyxl.Workbook()
    for row in rows:
        book.active.append(row)
    return book


def stored(book):
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


ROWS = [["case", "on", "line"], *(["Q", "beams", float(i)] for i in range(1, 7))]


def test_a_workbook_is_read_as_far_as_it_goes(tmp_path):
    """Whatever its own record of its size says; a blank cell in the last corner of the sheet costs nothing."""
    whole = stored(sheet(ROWS))
    for size in (b"A1:C3", b"A1", b"A1:XFD1048576"):
        out = io.BytesIO()
        with zipfile.ZipFile(io.BytesIO(whole)) as old, zipfile.ZipFile(out, "w") as new:
            for part in old.namelist():
                text = re.sub(rb'<dimension ref="[^"]*"', b'<dimension ref="%s"' % size, old.read(part))
                new.writestr(part, text)
        assert values(read(tmp_path, out.getvalue(), "loads.xlsx")) == [1e3 * i for i in range(1, 7)]
    book = sheet(ROWS)
    book.active["XFD1048576"] = " "
    start = time.process_time()
    assert len(values(read(tmp_path, stored(book), "loads.xlsx"))) == 6 and time.process_time() - start < PATIENCE
    book.active["XFD1048576"] = 1.0
    assert "has a cell XFD1048576" in said(read(tmp_path, stored(book), "loads.xlsx"), "unusable-table")[0][1]


def test_what_a_workbook_holds_besides_is_said(tmp_path):
    book = sheet([*ROWS, ["Q", "beams", 1.0, None, "a remark"]])
    book.create_sheet("More").append(["Q", "beams", 9.0])
    found = read(tmp_path, stored(book), "loads.xlsx")
    assert 'and not "More"' in said(found, "other-sheets")[0][1]
    assert said(found, "cell-without-head") == [(8, 'row 8 has "a remark" in column E, which has no head')]


def test_a_workbook_that_unpacks_to_too_much_is_not_unpacked(tmp_path):
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as new:
        new.writestr("xl/worksheets/sheet1.xml", b" " * 70_000_000)
    assert (
        "holds 70 MB once it is unpacked" in said(read(tmp_path, out.getvalue(), "loads.xlsx"), "unusable-table")[0][1]
    )


@pytest.mark.skipif(not hasattr(os, "mkfifo"), reason="no pipes with names here")
def test_pipes_and_devices_are_not_waited_for(tmp_path):
    os.mkfifo(tmp_path / "m.toml")
    for path in (tmp_path / "m.toml", "/dev/zero"):
        with pytest.raises(UnusableFile, match="is not a plain file"):
            Study.read(path)
    (tmp_path / "m.toml").unlink()
    found = read(tmp_path, "case,on,line\n")
    (tmp_path / "loads.csv").unlink()
    os.mkfifo(tmp_path / "loads.csv")
    found = Study.read(tmp_path / "m.toml", cache=False)
    assert "loads.csv is not a plain file" in said(found, "unusable-table")[0][1]


def test_very_many_findings_of_a_kind_are_counted(tmp_path, capsys):
    found = read(tmp_path, "case,on,line\n" + "Q,nowhere,1\n" * 3000)
    lines = [str(f) for f in found.findings if f.code == "matches-nothing"]
    assert len(lines) == 501 and any("and 2,500 more of this kind in loads.csv" in line for line in lines)
    assert main(["check", str(tmp_path / "m.toml")]) == 1
    out = capsys.readouterr().out.splitlines()
    assert sum("matches-nothing" in line for line in out) == 11 and out[-1].startswith("3,000 errors")
    assert any("and 2,990 more like these" in line for line in out)


CELLS = {
    "case": ["Q", "Q", "Q", "X", ""], "on": ["beams", "beams/AB", "beams/AB", "A", "B", "nothing", "beams/*", "A, B"],
    "line [N/m]": ["", "", "300", "1e3", "0", "2*5", "nan", "1e19"], "force": ["", "", "2.5", "3 kip", "-4", "TRUE"],
    "moment [kN*m]": ["", "", "", "7", "x"], "dir": ["", "", "down", "+x", "local z", "sideways", "0"],
    "at [cm]": ["", "150", "25%", "1e3", "-3", "10, 20"], "from": ["", "", "0", "1.5", "10%"],
    "to": ["", "", "60%", "7", "9"], "per": ["", "", "", "projected"], "temperature": ["", "", "0", "0", "20"],
}  # fmt: skip


def number(cell):
    """As a spreadsheet program keeps what looks like a number or a truth."""
    try:
        return float(cell)
    except ValueError:
        return {"": None, "TRUE": True}.get(cell, cell)


@pytest.mark.parametrize("plane", [False, True])
@pytest.mark.parametrize("name", ["loads.csv", "loads.xlsx"])
def test_plain_rows_say_what_reading_word_by_word_does(tmp_path, monkeypatch, plane, name):
    """Of two thousand rows of chance, right and wrong ones: the same loads in the same words, the same findings."""
    rng = random.Random(8)
    rows = []
    for _ in range(2000):
        cells = [rng.choice(v) if i < 2 or rng.random() < 0.3 else "" for i, v in enumerate(CELLS.values())]
        rows.append(cells)
    lines = [",".join(f'"{c}"' if "," in c else c for c in row) for row in ([*CELLS], *rows)]
    table = "\n".join(lines) + "\n"
    if name == "loads.xlsx":
        for row in rng.sample(rows, 100):
            row += ["", "0"]
        table = stored(sheet([[*CELLS], *([number(c) for c in row] for row in rows)]))

    def both():
        found = read(tmp_path, table, name)
        if plane:
            text = (tmp_path / "m.toml").read_text().replace('"kN m"', '"kN m"\nspace = "plane"')
            (tmp_path / "m.toml").write_text(text.replace("[0, 0, 0]", "[0, 0]").replace("[8, 0, 0]", "[8, 0]"))
            found = Study.read(tmp_path / "m.toml", cache=False)
        return found.project.loads, found.findings

    loads, findings = both()
    made = []
    load = PlainRows.load
    monkeypatch.setattr(PlainRows, "load", lambda self, *row: made.append(load(self, *row)))
    assert both() == (loads, findings)
    assert sum(one is not None for one in made) > 15 and len(findings) > 500
