"""Line loads of any source summed up along members, against sums at places, and by hand."""

import numpy as np
import openpyxl
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from empuje.cli import main
from empuje.core.answers.load_sums import load_sums
from empuje.core.answers.net_lines import net_line_loads
from empuje.core.resolve import resolve
from empuje.files.reader import read_text

FRAME = """
[project]
units = "kN m"
[nodes]
a = [0, 0, 0]
b = [6, 2, 3]
c = [0, 5, 0]
[members.m]
section = "IPE 300"
material = "S235"
pieces = { ab = "a > b", ac = "a > c" }
[[supports]]
at = "*"
fix = "fixed"
[cases]
G = { action = "dead", self_weight = 1 }
Q = { action = "live", use = "office" }
[combinations.custom]
U = "1.35 G + 1.5 Q"
[loads]
"""


def asked(loads, under, local=False):
    model = resolve(read_text(FRAME + loads, "m.toml").project)
    assert [str(f) for f in model.findings if f.level == "error"] == []
    results = [r for r in model.results if r.name in under]
    return model, results, net_line_loads(model, results, np.arange(2), local)


def test_pieces_by_hand():
    """6 over all of 5 m, 4 more from 1 m to 3 m, and 0 to 2 over the last two: what goes on in one line is one piece."""
    loads = 'Q = [ { on = "m/ac", line = 6, to = "2 m" }, { on = "m/ac", line = 6, from = "2 m" }, '
    loads += '{ on = "m/ac", line = 4, from = "1 m", to = "3 m" }, { on = "m/ac", line = [0, 2], from = "3 m" } ]\n'
    _, _, table = asked(loads, ["Q"])
    assert table["from"] == pytest.approx([0, 1, 3]) and table["to"] == pytest.approx([1, 3, 5])
    assert table["qz"] == pytest.approx([-6e3, -10e3, -6e3]) and table["qz end"] == pytest.approx([-6e3, -10e3, -8e3])
    assert table["Fz"] == pytest.approx([-6e3, -20e3, -14e3]) and not table["Fx"].any()
    gone = 'Q = [ { on = "m/ac", line = 6 }, { on = "m/ac", line = 6, dir = "up", to = "2 m" } ]\n'
    _, _, table = asked(gone, ["Q"])
    assert (table["from"].tolist(), table["to"].tolist()) == ([2.0], [5.0])
    assert len(asked('Q = [ { on = "m/ac", force = 6, at = "1 m" } ]\n', ["Q"])[2]) == 0


@settings(max_examples=20, deadline=None)
@given(st.integers(0, 10**6))
def test_pieces_are_the_sum_of_all_lines(seed):
    """At any place, of cases and combinations, in both systems of axes; and in sum."""
    rng = np.random.default_rng(seed)
    rows = []
    for _ in range(7):
        a, b = np.sort(rng.choice(np.round(np.linspace(0, 5, 11), 2), 2, replace=False))
        way = rng.choice(["down", "+x", "-y", "local z", "-local y"])
        rows.append(f'{{ on = "m/{rng.choice(["ab", "ac"])}", line = [{rng.uniform(-5, 5):.2f}, {rng.uniform(-5, 5):.2f}], '
                    f'from = "{a} m", to = "{b} m", dir = "{way}" }}')  # fmt: skip
    loads = f"Q = [ {', '.join(rows[:5])} ]\nG = [ {', '.join(rows[5:])} ]\n"
    model, results, table = asked(loads, ["G", "Q", "U"])
    turned = asked(loads, ["G", "Q", "U"], local=True)[2]
    lines, weights, names = model.loads.lines, model.weights(results), [m.name for m in model.project.members]
    for k, result in enumerate(results):
        for m, name in enumerate(names):
            for s in rng.uniform(0, model.project.lengths[m], 12):
                on = (lines.member == m) & (lines.s0 <= s) & (s < lines.s1)
                share = ((s - lines.s0) / (lines.s1 - lines.s0))[on, None]
                wanted = (
                    (lines.q0[on] * (1 - share) + lines.q1[on] * share) * weights[lines.case[on], k][:, None]
                ).sum(0)
                for told, mark, want in ((table, "", wanted), (turned, "'", model.project.axes[m] @ wanted)):
                    here = (told["case"] == result.name) & (told["on"] == name) & (told["from"] <= s) & (s < told["to"])
                    assert here.sum() <= 1
                    got = np.zeros(3)
                    for i in np.flatnonzero(here).tolist():
                        u = (s - told["from"][i]) / (told["to"][i] - told["from"][i])
                        got = np.array(
                            [told[f"q{a}{mark}"][i] * (1 - u) + told[f"q{a}{mark} end"][i] * u for a in "xyz"]
                        )
                    assert got == pytest.approx(want, abs=1e-4)
    sums = load_sums(
        model, [r for r in results if r.is_case], np.arange(2), np.zeros(0, np.intp), np.zeros(0, np.intp), "case"
    )
    for case, *force in zip(*(sums[c] for c in ("case", "Fx", "Fy", "Fz")), strict=True):
        own = table["case"] == case
        assert [table[f"F{a}"][own].sum() for a in "xyz"] == pytest.approx(force, abs=1e-3)


def test_sums_by_level_cut_what_rises_at_half_the_storeys():
    """By hand: 2 kN/m on 7 m that rise from 0 to 3 m; levels 0, 2 and 3 m cut at 1 m and 2.5 m."""
    model, results, _ = asked('Q = [ { on = "m/ab", line = 2, dir = "+x" }, { on = "b", force = 5 } ]\n', ["Q"])
    levels = [("low", 0.0), ("middle", 2.0), ("high", 3.0)]
    table = load_sums(model, results, np.arange(2), np.arange(3), np.zeros(0, np.intp), "level", levels)
    assert list(table["level"]) == ["low", "middle", "high"]
    assert table["Fx"] == pytest.approx([2e3 * 7 / 3, 2e3 * 7 * 1.5 / 3, 2e3 * 7 * 0.5 / 3])
    assert table["z"] == pytest.approx([0.5, 1.75, 2.75]) and table["Fz"] == pytest.approx([0, 0, -5e3])
    whole = load_sums(model, results, np.arange(2), np.arange(3), np.zeros(0, np.intp), "case")
    assert [table[f].sum() for f in ("Fx", "Fz")] == pytest.approx([whole[f][0] for f in ("Fx", "Fz")])


def test_a_workbook_with_the_drawing_beside(tmp_path, capsys):
    model, book = tmp_path / "m.toml", tmp_path / "q.xlsx"
    model.write_text(FRAME + 'Q = [ { on = "m/ac", line = 6 } ]\n', encoding="utf-8")
    words = ["loads", str(model), "--net", "global", "--under", "Q,G", "--drawings"]
    assert main([*words, "-o", str(book)]) == 0
    sheets = openpyxl.load_workbook(book)
    assert sheets.sheetnames == ["net-line-loads", "drawings"] and len(sheets["drawings"]._images) == 2
    first = book.read_bytes()
    assert main([*words, "-o", str(book)]) == 0 and book.read_bytes() == first
    for wrong, said in ((words, "-o loads.xlsx"), (["loads", str(model), "--by", "level"], "give them with --levels"),
                        (["loads", str(model), "--levels", "0,3"], "--by level")):  # fmt: skip
        assert main(wrong) == 2 and said in capsys.readouterr().err
