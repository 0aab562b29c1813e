"""What would cost far too much is refused by name and at once; docs/safety.md lists it."""

import time

import pytest

from empuje.core.answers.table import Column, Table
from empuje.core.resolve.resolve import resolve
from empuje.files.reader import UnusableFile, read_text
from empuje.show.display import Display
from empuje.show.output import NotWritten
from empuje.show.workbook import write_workbook
from models import PORTAL

GRID = '[project]\nunits = "kN m"\n[grid]\nx = {{ {x} }}\ny = {{ {y} }}\nz = {{ {z} }}\n'


DEAD = PORTAL.replace("[cases]\n", "[cases]\n" + "".join(f'G{i} = {{ action = "dead" }}\n' for i in range(22))).replace(
    "[combinations.custom]", '[combinations]\nrules = ["AS/NZS 1170.0 stability"]\n[combinations.custom]'
)


def lines(letter, count):
    return ", ".join(f"{letter}{i} = {i}" for i in range(count))


def told(text):
    start = time.perf_counter()
    try:
        reading = read_text(text, "m.toml")
        found = [*reading.findings, *resolve(reading.project, reading.findings).findings]
    except UnusableFile as error:
        found = [error.finding]
    assert time.perf_counter() - start < 2
    return [f"{f.code}: {f.message}; {f.remedy}" for f in found if f.level == "error"]


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("a" + ".a" * 21_000 + " = 1\n", "A key of more than 32 parts"),
        ("[project]\ntitle = 'x'\n[" + ".".join(["'a b'"] * 40) + "]\n", "A key of more than 32 parts"),
        ("a = " + "[" * 5_000 + "]" * 5_000, "is nested too deeply"),
        ("a = " + "9" * 4_301, "cannot be read"),
        (GRID.format(x=lines("A", 20_000), y="b = 0", z="c = 0"), "grid.x has 20,000 lines"),
        (DEAD, "join dead loads that come together in one case"),
    ],
    ids=["dotted key", "dotted header", "nesting", "digits", "grid lines", "dead cases"],
)  # fmt: skip
def test_what_costs_too_much_to_read_is_refused_at_once(text, said):
    found = told(text)
    assert any(said in line for line in found), found


def test_a_large_grid_costs_nothing_until_it_is_used():
    """400 x 400 x 400 crossings, one free node, and a slip that asks for the nearest name."""
    text = GRID.format(x=lines("A", 400), y=lines("b", 400), z=lines("c", 400)) + "[nodes]\nK = [0.5, 0, 0]\n"
    more = '[[supports]]\nat = ["K", "A399b399@c399"]\nfix = "fixed"\n'
    start = time.perf_counter()
    reading = read_text(text + more, "m.toml")
    assert time.perf_counter() - start < 2 and [n.name for n in reading.project.nodes] == ["K"]
    text += '[members.m]\nsection = "IPE 200"\nmaterial = "S235"\npieces = { P = "A399b399@c399 > K" }\n'
    assert [n.name for n in read_text(text, "m.toml").project.nodes] == ["K", "A399b399@c399"]


def test_a_sheet_of_more_rows_than_there_are_is_refused_before_it_is_made(tmp_path):
    table = Table("t", (Column("case", "text", ["U"] * 1_048_576),))
    start = time.perf_counter()
    with pytest.raises(NotWritten, match="1,048,576 rows, and a sheet holds 1,048,575"):
        write_workbook(tmp_path / "t.xlsx", table, Display(("kN", "m", "mm", "MPa")))
    assert time.perf_counter() - start < 1 and not list(tmp_path.iterdir())
