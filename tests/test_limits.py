"""What would cost far too much is refused by name and at once; docs/safety.md lists it."""

import time
from types import SimpleNamespace

import numpy as np
import pytest

from empuje.cli import main
from empuje.cli.machine import memory
from empuje.core.analysis.sizes import expected_bytes
from empuje.core.answers.table import Column, Table
from empuje.core.resolve import resolve
from empuje.files.reader import UnusableFile, read_text
from empuje.show.display import Display
from empuje.show.output import NotWritten
from empuje.show.workbook import write_workbook
from models import PATIENCE, PORTAL

GRID = '[project]\nunits = "kN m"\n[grid]\nx = {{ {x} }}\ny = {{ {y} }}\nz = {{ {z} }}\n'


DEAD = PORTAL.replace("[cases]\n", "[cases]\n" + "".join(f'G{i} = {{ action = "dead" }}\n' for i in range(22))).replace(
    "[combinations.custom]", '[combinations]\nrules = ["AS/NZS 1170.0 stability"]\n[combinations.custom]'
)


def lines(letter, count):
    return ", ".join(f"{letter}{i} = {i}" for i in range(count))


def told(text):
    start = time.process_time()
    try:
        reading = read_text(text, "m.toml")
        found = [*reading.findings, *resolve(reading.project, reading.findings).findings]
    except UnusableFile as error:
        found = [error.finding]
    assert time.process_time() - start < PATIENCE
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
    start = time.process_time()
    reading = read_text(text + more, "m.toml")
    assert time.process_time() - start < PATIENCE and [n.name for n in reading.project.nodes] == ["K"]
    text += '[members.m]\nsection = "IPE 200"\nmaterial = "S235"\npieces = { P = "A399b399@c399 > K" }\n'
    assert [n.name for n in read_text(text, "m.toml").project.nodes] == ["K", "A399b399@c399"]


def test_a_sheet_of_more_rows_than_there_are_is_refused_before_it_is_made(tmp_path):
    table = Table("t", (Column("case", "text", ["U"] * 1_048_576),))
    start = time.process_time()
    with pytest.raises(NotWritten, match="1,048,576 rows, and a sheet holds 1,048,575"):
        write_workbook(tmp_path / "t.xlsx", table, Display(("kN", "m", "mm", "MPa")))
    assert time.process_time() - start < PATIENCE and not list(tmp_path.iterdir())


def test_what_needs_more_memory_than_there_is_is_told_before_it_is_solved(tmp_path, monkeypatch, capsys):
    path = tmp_path / "m.toml"
    path.write_text(PORTAL, encoding="utf-8")
    monkeypatch.setattr("empuje.cli.common.LONG_WORK", 5)
    monkeypatch.setattr("empuje.cli.machine.memory", lambda: 100_000_000)
    with monkeypatch.context() as patched:
        patched.setattr("empuje.core.analysis.solve.first_order", None)
        assert main(["reactions", str(path)]) == 2
    said = capsys.readouterr().err
    assert "10 members, 10 nodes and 3 cases" in said and "this machine has 0.1" in said and "--anyway" in said
    assert main(["reactions", str(path), "--anyway"]) == 0 and main(["loads", str(path)]) == 0
    assert (memory() or 1e9) > 1e8


def test_the_memory_expected_is_near_what_was_measured():
    """Peaks of benchmarks/building.py and benchmarks/scale.py, in GB: of 44,451 members and 40 cases with SciPy, and of
    197,225 members and 2 cases with PyPardiso."""
    for members, nodes, cases, library, measured in (
        (44_451, 16_428, 40, "scipy", 2.35),
        (197_225, 79_350, 2, "pypardiso", 4.26),
    ):
        frame = SimpleNamespace(
            members=range(members), places=range(nodes), cases=range(cases), notional_pairs=(), plane=False, plates=None
        )
        assert measured / 1.5 < expected_bytes(frame, library) / 1e9 < 1.5 * measured
    # And of the forces in a slab of 128 by 128 elements, by `empuje plates`.
    plates = SimpleNamespace(surface=range(128**2), xyz=range(129**2))
    slab = SimpleNamespace(
        members=(), places=range(129**2), cases=range(40), notional_pairs=(), plane=False, plates=plates
    )
    assert 1.98 / 1.5 < expected_bytes(slab, "scipy") / 1e9 < 1.5 * 1.98


def test_ten_lines_on_a_slab_take_no_time():
    text = (
        GRID.format(
            x=lines("A", 4).replace(" = 1", " = 6").replace(" = 2", " = 12").replace(" = 3", " = 18"),
            y="b0 = 0, b1 = 5",
            z="base = 0, top = 4",
        )
        + """
[members.beams]
section = "IPE 300"
material = "S235"
runs = ["A0>>A3 / b0..b1 / top", "A0..A3 / b0>>b1 / top"]
[members.columns]
section = "HEB 200"
material = "S235"
runs = ["A0..A3 / b0..b1 / base>top"]
[surfaces.slab]
corners = ["A0b0@top", "A3b0@top", "A3b1@top", "A0b1@top"]
deck = "two-way"
[[supports]]
at = "*@base"
fix = "fixed"
[cases]
Q = { action = "live" }
[loads]
Q = [
"""
        + "".join(
            f'{{ on = "slab", line = "2 kN/m", from = [{0.7 + i * 1.6}, 0.4], to = [{1.9 + i * 1.6}, 4.6] }},\n'
            for i in range(10)
        )
        + "]\n"
    )
    start = time.process_time()
    reading = read_text(text, "m.toml")
    resolved = resolve(reading.project, reading.findings)
    assert time.process_time() - start < PATIENCE
    loads = resolved.loads
    down = ((loads.lines.q0 + loads.lines.q1)[:, 2] / 2 * (loads.lines.s1 - loads.lines.s0)).sum() + loads.points.f[
        :, 2
    ].sum()
    assert down == pytest.approx(-10 * 2e3 * np.hypot(1.2, 4.2), rel=1e-9)
