"""Tables and files out: rounding for eyes, full precision for machines, whole or not at all."""

import doctest
import importlib
import inspect
import pkgutil
import re
import signal
import threading
import time
from pathlib import Path

import numpy as np
import pytest

import empuje
from empuje.core.answers.table import Column, Table
from empuje.show.display import Display
from empuje.show.exchange import write_folder
from empuje.show.output import NotWritten, write_text, write_whole
from empuje.show.progress import beside
from empuje.show.tables import as_csv, as_json, as_markdown, for_eyes
from empuje.show.workbook import write_workbook

KN, KIP = Display(("kN", "m", "mm", "MPa")), Display(("kip", "ft", "in", "ksi"))
TABLE = Table(
    "t",
    (
        Column("member", "text", ["a/1", "b/22"]),
        Column("N", "force", np.array([1234567.5, -(2.0**-10)])),
        Column("My", "moment", np.array([np.nan, -2500.0])),
        Column("ux", "displacement", np.array([0.0123456, -0.0])),
    ),
)


def test_for_eyes():
    lines = for_eyes(TABLE, KN).splitlines()
    assert lines[0].split() == ["member", "N", "[kN]", "My", "[kN*m]", "ux", "[mm]"]
    assert lines[2].split() == ["a/1", "1234.57", "-", "12.346"]
    # A thousandth of a newton beside a meganewton is rounding: shown as 0, and never as -0.
    assert lines[3].split() == ["b/22", "0.00", "-2.500", "0.000"]
    assert len({len(line) for line in lines[1:]}) == 1


def test_for_machines():
    import json

    assert as_csv(TABLE, KN) == (
        "member,N [kN],My [kN*m],ux [mm]\na/1,1234.5675,,12.3456\nb/22,-9.765625e-7,-2.5,0.0\n"
    )
    rows = json.loads(as_json(TABLE, KIP))
    assert rows[0]["My [kip*ft]"] is None
    assert rows[0]["N [kip]"] == pytest.approx(1234567.5 / 4448.2216152605, rel=1e-15)
    assert rows[1]["My [kip*ft]"] == pytest.approx(-2500 / 1355.8179483314, rel=1e-12)
    assert rows[0]["ux [in]"] == pytest.approx(0.0123456 / 0.0254, rel=1e-15)
    assert as_markdown(TABLE, KN).splitlines()[1] == "| --- | ---: | ---: | ---: |"
    assert as_json(TABLE.rows(np.array([], int)), KN) == "[]\n"


def test_a_file_is_replaced_whole_or_not_at_all(tmp_path):
    path = tmp_path / "a.txt"
    write_text(path, "old")

    def fails(beside):
        beside.write_text("half")
        raise OSError(28, "No space left on device")

    with pytest.raises(NotWritten, match=r"a\.txt cannot be written: No space left"):
        write_whole(path, fails)
    assert path.read_text() == "old" and [p.name for p in tmp_path.iterdir()] == ["a.txt"]


@pytest.mark.parametrize("error", [OSError(28, "No space left on device"), KeyboardInterrupt()])
def test_an_interrupted_run_leaves_the_old_results(tmp_path, error):
    folder = tmp_path / "results"

    def fill(place):
        (place / "a.csv").write_text("first")

    write_folder(folder, fill)

    def fails(place):
        (place / "a.csv").write_text("second")
        raise error

    with pytest.raises((NotWritten, KeyboardInterrupt)):
        write_folder(folder, fails)
    assert (folder / "a.csv").read_text() == "first" and [p.name for p in tmp_path.iterdir()] == ["results"]


def test_a_file_in_the_way_is_not_replaced(tmp_path):
    (tmp_path / "results").write_text("mine")
    with pytest.raises(NotWritten, match="is a file"):
        write_folder(tmp_path / "results", lambda place: None)
    assert (tmp_path / "results").read_text() == "mine"


def modules():
    return [m.name for m in pkgutil.walk_packages(empuje.__path__, "empuje.") if not m.name.endswith("__main__")]


def test_the_examples_in_the_docstrings_run(tmp_path, monkeypatch):
    tried = 0
    monkeypatch.chdir(tmp_path)  # those of the public API are about README's ten lines
    readme = (Path(__file__).parents[1] / "README.md").read_text(encoding="utf-8")
    Path("frame.toml").write_text(readme.split("```toml\n")[1].split("```")[0], encoding="utf-8")
    model = empuje.read("frame.toml")
    of_api = {"empuje": empuje, "model": model, "results": model.solve()}
    for name in modules():
        module = importlib.import_module(name)
        extra = {"np": np, **(of_api if name.startswith("empuje.api") else {})}
        if name.endswith("factor"):
            from scipy import sparse

            extra["sparse"] = sparse
        found = doctest.testmod(module, extraglobs=extra)
        assert found.failed == 0, name
        tried += found.attempted
    assert tried > 60


def test_the_public_names_say_what_they_take_give_and_raise():
    """And docs/python.md names each of them."""
    page = (Path(__file__).parents[1] / "docs" / "python.md").read_text(encoding="utf-8")
    assert set(dir(empuje)) == set(empuje.__all__)
    for name in (n for n in empuje.__all__ if n != "__version__"):
        assert f"`{name}" in page or f"empuje.{name}" in page, name
    for of in (empuje.Model, empuje.Results):
        for name, call in inspect.getmembers(of, inspect.isfunction):
            if name.startswith("_"):
                continue
            said, taken = call.__doc__, [p for p in inspect.signature(call).parameters if p not in ("self", "options")]
            assert f"`{name}`" in page, name
            assert "Returns\n" in said and "Examples\n" in said, name
            assert all(re.search(rf"^ *{p} : ", said, re.M) for p in taken), name


def test_every_module_says_what_it_is():
    for name in modules():
        assert (importlib.import_module(name).__doc__ or "").strip(), name


def test_workbooks_show_what_eyes_read_and_hold_it_all(tmp_path):
    import openpyxl

    table = Table("odd", (
        Column("title", "text", ["=1+1", "+x", "plain"]),
        Column("N", "force", np.array([1234567.89123, -2.5e-3, np.nan])),
        Column("J", "inertia", np.array([1.23456e-6, 4.2e-13, 0.0])),
    ))  # fmt: skip
    write_workbook(tmp_path / "odd.xlsx", table, KN)
    sheet = openpyxl.load_workbook(tmp_path / "odd.xlsx").worksheets[0]
    rows = list(sheet.iter_rows(min_row=2))
    assert [(row[0].value, row[0].data_type) for row in rows] == [("=1+1", "s"), ("+x", "s"), ("plain", "s")]
    assert [row[1].value for row in rows] == [1234.56789123, -2.5e-6, None]
    assert rows[0][1].number_format == "0.00"  # six figures of the largest
    assert [row[2].number_format for row in rows] == ["0.0", "0.000E+00", "0"]  # 123.456 cm4: four figures of each
    assert sheet.freeze_panes == "B2" and sheet.column_dimensions["A"].width >= len("title")


def test_whoever_waits_can_stop_the_work_at_once():
    done = []
    assert beside(lambda: 6 * 7) == 42
    with pytest.raises(ZeroDivisionError):
        beside(lambda: 1 / 0)
    before = signal.signal(signal.SIGINT, signal.default_int_handler)  # what runs in the background ignores it
    try:
        threading.Timer(0.2, signal.raise_signal, [signal.SIGINT]).start()
        with pytest.raises(KeyboardInterrupt):
            beside(lambda: done.append(time.sleep(3)))  # as deaf as a library
    finally:
        signal.signal(signal.SIGINT, before)
    assert not done
