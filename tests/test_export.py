"""A model written as plain entries and as tables, and read back, has the same results."""

import re
import tomllib
from importlib.resources import files
from pathlib import Path

import numpy as np
import pytest

from empuje.api import read
from empuje.cli import main
from empuje.core.analysis.solve import first_order
from empuje.core.resolve import resolve
from empuje.files.plain.model import as_toml, plain_model
from empuje.files.plain.tables import in_tables
from empuje.files.reader import read_model, read_text
from empuje.show.output import write_whole
from empuje.show.sheets_out import as_csv, of_sheets
from models import MADE
from test_copies import MOTIONS, PART
from test_docs import GUIDE, blocks

SAMPLES = {path.name: path for part in files("empuje.samples").iterdir() if part.is_dir()
           for path in part.iterdir() if path.name.endswith(".toml")}  # fmt: skip


def texts():
    for name, path in SAMPLES.items():
        yield name, path.read_text(encoding="utf-8")
    for name, (words, _) in MOTIONS.items():
        yield name, PART + words + "\n"
    yield "makers and copies", MADE
    yield "the guide", "\n".join(blocks(GUIDE, "toml"))


def beside(folder):
    """The tables and files of the guide, and the gantry's workbook."""
    (folder / "gantry.xlsx").write_bytes(files("empuje.samples").joinpath("gantry", "gantry.xlsx").read_bytes())
    for name, text in re.findall(r"```(?:csv|rules|include) (\S+)\n(.*?)```", GUIDE, re.S):
        (folder / name).write_text(text, encoding="utf-8")


def results(reading):
    """Displacements, and sums of reactions, of cases that are not made by codes, by names."""
    errors = [str(f) for f in reading.findings if f.level == "error"]
    assert not errors, errors
    s = first_order(resolve(reading.project)).solution
    nodes = [n.name for n in s.project.nodes]
    order = np.argsort(nodes)
    moved = s.displacement[: len(nodes)][order]
    return (
        [nodes[i] for i in order],
        sorted(m.name for m in s.project.members),
        s.project.case_names,
        moved,
        s.reaction.sum(0),
    )


def same(one, other, within=1e-12):
    assert one[:3] == other[:3]
    for a, b in zip(one[3:], other[3:], strict=True):
        assert np.abs(a - b).max() <= within * np.abs(a).max()


@pytest.mark.parametrize(("name", "text"), list(texts()), ids=[name for name, _ in texts()])
def test_a_model_written_plainly_or_as_tables_has_the_same_results(name, text, tmp_path):
    """To 1e-12, and what is thrown together to 1e-11: with every kind of load, makers, copies turned and mirrored, springs, turned supports that settle, one-way
    parts, own sections, tables and files beside it."""
    beside(tmp_path)
    reading = read_text(text, "m.toml", tmp_path)
    want = results(reading)
    within = 1e-12 if name in SAMPLES else 1e-11
    plain = plain_model(reading)
    assert not {"makers", "copies", "include", "tables"} & set(plain)
    assert not any("runs" in family for family in plain["members"].values())
    again = read_text(as_toml(plain), "p.toml", tmp_path)
    same(want, results(again), within)
    rest, sheets = in_tables(plain, reading.project.plane, lambda kind: f"{kind} of it.csv")
    for kind, rows in sheets.items():
        (tmp_path / f"{kind} of it.csv").write_text(as_csv(rows), encoding="utf-8")
    same(want, results(read_text(as_toml(rest), "t.toml", tmp_path)), within)
    rest, sheets = in_tables(plain, reading.project.plane, lambda kind: f"all.xlsx#{kind}")
    write_whole(tmp_path / "all.xlsx", of_sheets(tmp_path / "all.xlsx", sheets))
    (tmp_path / "x.toml").write_text(as_toml(rest), encoding="utf-8")
    same(want, results(read_model(tmp_path / "x.toml")), within)
    assert len(sheets["members"]) > 1


def test_a_load_of_another_size_is_seen():
    """What the comparison above would miss is nothing: a millionth of one load, or a section turned by a second."""
    want = results(read_text(MADE, "m.toml"))
    for old, new in (('g_k = "20 psf"', 'g_k = "20.00002 psf"'), ('depth = "20 in"', 'depth = "20.00002 in"')):
        with pytest.raises(AssertionError):
            same(want, results(read_text(MADE.replace(old, new), "m.toml")))


def test_what_was_written_out_is_no_copy_any_more():
    """Without ~ a selector means all there is, surfaces too: in a model with copies it means what was written."""
    words = MOTIONS["mirrored across x"][0] + "\n"
    copied = read_text(PART.replace("AR = [ {", 'AR = [ { on = "roof*", area = 1 }, {') + words, "m.toml").project
    plain = as_toml(plain_model(read_text(PART + words, "m.toml")))
    first = plain.index("AR = [") if "AR = [" in plain else plain.index("[[loads.AR]]")
    more = '[[loads.AR]]\non = "roof*"\narea = 1\n\n'
    written = read_text(plain[:first] + more + plain[first:], "p.toml").project
    count = [sum(load.surface == 1 for load in p.surface_loads) for p in (copied, written)]
    assert count[0] == count[1] and len(written.surface_loads) == len(copied.surface_loads)


def test_only_values_that_are_needed_stay():
    """Expressions are numbers afterwards; what no one names is gone."""
    plain = plain_model(read_text(MADE, "m.toml"))
    assert "values" not in plain
    kept = MADE.replace('[members.joists]\nsection = "W8x18"', '[members.joists]\nroll = "idle"\nsection = "W8x18"')
    assert plain_model(read_text(kept, "m.toml"))["values"] == {"idle": 3}


def run(capsys, *words):
    code = main([str(w) for w in words])
    said = capsys.readouterr()
    return code, said.out, said.err


def test_what_belongs_together_is_written_together(tmp_path, monkeypatch, capsys):
    """A disk that fills up, while tables are written or while they are put in place, leaves everything as it was."""
    model = tmp_path / "m.toml"
    model.write_text(MADE, encoding="utf-8")
    out = tmp_path / "out"
    assert run(capsys, "export", model, "-o", out)[0] == 0
    before = {p.name: p.read_bytes() for p in out.iterdir()}
    model.write_text(MADE.replace('"20 psf"', '"30 psf"'), encoding="utf-8")

    def failing(after):
        calls = [0]

        def fails(real):
            def call(self, *words, **more):
                calls[0] += self.parent == out
                if calls[0] == after + 1 and self.parent == out:
                    raise OSError(28, "No space left on device")
                return real(self, *words, **more)

            return call

        return fails

    for method, after in (("write_text", 0), ("write_text", 3), ("replace", 0), ("replace", 2)):
        with monkeypatch.context() as patched:
            patched.setattr(Path, method, failing(after)(getattr(Path, method)))
            code, _, err = run(capsys, "export", model, "-o", out)
        assert code == 2 and "No space left" in err
        assert {p.name: p.read_bytes() for p in out.iterdir()} == before
    assert run(capsys, "export", model, "-o", out, "--force")[0] == 0
    assert {p.name for p in out.iterdir()} == set(before)


def test_the_commands_write_what_can_be_read(tmp_path, capsys):
    """A folder of tables, a workbook, rule files that go with it, a value set; nothing of others is replaced."""
    (tmp_path / "a").mkdir()
    model = tmp_path / "a" / "m.toml"
    model.write_text(MADE.replace("custom =", 'rule_files = "own.toml"\ncustom ='), encoding="utf-8")
    (tmp_path / "a" / "own.toml").write_text('code = "own"\n', encoding="utf-8")
    code, _, err = run(capsys, "export", model, "-o", tmp_path / "out", "--set", "g_k=40 psf")
    assert code == 0 and "empuje check" in err
    assert {p.name for p in (tmp_path / "out").iterdir()} >= {
        "m.toml",
        "own.toml",
        "members.csv",
        "loads.csv",
        "cases.csv",
    }
    code, out, _ = run(capsys, "check", tmp_path / "out" / "m.toml")
    assert code == 0 and "0 errors" in out
    loads = (tmp_path / "out" / "loads.csv").read_text(encoding="utf-8")
    assert "D,floor,0.04" in loads and '"0.267261241924, ' not in loads
    code, _, err = run(capsys, "export", model, "-o", tmp_path / "a" / "book.xlsx")
    assert code == 0 and (tmp_path / "a" / "book.toml").exists()
    first = (tmp_path / "a" / "book.xlsx").read_bytes()
    assert run(capsys, "export", model, "-o", tmp_path / "a" / "book.xlsx")[0] == 0
    assert (tmp_path / "a" / "book.xlsx").read_bytes() == first
    assert run(capsys, "check", tmp_path / "a" / "book.toml")[0] == 0
    (tmp_path / "out" / "nodes.csv").write_text("mine", encoding="utf-8")
    code, _, err = run(capsys, "export", model, "-o", tmp_path / "out")
    assert code == 2 and "--force" in err and (tmp_path / "out" / "nodes.csv").read_text(encoding="utf-8") == "mine"
    assert run(capsys, "export", model, "-o", tmp_path / "a")[0] == 2, "the model itself is read"


def test_expand_prints_what_a_maker_stands_for(tmp_path, capsys):
    """By the maker's name, by a selector, or all of it; what it prints are entries of a model."""
    model = tmp_path / "m.toml"
    model.write_text(MADE, encoding="utf-8")
    code, out, _ = run(capsys, "expand", model, "--on", "T")
    part = tomllib.loads(out)
    assert code == 0 and set(part["members"]) == {"chords", "webs"}
    assert part["members"]["chords"]["pieces"] == {"T.bottom": "A1@eave > B1@eave", "T.top": "T.t0 > T.t6"}
    assert len(part["members"]["webs"]["pieces"]) == 6 + 7 and part["nodes"]["T.t2"] == pytest.approx([20 / 3, 0, 15])
    part = tomllib.loads(run(capsys, "expand", model, "--on", "rafters/P.1.*")[1])
    assert part["members"]["rafters"]["pieces"]["P.1.2"]["section"] in part["sections"]
    part = tomllib.loads(run(capsys, "expand", model, "--on", "columns/A1/*~m, webs/T.d1~m")[1])
    assert part["sections"] == {"L6x4x1/2, mirrored": {"mirror_of": "L6x4x1/2"}} and "A1@base~m" in part["nodes"]
    part = tomllib.loads(run(capsys, "expand", model, "--on", "webs, !webs/T.p*, !webs/*~m, J")[1])
    assert len(part["members"]["webs"]["pieces"]) == 6 and len(part["members"]["joists"]["pieces"]) == 5
    code, out, _ = run(capsys, "expand", model)
    with pytest.warns(UserWarning, match="unused-value"):
        assert read(model).expanded() == out
    assert code == 0 and tomllib.loads(out)["project"] == {"units": "kip ft"}
    code, _, err = run(capsys, "expand", model, "--on", "Tt")
    assert code == 2 and "makers are T, P, J" in err
