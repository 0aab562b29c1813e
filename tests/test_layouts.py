"""Tables as an office keeps them give what the same loads give that are typed in."""

from __future__ import annotations

import random
import warnings

import openpyxl
import pytest

import empuje
from empuje.files.reader import read_model

MODEL = """
[project]
units = "kN m"
[cases]
G = { action = "dead" }
Q = { action = "live" }
P = { action = "live" }
[members.beams]
section = "IPE 300"
material = "S235"
[[supports]]
at = "*"
fix = "fixed"
[members.beams.pieces]
"""
LAYOUT = """
[tables.loads]
file = "office.xlsx#Beams"
head = [3, 4, 5]
columns = { "beam mark" = "on", "Line loads Permanent" = "G", "Line loads Imposed [lbf/ft]" = "Q", F = "P" }
remarks = ["Level", "Span", "H"]
remark_rows = ["floor ?", "sum"]
all_rows = { dir = "-z", at = "25%" }
"""


def frame():
    """Sixty beams on two floors."""
    beams = [(f"{level}-{i}", 6.0 + i % 3, 2.0 * i, 4.0 * level) for level in (1, 2) for i in range(30)]
    pieces = "\n".join(f'"{name}" = "{name}a > {name}b"' for name, *_ in beams)
    ends = "\n".join(f"{name}a = [0, {y}, {z}]\n{name}b = [{span}, {y}, {z}]" for name, span, y, z in beams)
    return MODEL + pieces + "\n[nodes]\n" + ends, beams


def workbook(path, change=lambda sheet: None):
    """A title, heads in three rows with merged cells, floors with a title and a sum each, remarks; and what it means."""
    rng = random.Random(5)
    book = openpyxl.Workbook()
    sheet = book.active
    sheet.title = "Beams"
    sheet["A1"] = "Packing house: line loads on beams"
    sheet.merge_cells("A1:H1")
    sheet["D3"] = "Line loads"
    sheet.merge_cells("D3:E3")
    for column, row, text in (
        ("A", 4, "Level"), ("B", 4, "Beam\nmark"), ("C", 4, "Span"), ("D", 4, "Permanent"), ("E", 4, "Imposed"), ("F", 4, "Hoist"),
        ("H", 4, "Seen by"), ("C", 5, "m"), ("D", 5, "kN/m"), ("E", 5, "(lbf/ft)"), ("F", 5, "kN"),
    ):  # fmt: skip
        sheet[f"{column}{row}"] = text
    sheet.merge_cells("A4:A5")
    meant = []
    row = 6
    for level in (1, 2):
        sheet.cell(row, 2).value = f"Floor {level}"
        sheet.merge_cells(start_row=row, end_row=row, start_column=2, end_column=5)
        sheet.cell(row + 1, 1).value = f"+{4 * level}.00"
        sheet.merge_cells(start_row=row + 1, end_row=row + 30, start_column=1, end_column=1)
        for i in range(30):
            row += 1
            values = [
                round(rng.uniform(1, 4), 7),
                round(rng.uniform(100, 300)) if i % 3 else None,
                2.5 if i == 4 else None,
            ]
            for column, value in zip((2, 3, 4, 5, 6, 8), (f"beams/{level}-{i}", 6 + i % 3, *values, "LM"), strict=True):
                sheet.cell(row, column).value = value
            meant.append((f"beams/{level}-{i}", *values))
        row += 1
        sheet.cell(row, 2).value, sheet.cell(row, 4).value = "Sum", f"=SUM(D{row - 30}:D{row - 1})"
        sheet.cell(row, 4).value = 75.5
        row += 1
    change(sheet)
    book.save(path)
    return meant


def reactions(path, text):
    path.write_text(text, encoding="utf-8")
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")  # cases without loads
        table = empuje.read(path).solve().reactions(under="cases").reset_index()
    return table.set_index(["node", "case"])[["Fz [kN]", "My [kN*m]"]].sort_index()


def test_a_workbook_of_sixty_rows_as_it_came(tmp_path):
    """Titles, merged heads, units in a row of their own, remarks, sums; a load per length in kN/m and lbf/ft, forces."""
    text, _ = frame()
    meant = workbook(tmp_path / "office.xlsx")
    typed = {"G": [], "Q": [], "P": []}
    for on, g, q, p in meant:
        typed["G"].append(f'{{ on = "{on}", line = {g} }}')
        typed["Q"] += [f'{{ on = "{on}", line = "{q} lbf/ft" }}'] if q else []
        typed["P"] += [f'{{ on = "{on}", force = {p}, at = "25%" }}'] if p else []
    by_hand = "\n[loads]\n" + "\n".join(f"{case} = [{', '.join(rows)}]" for case, rows in typed.items())
    ours, theirs = reactions(tmp_path / "m.toml", text + LAYOUT), reactions(tmp_path / "t.toml", text + by_hand)
    assert (ours - theirs).abs().to_numpy().max() < 1e-9
    total = sum(g * (6 + i % 30 % 3) for i, (_, g, _, _) in enumerate(meant))
    assert ours["Fz [kN]"].xs("G", level="case").sum() == pytest.approx(total, rel=1e-12)


def test_a_load_is_told_as_its_cell_shows_it(tmp_path):
    text, _ = frame()
    workbook(tmp_path / "office.xlsx", lambda sheet: sheet.__setitem__("D7", 0.17130441464197943))
    (tmp_path / "m.toml").write_text(text + LAYOUT, encoding="utf-8")
    told = [
        load.text
        for load in read_model(tmp_path / "m.toml").project.loads
        if load.text.endswith(("beams/1-0", "beams/1-1"))
    ]
    assert told[0] == "line 0.171304 kN/m -z on beams/1-0"
    assert any(words.startswith("line ") and " lbf/ft -z on beams/1-1" in words for words in told)


def test_a_csv_file_with_titles_and_commas(tmp_path):
    """What parts its cells is seen from the row of heads, not from the title above; the same in any order of columns."""
    text, _ = frame()
    tables = []
    for heads, rows in (
        ("Mark;Permanent (kN/m);Checked", ["{m};{g};LM", "Sum;{g};"]),
        ("Checked;Permanent (kN/m);Mark", ["LM;{g};{m}", ";{g};Sum"]),
    ):
        lines = [
            row.format(m=f"beams/1-{i}", g=f"{2 + i / 8:.2f}".replace(".", ",")) for i in range(30) for row in rows[:1]
        ]
        title = "Loads, of the packing house, by beam, as of March"
        (tmp_path / "l.csv").write_text(
            "\n".join([title, "", heads, *lines, rows[1].format(m="", g="100,5")]), encoding="utf-8"
        )
        layout = '\n[tables.loads]\nfile = "l.csv"\nhead = 3\ncolumns = { Mark = "on", Permanent = "line" }\n' \
                 'remarks = "checked"\nremark_rows = [34]\nall_rows = { case = "G" }\n'  # fmt: skip
        tables.append(reactions(tmp_path / "m.toml", text + layout))
    assert (tables[0] - tables[1]).abs().to_numpy().max() == 0
    total = sum(round(2 + i / 8, 2) * (6 + i % 3) for i in range(30))
    assert tables[0]["Fz [kN]"].sum() == pytest.approx(total, rel=1e-12)


def change(cell, value):
    return lambda sheet: sheet.__setitem__(cell, value)


@pytest.mark.parametrize(
    ("old", "new", "edit", "said"),
    [
        ("head = [3, 4, 5]", "head = 1", None, 'has no column "beam mark"'),
        ("head = [3, 4, 5]", "head = [3, 5]", None, "name rows that follow one another"),
        ("head = [3, 4, 5]", 'head = "3"', None, "write numbers of rows"),
        ("head = [3, 4, 5]", "head = 80", None, "has nothing in row 80"),
        ('["floor ?", "sum"]', "[6, 38, 69]", None, "office.xlsx#Beams:37: error[matches-nothing]: row[37]: nothing is called Sum"),
        ('"Span", "H"', '"Sapn", "H"', None, "did you mean Span"),
        ('"Span", "H"', '"Span"', None, 'has a column "Seen by"'),
        ('"Span", "H"', '"Span", "H", "Z"', None, 'has no column "Z"'),
        ("", "", change("G9", "7"), 'row 9 has "7" in column G, which has no head'),
        ('"Level", "Span", "H"', '"A", "Span", "Seen by"', change("A4", "Seen by"), "name one by its letter: A or H"),
        ('= "G"', '= "G [kN]"', None, "has another unit than"),
        ('"sum"]', '"summe"]', None, "no row with a cell"), ('"sum"]', '"sum", 0]', None, "write numbers of rows"),
        ("", "", change("D5", "kN*m"), "[kN*m] under G is no unit of a load"),
        ('dir = "-z"', 'on = "beams/1-1"', None, 'two columns "on"'),
        ('dir = "-z"', 'dir = ["-z"]', None, "write it as in a cell"),
        ('file = "office.xlsx#Beams"', "", None, "has no `file`"),
        ("", "", lambda sheet: sheet.merge_cells("D8:D9"), "cells D8:D9 are merged under G"),
        ("", "", lambda sheet: sheet.merge_cells("D8:E8"), "cells D8:E8 are merged under G, Q"),
    ],
)  # fmt: skip
def test_what_does_not_fit_is_told_and_nothing_passed_over(old, new, edit, said, tmp_path):
    text, _ = frame()
    workbook(tmp_path / "office.xlsx", edit or (lambda sheet: None))
    layout = LAYOUT.replace(old, new)
    (tmp_path / "m.toml").write_text(text + layout, encoding="utf-8")
    assert not old or layout != LAYOUT
    errors = [str(f) for f in read_model(tmp_path / "m.toml").findings if f.level == "error"]
    assert any(said in error for error in errors), errors


def test_words_merged_downwards_hold_for_each_row(tmp_path):
    """A case and a member written once for several rows; quantities across are refused above."""
    text, _ = frame()
    book = openpyxl.Workbook()
    for row in (
        ["case", "on", "line", "from", "to"],
        ["G", "beams/1-0", 3, 0, 2],
        [None, None, 5, 2, 6],
        ["Q", "beams/1-1", 4, 0, 7],
    ):
        book.active.append(row)
    for area in ("A2:A3", "B2:B3"):
        book.active.merge_cells(area)
    book.save(tmp_path / "l.xlsx")
    table = reactions(tmp_path / "m.toml", text + '\n[tables]\nloads = "l.xlsx"\n')
    assert table["Fz [kN]"].xs("G", level="case").sum() == pytest.approx(3 * 2 + 5 * 4)
    notes = [f.message for f in read_model(tmp_path / "m.toml").findings if f.code == "merged-cells"]
    assert notes == ['cells A2:A3 are merged: "G" holds for each of their rows', 'cells B2:B3 are merged: "beams/1-0" holds for each of their rows']  # fmt: skip


def one_row_lower(sheet):
    """A row put in below the title, as a spreadsheet does it: merged cells go along."""
    areas = [(a.min_row, a.max_row, a.min_col, a.max_col) for a in sheet.merged_cells.ranges]
    for first, last, left, right in areas:
        sheet.unmerge_cells(start_row=first, end_row=last, start_column=left, end_column=right)
    sheet.insert_rows(2)
    for first, last, left, right in areas:
        down = first > 1
        sheet.merge_cells(start_row=first + down, end_row=last + down, start_column=left, end_column=right)


@pytest.mark.parametrize(("edit", "down"), [(lambda sheet: None, 0), (one_row_lower, 1)])
def test_what_is_passed_over_is_told(edit, down, tmp_path):
    """Rows found by their words stay found when a row is put in above; one that is not there is a warning."""
    text, _ = frame()
    meant = workbook(tmp_path / "office.xlsx", edit)
    layout = LAYOUT.replace("[3, 4, 5]", str([row + down for row in (3, 4, 5)])).replace('"sum"]', '"sum", 99]')
    (tmp_path / "m.toml").write_text(text + layout, encoding="utf-8")
    read = read_model(tmp_path / "m.toml")
    (told,) = [f.message for f in read.findings if f.code == "rows-passed-over"]
    assert f'rows passed over as remarks: {6 + down} "Floor 1", {37 + down} "Sum"' in told and not [
        f for f in read.findings if f.level == "error"
    ]
    assert [f.message.split(" of ")[0] for f in read.findings if f.code == "empty-row"] == ["row 99"]
    assert len([load for load in read.project.loads if load.case == "G"]) == len(meant)


def test_heads_of_cases_that_are_called_as_units_are(tmp_path):
    """Below a merged head: cases K, N and T are no units, as another one beside them is none; and units in a row of
    their own are."""
    text, _ = frame()
    text = text.replace("[cases]", '[cases]\nN = { action = "live" }\nK = { action = "live" }')
    book = openpyxl.Workbook()
    for row in ([None, "Line loads"], ["on", "G", "N", "K"], ["beams/1-0", 3, 4, 5]):
        book.active.append(row)
    book.active.merge_cells("B1:D1")
    book.save(tmp_path / "l.xlsx")
    names = ", ".join(f'"Line loads {c}" = "{c}"' for c in "GNK")
    table = reactions(
        tmp_path / "m.toml",
        text + f'\n[tables]\nloads = {{ file = "l.xlsx", head = [1, 2], columns = {{ {names} }} }}\n',
    )
    assert [table["Fz [kN]"].xs(c, level="case").sum() for c in "GNK"] == pytest.approx([18, 24, 30])
