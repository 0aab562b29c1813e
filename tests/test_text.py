"""Text from files is text wherever it shows: no formula, no mathematics, no mark of Markdown, no command of a terminal."""

import csv
import io

import numpy as np
import openpyxl
import pytest

from empuje.cli import main
from empuje.core.answers.table import Column, Table
from empuje.core.model.findings import Finding, Place
from empuje.files.base.quantities import QuantityError, Units, parse, unit_names
from empuje.files.reader import read_text
from empuje.show.display import Display
from empuje.show.tables import as_csv, as_json, as_markdown, as_text
from empuje.show.workbook import write_workbook
from models import PORTAL

KN = Display(("kN", "m", "mm", "MPa"))
CELLS = [
    "=1+1",
    "+cmd|' /C calc'!A0",
    "-2+3",
    "@SUM(A1)",
    "\tx",
    "a\x1b[2Jb",
    "plain",
    "-",
    "+x",
    "-local z",
    "a|b <i>`",
]
TABLE = Table("t", (Column("title", "text", CELLS), Column("N", "force", np.arange(11) - 5e3)))


def test_no_cell_starts_a_formula_and_none_moves_a_cursor(tmp_path):
    rows = list(csv.reader(io.StringIO(as_csv(TABLE, KN))))[1:]
    assert [r[0] for r in rows] == [*("'" + c for c in CELLS[:5]), *CELLS[5:]] and rows[0][1] == "-5.0"
    write_workbook(tmp_path / "t.xlsx", TABLE, KN)
    cells = [row[0] for row in openpyxl.load_workbook(tmp_path / "t.xlsx").worksheets[0].iter_rows(min_row=2)]
    assert {c.data_type for c in cells} == {"s"} and [c.value for c in cells][5:7] == ["a\\x1b[2Jb", "plain"]
    for style in ("table", "md"):
        assert "\x1b" not in as_text(TABLE, KN, style) and "a\\x1b[2Jb".replace(
            "\\", "\\\\" if style == "md" else "\\"
        ) in as_text(TABLE, KN, style)
    assert "| a\\|b &lt;i>\\` |" in as_markdown(TABLE, KN) and "a|b <i>`" in as_json(TABLE, KN)
    assert "\x1b" not in str(Finding("error", "x", "y", "", Place("a\x1b[2J.toml", 1)))


@pytest.mark.parametrize("change", [
    ('units = "kN m"', 'units = "kN m"\ntitle = "a\\u001b[31m"'), ('action = "wind"', 'action = "wind", title = "\\u202e"'),
    ('U1 = {', '"U\\u0007" = {'), ("[members.columns]", '[materials."x\\u009b"]\nE = "1 GPa"\n[members.columns]'),
])  # fmt: skip
def test_control_characters_are_refused_where_they_are_read(change):
    assert PORTAL.count(change[0]) == 1
    found = read_text(PORTAL.replace(*change), "m.toml").findings
    assert "control-character" in {f.code for f in found} and all("\x1b" not in str(f) for f in found)


def test_a_dollar_is_no_mathematics_and_a_missing_glyph_no_warning(tmp_path, capsys):
    path = tmp_path / "m.toml"
    path.write_text(
        PORTAL.replace('units = "kN m"', 'units = "kN m"\ntitle = "Hall $\\\\frac{1$ x_2 \\u4e2d | <b>"'),
        encoding="utf-8",
    )
    assert main(["draw", str(path), "frame", "-o", str(tmp_path / "a.svg")]) == 0
    assert main(["draw", str(path), "frame", "-o", str(tmp_path / "a.png")]) == 0
    assert main(["run", str(path), "--no-pictures"]) == 0
    summary = (tmp_path / "m-results" / "summary.md").read_text(encoding="utf-8")
    assert summary.startswith("# Hall $\\\\frac{1$ x_2 \u4e2d \\| &lt;b>\n")
    assert "Warning" not in capsys.readouterr().err


def test_the_nearest_unit_is_offered():
    for text, hint in (("5 KN", "kN"), ("5 kn/m", "kN"), ("2 Kip", "kip"), ("3 kpf", "kip")):
        try:
            Units("kN", "m").read(text, "line")
        except QuantityError as error:
            assert f"did you mean {hint}" in str(error)
    assert all(parse(f"1 {unit}")[2] for unit in unit_names())
    found = read_text(PORTAL.replace('units = "kN m"', 'units = "KN m"'), "m.toml").findings
    assert any("for KN did you mean kN" in f.remedy for f in found)
