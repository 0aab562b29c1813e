"""Why a value is what it is: shares that add up, against hand statics and against the same model without a load."""

import json
from dataclasses import replace

import numpy as np
import pytest

from build import named
from empuje.cli import main
from empuje.core.analysis.solve import first_order, second_order_results, solve, with_second_order
from empuje.core.answers.why import DEFORMED, Target, miss, value_of, why
from empuje.core.model.results import names
from empuje.core.model.words import Sense
from empuje.core.resolve import resolve
from models import PORTAL, project

BEAM = """
[project]
units = "kN m"
space = "plane"
[nodes]
A = [0, 0]
B = [8, 0]
[members.beam]
section = "IPE 300"
material = "S235"
pieces = { B1 = "A > B" }
[[supports]]
at = "A"
fix = "x z"
[[supports]]
at = "B"
fix = "z"
[cases]
G = { action = "dead" }
Q = { action = "live" }
[loads]
G = [ { on = "beam", line = 3 } ]
Q = [ { on = "beam", force = 10, at = "2 m" }, { on = "beam", force = 4, at = "6 m" } ]
[combinations.custom]
U = { formula = "1.2 G + 1.5 Q", set = "strength" }
V = { formula = "1.4 G", set = "strength" }
S = { formula = "G + Q", set = "service" }
"""


def asked(frame, words, target, sense="largest", x=None):
    prepared = first_order(resolve(frame))
    first = prepared.solution
    bent = [r for r in second_order_results(first) if r.name in words]
    solution = with_second_order(prepared, bent)
    return why(prepared, solution, named(first, words), target, Sense(sense), x), solution


def test_a_simple_beam_by_hand():
    """At 2 m: M = q x (L - x)/2, P a b/L under the force, P' a x/L of the other."""
    found, _ = asked(project(BEAM), ["U", "V", "S"], Target("force", 0, 4), x=2.0)
    g, p, other = 3 * 2 * 6 / 2, 10 * 2 * 6 / 8, 4 * 2 * 2 / 8
    assert names(found.results) == ["U", "S", "V"] and found.how == "summed"
    assert {s.case: (s.factor, s.value / 1e3) for s in found.shares} == {
        "G": (1.2, pytest.approx(1.2 * g)), "Q": (1.5, pytest.approx(1.5 * (p + other))),
    }  # fmt: skip
    assert [(s.source.place.line, s.value / 1e3) for s in found.loads if s.source] == [
        (23, pytest.approx(1.5 * p)), (22, pytest.approx(1.2 * g)), (23, pytest.approx(1.5 * other)),
    ]  # fmt: skip
    assert miss(found) < 1e-12
    last = replace(found.loads[-1], value=np.nan)
    assert not miss(replace(found, loads=[*found.loads[:-1], last])) < 1e-8  # no number adds up to nothing
    # V jumps by the force; the larger side is told.
    found, _ = asked(project(BEAM), ["U"], Target("force", 0, 2), x=2.0)
    left = 1.2 * 3 * (4 - 2) + 1.5 * (10 * 6 / 8 + 4 * 2 / 8)
    assert found.values[0] / 1e3 == pytest.approx(max(left, abs(left - 15), key=abs)) and miss(found) < 1e-12


def test_where_and_under_what_each_extreme_is():
    frame = project(BEAM)
    most, _ = asked(frame, ["U", "V", "S"], Target("force", 0, 2), "max")
    least, _ = asked(frame, ["U", "V", "S"], Target("force", 0, 2), "min")
    assert (most.worst.name, most.x[0], least.worst.name, least.x[0]) == ("U", 0.0, "U", 8.0)
    down, _ = asked(frame, ["U", "V"], Target("reaction", 1, 2), "min")
    assert names(down.results) == ["V", "U"] and down.values[0] / 1e3 == pytest.approx(1.4 * 12)
    with pytest.raises(LookupError, match="no support"):
        asked(project(BEAM.replace("[[supports]]\nat = \"B\"\nfix = \"z\"", "").replace('"x z"', '"x z ry"')),
              ["U"], Target("reaction", 1, 2))  # fmt: skip


TIED = PORTAL.replace(
    "[[supports]]",
    """[members.diagonals]
section = "L 60x60x6"
material = "S235"
bar = true
acts = "tension"
runs = ["A>C / 1,2 / base>eave", "C>A / 1,2 / base>eave"]
[[supports]]""",
)  # fmt: skip


@pytest.mark.parametrize("analysis", ["first-order", "second-order"])
@pytest.mark.parametrize(
    "target", [Target("force", 1, 0), Target("force", 2, 4), Target("reaction", 0, 2), Target("displacement", 1, 0)]
)
def test_shares_add_up_where_parts_go_slack(analysis, target):
    text = TIED.replace('units = "kN m"', f'units = "kN m"\nanalysis = "{analysis}"')
    text = text.replace("1.2 G + 0.5 Q - 1.0 W", "0.1 G + 0.1 Q - 3.0 W").replace("1.2 G + 1.6 Q", "0.1 G + 0.1 Q")
    text = text.replace('ends = "hinged"\n', "")
    found, solution = asked(project(text), ["U2"], target)
    assert solution.weights([found.worst])[len(solution.project.cases) : 7].any(), "a tie is slack"
    assert found.how == {"first-order": "as one", "second-order": "second order"}[analysis]
    assert miss(found) < 1e-8
    assert any(s.case == DEFORMED and s.value for s in found.shares) == (analysis == "second-order")


def test_a_load_taken_out_takes_its_share_away():
    """As long as the same ties stay slack, the value falls by just the share of the load."""
    frame = project(TIED.replace("1.2 G + 0.5 Q - 1.0 W", "0.1 G + 0.1 Q - 3.0 W"))
    target = Target("force", 0, 4)
    found, solution = asked(frame, ["U2"], target, x=1.0)
    share = next(s for s in found.loads if s.source and "moment" in s.source.text)
    without = replace(frame, loads=tuple(x for x in frame.loads if x.text != share.source.text))
    assert len(without.loads) == len(frame.loads) - 1
    again = solve(resolve(without))
    slack = [s.weights(named(s, ["U2"]))[len(frame.cases) :] > 0 for s in (solution, again)]
    assert (slack[0] == slack[1]).all() and slack[0].any()
    left = value_of(again, target, again.weights(named(again, ["U2"])), 1.0)[0]
    assert left == pytest.approx(found.values[0] - share.value, rel=1e-9)


def test_the_command_says_it_in_words_and_in_json(tmp_path, capsys):
    (tmp_path / "m.toml").write_text(BEAM, encoding="utf-8")
    path = str(tmp_path / "m.toml")
    assert main(["why", path, "--on", "beam/B1", "--of", "My", "--under", "strength"]) == 0
    out = capsys.readouterr().out
    assert "under U (summed)" in out and "1.2 G + 1.5 Q   [custom]" in out and "Next: V" in out
    assert "The parts add up to the value" in out and "m.toml:23" in out
    assert main(["why", path, "--on", "A", "--of", "Fz", "--format", "json"]) == 0
    rows = json.loads(capsys.readouterr().out)
    parts = {kind: sum(r["Fz [kN]"] for r in rows if r["row"] == kind) for kind in ("case", "load", "sum")}
    assert parts["case"] == pytest.approx(parts["sum"]) == pytest.approx(parts["load"])
    assert np.isclose(parts["sum"], 1.2 * 12 + 1.5 * (7.5 + 1))
    for words, about in (
        (["--on", "[AB]", "--of", "Fz"], "2 things"), (["--on", "A", "--of", "N"], "a node has no N"),
        (["--on", "beam/B1", "--of", "Fz"], "a member has no Fz"), (["--on", "A", "--of", "ux", "--at", "1 m"], "members"),
        (["--on", "beam/B1", "--of", "My", "--at", "9 m"], "8 m long"),
    ):  # fmt: skip
        assert main(["why", path, *words]) == 2
        assert about in capsys.readouterr().err
