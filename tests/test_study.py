"""What is solved once is kept, and never differs from what is solved anew; and how tables fit a window."""

import csv
import dataclasses
import io
import json
import os
import re
import sys
from importlib.resources import files

import numpy as np
import pytest

from build import critical, named
from empuje.cli import main
from empuje.core.analysis.axial import State
from empuje.core.analysis.critical import below, pulled
from empuje.core.analysis.packed import pack
from empuje.core.analysis.pieces import FORCES
from empuje.core.analysis.solve import cut, first_order, second_order_results
from empuje.core.analysis.tangent import Basis, Tangent
from empuje.core.answers.along import forces
from empuje.core.answers.deflection import largest_deflections
from empuje.core.answers.reactions import reactions
from empuje.core.answers.storey_cuts import storey_cut_table
from empuje.core.model.loads import Position
from empuje.core.model.results import Result
from empuje.core.model.words import Reference
from empuje.files.kept import store
from empuje.show.layout import Window, aligned, flowing
from empuje.study.study import Study
from empuje.study.verdicts import checked_members, judged
from models import PORTAL
from test_traffic_rows import lifting

TIED = PORTAL.replace('units = "kN m"', 'units = "kN m"\nanalysis = "second-order"').replace(
    "[[supports]]",
    """[members.diagonals]
section = "L 60x60x6"
material = "S235"
bar = true
acts = "tension"
runs = ["A>C / 1,2 / base>eave", "C>A / 1,2 / base>eave"]
[[supports]]""",
).replace('ends = "hinged"\n', "").replace("HEB 200", "HEB 400").replace("IPE 300", "IPE 450")  # fmt: skip


@pytest.fixture
def kept(tmp_path, monkeypatch):
    monkeypatch.setenv("EMPUJE_CACHE", str(tmp_path / "kept"))
    model = tmp_path / "m.toml"
    model.write_text(TIED, encoding="utf-8")
    return model


def out(capsys, *words):
    code = main([str(w) for w in words])
    said = capsys.readouterr()
    return code, said.out, said.err


def never(monkeypatch):
    """From here on nothing may be solved."""

    def refuse(*_):
        raise AssertionError("solved again")

    monkeypatch.setattr("empuje.core.analysis.solve.first_order", refuse)


def test_a_kept_solution_is_the_solution(kept, monkeypatch, capsys):
    """Every array of it, and every byte that commands print: with one-way members, second order and a failed result."""
    more = kept.read_text(encoding="utf-8") + 'far = { formula = "4000 G", set = "strength" }\n'
    kept.write_text(more, encoding="utf-8")
    fresh = Study.read(kept, cache=False).solution()
    assert not store.entries()
    first = Study.read(kept).solution()
    ((path, _),) = store.entries()
    asked = (["envelope", kept], ["reactions", kept, "--each", "--format", "csv"], ["displacements", kept])
    anew = [out(capsys, *words, "--no-cache") for words in asked]
    never(monkeypatch)
    again = Study.read(kept).solution()
    assert again is not first and [f.name for f in again.failed] == ["far"] == [f.name for f in fresh.failed]
    assert {r: str(f) for r, f in again.failed.items()} == {r: str(f) for r, f in fresh.failed.items()}
    for name, array in pack(fresh).items():
        np.testing.assert_array_equal(pack(again)[name], array, err_msg=name)
    assert [out(capsys, *words) for words in asked] == anew and path in dict(store.entries())


CHECKED = (
    TIED
    + """
[steel]
code = "EN 1993-1-1"
under = "U*"
[[limits]]
name = "steel"
check = "steel"
utilisation = "<= 1"
under = "U*"
[[limits]]
name = "safe"
check = "stability"
alpha_cr = ">= 3"
under = "U*"
"""
)


def test_kept_answers_are_those_worked_out_anew(kept, monkeypatch, capsys):
    """Of all members, and of some of them from what is known of all; what is known of some is no answer for all; and what
    was kept of another model is none."""
    kept.write_text(CHECKED, encoding="utf-8")
    fresh = Study.read(kept, cache=False)
    members = np.arange(len(fresh.project.members))
    some = [members[1::2], members, members[::3], members[[3]]]
    results = fresh.under(["U*"])
    alone = [fresh.extremes(fresh.solution(), results, m) for m in some]
    steel = [checked_members(fresh, m.tolist())[1] for m in some]
    verdict = judged(fresh)
    first = Study.read(kept)
    for m in some[:2]:  # what is kept grows with what is asked for
        first.extremes(first.solution(), results, m)
        checked_members(first, m.tolist())
    judged(first)
    count = len(store.entries())

    def refuse(*_):
        raise AssertionError("worked out again")

    for name in ("steel.checked.check_members", "answers.envelope.extremes", "answers.stability.lowest_critical"):
        monkeypatch.setattr(f"empuje.core.{name}", refuse)
    again = Study.read(kept)
    for m, forces_there, checked in zip(some, alone, steel, strict=True):
        found = again.extremes(again.solution(), results, m)
        for name in ("x", "result", "forces", "there"):
            np.testing.assert_array_equal(getattr(found, name), getattr(forces_there, name), err_msg=name)
        found = checked_members(again, m.tolist())[1]
        for f in dataclasses.fields(checked):
            if f.name in ("members", "use", "x", "result", "stretch", "warps", "lost", "partly"):
                np.testing.assert_array_equal(getattr(found, f.name), getattr(checked, f.name), err_msg=f.name)
        for f in dataclasses.fields(checked.lengths):
            mine, theirs = getattr(found.lengths, f.name), getattr(checked.lengths, f.name)
            np.testing.assert_array_equal(mine, theirs, err_msg=f.name)
    assert [(o.limit.name, o.value, o.place, o.case) for o in judged(again).outcomes] == [
        (o.limit.name, o.value, o.place, o.case) for o in verdict.outcomes
    ] and len(store.entries()) == count  # fmt: skip
    kept.write_text(CHECKED.replace("HEB 400", "HEB 300"), encoding="utf-8")
    other = Study.read(kept)
    with pytest.raises(AssertionError, match="worked out again"):
        checked_members(other, members.tolist())


def test_a_pattern_by_its_name_is_kept_as_a_combination_is(kept):
    """Its lowest critical load is that of the same combination written out, anew and from what is kept; so is that of
    the worst pattern of all. Positions of traffic that join leave a pattern what it is."""
    text = PORTAL.split("[combinations")[0].replace('Q = { action = "live"', 'Q = { pattern = true, action = "live"')
    more = """
[combinations.custom]
C1 = "1.2 G + 1.6 Q"
C2 = "1.2 G"
M = "1.2 G + 1.5 T + 1.6 Q"
[vehicles.v]
axles = [[0, "20 kN"]]
[traffic.T]
vehicle = "v"
use = "storage"
way = "rafters/1/*"
"""
    kept.write_text(text + more, encoding="utf-8")
    for study in (Study.read(kept), Study.read(kept), Study.read(kept, cache=False)):
        found = {}
        for word in ("C1.without.Q", "C2", "C1"):
            (asked,) = study.under([word])
            worst, factor = study.lowest_of([asked])
            found[word] = factor
            if word == "C1.without.Q":
                assert worst.name == word
        assert found["C1.without.Q"] == pytest.approx(found["C2"], rel=1e-9) and found["C1"] <= found["C2"] * (1 + 1e-9)
        (pattern,) = study.under(["C1.without.Q"])
        stood, _ = study.stand(study.under(["M"]))
        again = study.resolved.results[pattern.index]
        assert (again.name, again.absent, again.of) == (pattern.name, pattern.absent, pattern.of) and stood
        same, plain = (reactions(study.solution([r]), [r])["Fz"] for r in (again, *study.under(["C2"])))
        np.testing.assert_allclose(same, plain, rtol=1e-9)


def test_other_code_and_other_libraries_find_nothing_kept(tmp_path, monkeypatch):
    """Of the same names, sizes and times: it is the contents that count, and the versions beside them."""
    code = tmp_path / "a.py"
    code.write_text("x = 1", encoding="utf-8")
    monkeypatch.setattr(store, "files", lambda name: tmp_path)
    found = [store._ourselves.__wrapped__()]
    before = code.stat()
    code.write_text("x = 2", encoding="utf-8")
    os.utime(code, ns=(before.st_atime_ns, before.st_mtime_ns))
    found.append(store._ourselves.__wrapped__())
    monkeypatch.setattr(store, "version", lambda name: "0")
    found.append(store._ourselves.__wrapped__())
    assert len(set(found)) == 3 and store._ourselves.__wrapped__() == found[2]


def test_kept_positions_are_those_chosen_anew(tmp_path, monkeypatch):
    """Of a row of vehicles with gaps over a beam that may lift off; a changed vehicle is another model."""
    monkeypatch.setenv("EMPUJE_CACHE", str(tmp_path / "kept"))
    model = tmp_path / "m.toml"
    text = lifting(1)
    model.write_text(text, encoding="utf-8")
    fresh, first = Study.read(model, cache=False), Study.read(model)
    assert fresh.project.standings and first.project.standings == fresh.project.standings

    def refuse(*_):
        raise AssertionError("chosen again")

    monkeypatch.setattr("empuje.core.answers.candidates_as_one.candidates_as_one", refuse)
    again = Study.read(model)
    assert again.project.standings == fresh.project.standings
    assert list(map(str, again.findings)) == list(map(str, fresh.findings))
    ((path, _),) = store.entries()
    arrays = dict(store.load(path.stem))
    for damage in ("[]]", '[[0, 1, 0.9, [["a", [[7, 0, 1.0, 1, 0, 0, [], []]]]]]]', "[[9, 1, 0.9, []]]"):
        store.save(path.stem, arrays | {"positions": np.array(damage)})
        with pytest.raises(AssertionError, match="chosen again"):
            Study.read(model)


@pytest.mark.parametrize("damage", [b"", b"PK\x03\x04 not an archive", None])
def test_what_cannot_be_read_is_solved_anew(kept, damage):
    first = Study.read(kept).solution()
    ((path, _),) = store.entries()
    if damage is None:  # whole, but of another model
        arrays = dict(store.load(path.stem))
        arrays["displacement"] = arrays["displacement"][:-1]
        store.save(path.stem, arrays)
    else:
        path.write_bytes(damage)
    again = Study.read(kept).solution()
    np.testing.assert_array_equal(again.displacement, first.displacement)
    assert store.load(path.stem) is not None


def test_an_entry_proves_itself(kept, monkeypatch, capsys):
    """Another model's entry under this one's name, a changed byte, arrays that are well formed but whose reactions are not
    those of this model's loads, and a folder that cannot be read: each is solved anew, with the same answers."""
    first = Study.read(kept).solution()
    ((path, _),) = store.entries()
    own = path.read_bytes()
    text = kept.read_text(encoding="utf-8")
    kept.write_text(text.replace("5 kN", "50 kN"), encoding="utf-8")
    assert not np.array_equal(Study.read(kept).solution().reaction, first.reaction)
    other = next(p for p, _ in store.entries() if p != path)
    kept.write_text(text, encoding="utf-8")
    path.write_bytes(other.read_bytes())
    assert store.load(path.stem) is None
    np.testing.assert_array_equal(Study.read(kept).solution().reaction, first.reaction)
    # At some places only: not all bytes of an archive are contents.
    for at in range(200, len(own), len(own) // 7):
        path.write_bytes(own[:at] + bytes([own[at] ^ 4]) + own[at + 1 :])
        np.testing.assert_array_equal(Study.read(kept).solution().reaction, first.reaction)
    path.write_bytes(own)
    arrays = store.load(path.stem)
    store.save(path.stem, {**arrays, "reaction": -arrays["reaction"]})
    assert store.load(path.stem) is not None
    np.testing.assert_array_equal(Study.read(kept).solution().reaction, first.reaction)

    def refused(*_):
        raise PermissionError(13, "Permission denied")

    monkeypatch.setattr("pathlib.Path.is_file", refused)
    assert store.load(path.stem) is None
    monkeypatch.setattr("pathlib.Path.is_dir", refused)
    assert store.entries() == []


def test_any_change_of_what_a_model_came_from_asks_anew(kept, monkeypatch, capsys):
    """The model's text, a table beside it, what was asked, and our own version."""
    table = kept.with_name("more.csv")
    kept.write_text('[tables]\nloads = "more.csv"\n' + TIED, encoding="utf-8")
    table.write_text("case,on,line\nG,rafters,1\n", encoding="utf-8")
    sums = []
    for text in ("case,on,line\nG,rafters,1\n", "case,on,line\nG,rafters,2\n", "case,on,line\nG,rafters,1\n"):
        table.write_text(text, encoding="utf-8")
        sums.append(Study.read(kept).solution().reaction[:, 2].sum())
    assert sums[0] == sums[2] != sums[1] and len(store.entries()) == 2
    one = Study.read(kept)
    one.solution(one.under(["U1"]))  # all that was solved serves for less
    assert len(store.entries()) == 2
    monkeypatch.setattr(store, "_ourselves", lambda: b"another version")
    Study.read(kept).solution()
    assert len(store.entries()) == 3
    assert "3 solved models" in out(capsys, "cache")[1]
    assert out(capsys, "cache", "--clear")[1].startswith("removed 3") and not store.entries()
    monkeypatch.setenv("EMPUJE_CACHE", "")
    assert "nothing is kept" in out(capsys, "cache")[1]


def test_the_cache_is_bounded_and_the_oldest_goes(kept, monkeypatch):
    monkeypatch.setattr(store, "ALL", 3500)
    for i in range(4):
        store.save(f"k{i}", {"a": np.zeros(100)})
        os.utime(store.folder() / f"k{i}.npz", (i, i))
    store.save("last", {"a": np.zeros(100)})
    assert [p.stem for p, _ in store.entries()] == ["k3", "last"]
    store.save("huge", {"a": np.zeros(store.LARGEST // 8 + 1, np.int8).view()})
    monkeypatch.setattr(store, "LARGEST", 10)
    store.save("large", {"a": np.zeros(100)})
    assert "large" not in {p.stem for p, _ in store.entries()}


def test_what_is_below_its_critical_load_by_one_factorisation(kept):
    """The same as by the factor itself, for loads around it."""
    model = Study.read(kept).resolved
    first = first_order(model)
    bent = second_order_results(first.solution)
    prepared = cut(first, bent)
    factors = np.array([critical(prepared.solution, r.name) for r in bent])
    mix = prepared.solution.weights(bent)
    for times in (0.5, 0.999, 1.001, 3.0):
        near = mix * np.minimum(factors, 1e3) * times
        found = below(pulled(prepared.equations, prepared.solution, near, prepared.parts))
        assert found.tolist() == [times < 1] * len(bent)


def test_check_is_quick_and_deep_finds_what_buckles(kept, monkeypatch, capsys):
    kept.write_text(TIED + 'far = { formula = "4000 G", set = "strength" }\n', encoding="utf-8")
    code, said, _ = out(capsys, "check", kept, "--deep")
    assert code == 1 and "far is beyond its elastic critical load" in said

    def refuse(*_):
        raise AssertionError("analysed by second order")

    monkeypatch.setattr("empuje.core.analysis.solve.second_order", refuse)
    assert "stable, loads and reactions balance" in out(capsys, "check", kept)[1]
    assert "by first order; --deep analyses those of second order too" in out(capsys, "check", kept)[1]
    store.entries() and [path.unlink() for path, _ in store.entries()]
    with pytest.raises(AssertionError, match="second order"):
        main(["check", str(kept), "--deep"])


@pytest.mark.parametrize("floor", ["", '[diaphragms]\neave = { nodes = "*@eave" }\n'])
def test_a_sparse_factorisation_gives_what_a_dense_one_does(kept, monkeypatch, floor):
    """With parts gone slack, and with a rigid floor; and each tells what is beyond its critical load."""
    text = TIED.replace("[cases]", f"{floor}[cases]") + 'far = { formula = "4000 G", set = "strength" }\n'
    kept.write_text(text, encoding="utf-8")
    dense = Study.read(kept, cache=False).solution()
    monkeypatch.setattr("empuje.core.analysis.tangent.DENSE", 0)
    sparse = Study.read(kept, cache=False).solution()
    assert [r.name for r in sparse.failed] == [r.name for r in dense.failed] == ["far"]
    standing = [r for r in dense.results if r.name != "far"]
    a, b = (s.displacement @ s.weights(standing) for s in (dense, sparse))
    np.testing.assert_allclose(b, a, atol=1e-10 * np.abs(a).max())
    assert (dense.mix[-len(dense.at) - 4 : -len(dense.at)] > 0).any(), "a tie is slack"


@pytest.mark.parametrize("dense", [True, False])
def test_the_factored_frame_answers_exactly(kept, monkeypatch, dense):
    """(K + G) x = f as K x = f - G x has it, whatever pushes nodes and inner motions; with ties slack and without."""
    monkeypatch.setattr("empuje.core.analysis.tangent.DENSE", 10_000 if dense else 0)
    prepared = Study.read(kept, cache=False).prepared
    results = prepared.solution.results
    given = pulled(prepared.equations, prepared.solution, prepared.solution.weights(results), prepared.parts)
    assert given.stands.all() and 0 < given.slack.loose.any(axis=0).sum() < len(results)
    tangent, random = Tangent(Basis(given.frame), given.N, given.slack), np.random.default_rng(2)
    force = State(*(random.standard_normal((*a.shape[:-1], len(results))) * 1e3 for a in tangent.like()))
    for N in (tangent.N, given.N):
        x = tangent.solve(force)
        pulled_on = given.frame.thrust(N, given.frame.bending(x)).along
        again = given.frame.yield_to(force.plus(-1.0, pulled_on), given.slack)
        for a, b in ((x.nodes, again.nodes), (x.inner, again.inner)):
            np.testing.assert_allclose(a, b, atol=1e-9 * np.abs(b).max())
        tangent.renew(given.N, given.slack, np.arange(len(results)))


def test_results_answered_together_are_those_answered_alone(kept, monkeypatch):
    """One factorised state serves results with the same slack parts, whose axial forces range up to near the critical
    load and past it; what is beyond is told apart. Only beside the critical load factors of their own are needed."""
    shares = {"a": 0.3, "b": 2, "c": 3, "d": 3.4, "e": 3.5, "f": 30}  # it buckles at 3.43
    text = TIED + "".join(f'{k} = {{ formula = "{s} G + 0.1 W", set = "strength" }}\n' for k, s in shares.items())
    kept.write_text(text, encoding="utf-8")
    study = Study.read(kept, cache=False)
    results = study.second_order()
    alone = {}
    for result in results:
        one = Study.read(kept, cache=False).solution([result])
        alone[result.name] = None if result in one.failed else one.displacement @ one.weights([result])
    renewed, renew = [], Tangent.renew
    monkeypatch.setattr(Tangent, "renew", lambda *asked: renewed.extend(asked[-1]) or renew(*asked))
    together = study.solution()
    assert {r.name for r in together.failed} == {k for k, u in alone.items() if u is None} == {"e", "f"}
    for result in results:
        if result not in together.failed:
            u = (together.displacement @ together.weights([result]))[: len(study.project.nodes)]
            np.testing.assert_allclose(u, alone[result.name][: len(u)], atol=1e-9 * np.abs(u).max())
    assert len(renewed) <= 2


def test_stability_is_kept_too(kept, monkeypatch, capsys):
    anew = out(capsys, "stability", kept, "--no-cache")
    assert anew[0] == 0 and out(capsys, "stability", kept) == anew
    monkeypatch.setattr("empuje.core.answers.stability.lowest_factors", None)
    assert out(capsys, "stability", kept) == anew


def test_results_are_values(kept):
    """A result is its place among the model's; a pattern is a result of its own, and its name is only printed."""
    model = Study.read(kept).resolved
    U1 = named(model, "U1")
    assert dataclasses.replace(U1, of=model.project.cases[0]) == U1 and len({U1, named(model, "U2")}) == 2
    renamed = Result(U1.index, dataclasses.replace(U1.of, name="another"))
    s = Study.read(kept).solution()
    np.testing.assert_array_equal(s.weights([renamed]), s.weights([U1]))


HEADS = ["member", "case", "x [m]", "N [kN]", "how", "source"]
ROWS = [
    [
        "columns/A1/base-eave",
        "U4+WX+Q+R+T+SET+LX",
        "0.000",
        "-1234.567",
        "second order",
        "line 12 kN/m down on rafters",
    ],
    ["rafters/B", "G", "12.250", "0.100", "as one", "force"],
]
NUMERIC = [False, False, True, True, False, False]


@pytest.mark.parametrize("width", [140, 100, 80, 60])
def test_tables_fit_the_window_and_numbers_never_break(width):
    text, _, told = aligned(HEADS, ROWS, NUMERIC, width).partition("Left out to fit the window")
    lines = text.splitlines()
    assert max(map(len, lines)) <= width
    assert "-1234.567" in text and "12.250" in text and "columns/A1/base-eave" in text
    assert bool(told) == (width <= 80) and (not told or ("how" in told and "--format csv" in told))
    gone = [i for i, head in enumerate(HEADS) if told and head in told]
    words = {w for row in ROWS for i, cell in enumerate(row) if i not in gone for w in cell.split()}
    shown = {w for line in lines for w in line.split()}
    assert words <= shown  # none is cut
    assert aligned(HEADS, ROWS, NUMERIC) == aligned(HEADS, ROWS, NUMERIC, 1000)


def test_a_terminal_gets_fitted_tables_and_a_pipe_gets_all(kept, monkeypatch, capsys):
    piped = out(capsys, "envelope", kept, "--on", "rafters")[1]
    monkeypatch.setattr("empuje.show.layout.window", lambda stream=None: Window(70, 1000, False))
    fitted = out(capsys, "envelope", kept, "--on", "rafters")[1]
    assert max(map(len, piped.splitlines())) > 100 and max(map(len, fitted.splitlines()[:-2])) <= 70
    # The value that each row is about is never left out, though what goes with it is.
    wide = [[w for k, w in enumerate(line.split()) if k < 5 or w not in ("T", "C")] for line in piped.splitlines()[2:]]
    value = [row[4 + FORCES.index(row[1]) + 1] for row in wide]
    cells = [[w for w in line.split() if w not in ("T", "C")][-2:] for line in fitted.splitlines()[2 : 2 + len(value)]]
    assert value == [moment if force == "-" else force for force, moment in cells]
    assert out(capsys, "envelope", kept, "--on", "rafters", "--format", "csv")[1].count(",") > 100


def test_what_governs_and_every_result_on_request(kept, capsys):
    """Of more than three results what governs is shown, each with `--each`; sorted and cut as asked."""
    code, text, err = out(capsys, "reactions", kept)
    assert code == 0 and "Fz min" in text and "horizontal max" in text and "6 results" in err and "balance to" in text
    assert out(capsys, "reactions", kept, "--each")[1].count("  sum") == 6
    assert out(capsys, "reactions", kept, "--under", "U1", "--of", "Fz")[1].count("  sum") == 1
    rows = out(capsys, "forces", kept, "--on", "rafters", "--sort", "moment", "--rows", "2", "--format", "csv")[1]
    first, second = (abs(float(line["moment [kN*m]"])) for line in csv.DictReader(io.StringIO(rows)))
    each = out(capsys, "envelope", kept, "--on", "rafters", "--of", "My", "--format", "json")[1]
    largest = sorted({abs(r["My [kN*m]"]) for r in json.loads(each)}, reverse=True)
    assert first == largest[0] and first >= second > 0
    assert out(capsys, "forces", kept, "--sort", "Mx")[0] == 2
    head = out(capsys, "combos", kept, "--rows", "1")[1].splitlines()[0]
    assert head.split() == ["combination", "set", "formula", "source", "how"]  # cut or not, eyes need no factors apart


def test_long_tables_are_paged_on_a_terminal(kept, monkeypatch, capsys):
    paged = []
    monkeypatch.setattr("empuje.show.layout.window", lambda stream=None: Window(200, 10, False))
    monkeypatch.setattr("pydoc.pager", paged.append)
    monkeypatch.setattr(sys, "stdin", type("T", (io.StringIO,), {"isatty": lambda self: True})())
    assert main(["envelope", str(kept)]) == 0
    assert len(paged) == 1 and "columns/A1" in paged[0] and not capsys.readouterr().out


def test_sentences_wrap_at_blanks_in_a_window_only():
    text = 'm.toml:3: error[bad-run]: run "A>E / 1,1a / mezz": there is no line x; known are A, B\n  kept as it is, however long it may be'
    assert flowing(text, None) == text
    wrapped = flowing(text, Window(30, 40, True))
    plain = re.sub(r"\x1b\[\d+m", "", wrapped)
    assert plain.split() == text.split() and "\x1b[31merror\x1b[0m[bad-run]" in wrapped
    assert all(len(line) <= 30 for line in plain.splitlines()[:-1]) and plain.splitlines()[-1] == text.splitlines()[-1]
    assert "\x1b" not in flowing(text, Window(30, 40, False))


def test_an_answer_does_not_depend_on_what_was_asked_before(tmp_path):
    """Second order puts nodes of its own on members; none of them counts among the model's."""
    sample = files("empuje.samples").joinpath("packing_house", "packing-house.toml").read_text(encoding="utf-8")
    (tmp_path / "m.toml").write_text(sample, encoding="utf-8")
    before, after = (Study.read(tmp_path / "m.toml", cache=False) for _ in range(2))
    asked = before.under(["WX1ap", "everyday"])
    alone, every = before.solution(asked), after.solution()
    assert len(every.project.nodes) > len(alone.project.nodes) == len(before.project.nodes)
    members, levels = np.arange(len(before.project.members)), [("base", 0.0), ("mezz", 3.6), ("eave", 6.2)]
    for table in (
        lambda s: reactions(s, asked),
        lambda s: forces(s, asked, members, [Position(share=x) for x in (0, 0.3, 1)], breaks=True),
        lambda s: storey_cut_table(s, asked, levels),
        # Where a member bends not at all, the place is any.
        lambda s: largest_deflections(s, asked, members, Reference.CHORD).without(["x", "along", "y", "z", "L/across"]),
    ):
        one, other = table(alone), table(every)
        for c in one.columns:
            if c.kind != "text":
                a, b = np.asarray(c.values, float), other[c.name].astype(float)
                np.testing.assert_allclose(a, b, rtol=1e-6, atol=1e-9 * max(np.nanmax(np.abs(a)), 1.0), err_msg=c.name)
