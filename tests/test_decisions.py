"""What the program decides by itself: listed, told until it is stated or accepted, and another answer where it is stated
otherwise; and when a steel verdict is no pass."""

import json
import math
from dataclasses import replace

import pytest

from empuje.cli import main
from empuje.core.model.words import Holds, Part, Stance
from empuje.study.decisions import decisions, warnings_of
from empuje.study.differences import compared
from empuje.study.study import Study
from empuje.study.verdicts import checked_members, judged

SHED = """
[project]
units = "kN m"
ORDER
[grid]
x = { A = 0, B = 6 }
y = { 1 = 0, 2 = 5 }
z = { b = 0, t = 4 }
[members.columns]
section = "HEB 200"
material = "S355"
runs = ["A,B / 1,2 / b>t"]
[members.beams]
section = "IPE 300"
material = "S355"
runs = ["A>B / 1,2 / t", "A..B / 1>2 / t"]
[[supports]]
at = "*@b"
fix = "pinned"
[cases]
G = { action = "dead", self_weight = 1 }
Q = { action = "live" USE }
W = { action = "wind", along = "+x" LEVEL }
LEAN
[loads]
Q = [ { on = "beams/1@t/A-B", line = 20 }, { on = "beams/2@t/A-B", line = 20 } ]
W = [ { on = "A*@t", force = 12, dir = "+x" } ]
[combinations]
rules = ["ASCE 7-22 strength"]
[steel]
code = "EN 1993-1-1"
STEEL
"""


def shed(tmp_path, name="m.toml", **changes):
    text = SHED
    for word in ("ORDER", "USE", "LEVEL", "LEAN", "STEEL"):
        text = text.replace(word, changes.get(word, ""))
    path = tmp_path / name
    path.write_text(text + changes.get("more", ""), encoding="utf-8")
    return path


def codes(study):
    return {f.code for f in warnings_of(study, decisions(study)) if not f.accepted}


def test_a_guess_is_a_warning_until_it_is_stated_or_accepted(tmp_path, capsys):
    path = shed(tmp_path)
    study = Study.read(path, cache=False)
    found = decisions(study)
    assert {d.code for d in found if d.stance == Stance.UNSAFE} == {"load-height"}
    assert [d.stance for d in found] == sorted(
        (d.stance for d in found), key=["may be unsafe", "a guess", "as usual", "safe"].index
    )
    assert codes(study) == {"load-height"}
    assert main(["check", str(path)]) == 0 and "warning[load-height]" in capsys.readouterr().out
    assert main(["check", str(path), "--strict"]) == 1 == main(["decisions", str(path), "--strict"])
    capsys.readouterr()
    stated = shed(tmp_path, STEEL='load_height = "shear centre"')
    assert codes(Study.read(stated, cache=False)) == set()
    accept = '[[accepted]]\nfinding = "load-height"\nreason = "loads hang below"\n'
    assert codes(Study.read(shed(tmp_path, more=accept), cache=False)) == set()


def test_the_command_lists_chooses_and_writes(tmp_path, capsys):
    path = str(shed(tmp_path))
    assert main(["decisions", path, "--format", "json"]) == 0
    rows = json.loads(capsys.readouterr().out)
    assert {"side", "decided", "about", "taken", "why", "instead", "stated by", "line"} == set(rows[0])
    assert all(row["taken"] and row["why"] for row in rows) and {r["side"] for r in rows} >= {"may be unsafe", "safe"}
    assert main(["decisions", path, "--on", "columns/A1/*", "--about", "L_y", "--format", "json"]) == 0
    (one,) = json.loads(capsys.readouterr().out)
    assert one["taken"] == "4 m" and one["stated by"] == "steel.lengths.L_y" and "A1@b (a support)" in one["why"]
    assert main(["decisions", path, "--on", "colums"]) == 2 and "columns" in capsys.readouterr().err
    assert main(["decisions", path, "--about", "heigth"]) == 2 and "height of loads" in capsys.readouterr().err
    target = tmp_path / "d.csv"
    assert main(["decisions", path, "-o", str(target)]) == 0 and len(target.read_text().splitlines()) == len(rows) + 1
    assert main(["decisions", path, "-o", path]) == 2  # never over a file the command reads
    assert path and "[cases]" in (tmp_path / "m.toml").read_text()


STATED = [  # what is stated, what was decided before, and what of the answers it changes
    ({"USE": ', use = "office"'}, "use of the floor", lambda s: {c.formula for c in s.resolved.combinations}),
    ({"STEEL": '[[steel.lengths]]\non = "columns"\nL_y = "9 m"'}, "length L_y", lambda s: use(s, "columns/A1/b-t")),
    ({"STEEL": '[[steel.lengths]]\non = "beams"\nbraced_at = ["50%"]'}, "length L_LT", lambda s: use(s, "beams/1@t/A-B")),
    ({"ORDER": 'analysis = "second-order"'}, "order of analysis", lambda s: use(s, "columns/A1/b-t")),
    ({"STEEL": 'lateral = "rolled"'}, "curves of lateral buckling", lambda s: use(s, "beams/1@t/A-B")),
    ({"STEEL": '[[steel.lengths]]\non = "columns"\nC_m = 1'}, "factors C_m", lambda s: use(s, "columns/A1/b-t")),
    ({"STEEL": '[[steel.lengths]]\non = "beams"\nC_1 = 1'}, "factor C_1", lambda s: use(s, "beams/1@t/A-B")),
]  # fmt: skip


def use(study, name):
    member = next(i for i, m in enumerate(study.project.members) if m.name == name)
    _, found, _ = checked_members(study, [member])
    return found.use[0].round(9).tolist()


@pytest.mark.parametrize(("stated", "what", "answer"), STATED)
def test_stating_it_otherwise_changes_the_answer(tmp_path, stated, what, answer):
    before, after = Study.read(shed(tmp_path), cache=False), Study.read(shed(tmp_path, "n.toml", **stated), cache=False)
    assert any(d.what == what for d in decisions(before))
    assert what != "order of analysis" or not any(d.what == what for d in decisions(after))
    assert answer(before) != answer(after)


@pytest.mark.parametrize(
    ("code", "key", "check"), [("EN 1993-1-1", "C_1", "lateral"), ("AISC 360-22", "C_b", "flexure")]
)
def test_a_stated_factor_of_moments_is_that_of_the_derivation(tmp_path, code, key, check):
    """C_1 or C_b of 1: M_cr of an even moment, and the least use is that of no factor at all; keys of the other code are
    refused, and what no diagram makes."""
    from empuje.core.steel.checked import derivation

    def study(more):
        path = shed(tmp_path, STEEL=f'[[steel.lengths]]\non = "beams"\n{more}')
        path.write_text(path.read_text(encoding="utf-8").replace("EN 1993-1-1", code), encoding="utf-8")
        return Study.read(path, cache=False)

    def used(s):
        member = next(i for i, m in enumerate(s.project.members) if m.name == "beams/1@t/A-B")
        solution, found, _ = checked_members(s, [member])
        k = found.checks.index(check)
        return found.use[0, k], {step.symbol: step.value for step in derivation(solution, found, 0, k)}

    one, steps = used(study(f"{key} = 1"))
    two, _ = used(study(f"{key} = 2"))
    assert one > two and steps.get(key, 1.0) == pytest.approx(1.0)
    if key == "C_1":
        s = study("C_1 = 1").project.members[-1]
        L, section, E, G = 6.0, s.section, s.material.E, s.material.G
        even = math.pi**2 * E * section.Iz / L**2
        M_cr = even * math.sqrt(section.Iw / section.Iz + G * section.J / even)
        assert steps["L_LT"] == L and steps["M_cr"] == pytest.approx(M_cr, rel=1e-9)
    other = "C_b" if key == "C_1" else "C_1"
    for wrong, code_of in (
        (f"{other} = 1", "wrong-key"),
        (f"{key} = 9", "bad-quantity"),
        (f"{key} = 0", "bad-quantity"),
    ):
        assert code_of in [f.code for f in study(wrong).findings]


BAY = """
[surfaces.floor]
corners = ["A1@t", "B1@t", "B2@t", "A2@t"]
deck = "DECK"
"""


def test_directions_of_decks_positions_and_rows_of_tables_are_decisions(tmp_path):
    """A bay of 6 by 5 m spans in y, one of 5 by 5 either way: a guess, until it is stated. A tower of EN six times as high
    as it is deep is beyond table 7.1; one half as high is between its rows."""

    def of(study, what):
        return [d for d in decisions(study) if d.what == what]

    def floor(x, deck):
        path = shed(tmp_path, more=BAY.replace("DECK", deck))
        path.write_text(path.read_text(encoding="utf-8").replace("B = 6", f"B = {x}"), encoding="utf-8")
        return Study.read(path, cache=False)

    (one,) = of(floor(6, "short"), "direction of the deck")
    assert one.taken == "y in 1 bay" and one.stance == Stance.USUAL and one.about == ("floor",)
    (one,) = of(floor(5, "short"), "direction of the deck")
    assert one.stance == Stance.GUESS and "square-bay" in codes(floor(5, "short"))
    assert not of(floor(5, "x"), "direction of the deck") and "square-bay" not in codes(floor(5, "x"))
    walls = "".join(
        f'[surfaces.w{k}]\ncorners = ["{a}@b", "{b}@b", "{b}@t", "{a}@t"]\ndeck = "z"\n'
        for k, (a, b) in enumerate((("A1", "B1"), ("B1", "B2"), ("B2", "A2"), ("A2", "A1")))
    )
    roof = '[surfaces.top]\ncorners = ["A1@t", "B1@t", "B2@t", "A2@t"]\ndeck = "x"\n'
    wind = '[wind]\ncode = "EN 1991-1-4"\nv_b0 = "26 m/s"\nterrain = "II"\nexterior = ["w*", "top"]\ndirections = { EX = "+x" }\n'
    for height, beyond in ((37, True), (4, False)):
        path = shed(tmp_path, more=walls + roof + wind)
        path.write_text(path.read_text(encoding="utf-8").replace("t = 4", f"t = {height}"), encoding="utf-8")
        (one,) = of(Study.read(path, cache=False), "coefficients of wind EX")
        assert (one.stance == Stance.GUESS) == beyond == ("as at 5" in one.taken)
        assert beyond or "h/d = 0.667, between 0.25 and 1" in one.taken


def test_diff_tells_a_decision_that_changed_and_every_key_that_was_written(tmp_path):
    old = Study.read(shed(tmp_path), cache=False)
    new = Study.read(shed(tmp_path, "n.toml", USE=', use = "office"', STEEL="gamma_M1 = 1.1"), cache=False)
    told = compared(old, new).changes
    assert ("use of the floor of Q",) in [c.names for c in told if c.part == Part.DECISION]
    assert [(c.names, c.after) for c in told if c.part == Part.WRITTEN] == [(("steel.gamma_M1",), "1.1")]
    assert not compared(old, Study.read(shed(tmp_path, "o.toml"), cache=False)).changes


@pytest.mark.parametrize(
    ("level", "code", "wrong"),
    [("characteristic", "ASCE 7-22 strength", "1.6"), ("strength", "EN 1990 6.10", "0.625"), ("strength", "ASCE 7-22 strength", ""),
     ("characteristic", "NBCC 2020 strength", ""), ("strength", "AS/NZS 1170.0 service", "of service")],
)  # fmt: skip
def test_loads_at_another_level_than_the_rules_take_them(tmp_path, level, code, wrong):
    path = shed(tmp_path, LEVEL=f', level = "{level}"')
    path.write_text(path.read_text().replace("ASCE 7-22 strength", code), encoding="utf-8")
    found = [f for f in Study.read(path, cache=False).findings if f.code == "load-level"]
    assert bool(found) == bool(wrong)
    assert not wrong or (wrong in found[0].remedy + found[0].message and "W" in found[0].about)


WINDY = """
[project]
units = "kN m"
[grid]
x = {{ A = 0, B = 6 }}
y = {{ 1 = 0, 2 = 8 }}
z = {{ base = 0, eave = 4 }}
[members.columns]
section = "HEA 200"
material = "S355"
runs = ["A..B / 1,2 / base>eave"]
[members.beams]
section = "IPE 300"
material = "S355"
runs = ["A..B / 1>2 / eave", "A>B / 1,2 / eave"]
[[supports]]
at = "*@base"
fix = "fixed"
[wind]
code = "ASCE 7-22"
V = "50 m/s"
exposure = "C"
directions = {{ WX = "+x" }}
unclad = {{ columns = {{ C_f = 1.6 }} }}
{wind}
[cases]
G = {{ action = "dead", self_weight = 1 }}
[combinations]
rules = ["{rules}"]
{values}
[combinations.custom]
own = {{ formula = "G + 0.5 WX", set = "service", clause = "handbook of the client, 4.2" }}
"""


@pytest.mark.parametrize(
    ("rules", "rule"), [("ASCE 7-22 service", "V4"), ("AS/NZS 1170.0 service", "Vw"), ("NBCC 2020 service", "V3")]
)
def test_wind_of_service_by_a_speed_of_its_own(tmp_path, rules, rule):
    """(36/50)^2 of the wind cases, in whichever value the rules keep it; stated beside a value it is refused, with rules
    that know none it is of no use. A custom combination's clause stands in its list."""

    def study(**words):
        path = tmp_path / "w.toml"
        path.write_text(WINDY.format(**{"wind": "", "values": "", "rules": rules} | words), encoding="utf-8")
        return Study.read(path, cache=False)

    def shares(found):
        own = [c for c in found.resolved.combinations if c.rule == rule]
        return sorted({f for c in own for name, f in c.factors if name.startswith("WX")})

    assert shares(study()) == [1.0]
    found = study(wind='V_service = "36 m/s"')
    assert shares(found) == [pytest.approx(0.5184)] and not [f for f in found.findings if f.code == "load-level"]
    assert any(d.what.startswith("service wind") and "0.5184" in d.taken for d in decisions(found))
    value = "k_a" if rules.startswith("ASCE") else "k_W"
    both = study(wind='V_service = "36 m/s"', values=f"values = {{ {value} = 0.5 }}")
    assert [f.code for f in both.findings if f.level == "error"] == ["stated-twice"]
    assert [f.code for f in study(wind='V_service = "60 m/s"').findings if f.level == "error"] == ["bad-quantity"]
    idle = study(wind='V_service = "36 m/s"', rules="EN 1990 6.10")
    assert "wind.V_service is of no use" in " ".join(f.message for f in idle.findings)


def test_a_custom_combination_may_state_its_clause(tmp_path, capsys):
    path = tmp_path / "w.toml"
    path.write_text(WINDY.format(wind="", values="", rules="ASCE 7-22 service"), encoding="utf-8")
    assert main(["combos", str(path), "--under", "own", "--format", "json"]) == 0
    (row,) = json.loads(capsys.readouterr().out)
    assert row["source"] == "custom, handbook of the client, 4.2"


def verdict(study):
    """What the first column comes to, and why not."""
    _, found, _ = checked_members(study, [0])
    return found.holds(0), found.withheld


def test_a_steel_pass_needs_second_order_where_the_frame_sways(tmp_path):
    """A pinned portal with next to no load is far from buckling; with much it is not: no pass by first order, one by
    second order with a notional load, a warning without one."""
    light = shed(tmp_path)
    light.write_text(light.read_text().replace("line = 20", "line = 0.5"), encoding="utf-8")
    assert verdict(Study.read(light, cache=False)) == (Holds.PASSES, "")
    heavy = shed(tmp_path)
    heavy.write_text(heavy.read_text().replace("line = 20", "line = 60"), encoding="utf-8")
    holds, why = verdict(Study.read(heavy, cache=False))
    assert holds in (Holds.UNANSWERED, Holds.FAILS) and "5.2.1" in why and "alpha_cr" in why
    second = shed(
        tmp_path, ORDER='analysis = "second-order"', LEAN='LX = { notional = "1/200", dir = "+x", reversible = true }'
    )
    assert verdict(Study.read(second, cache=False))[1] == ""
    bare = shed(tmp_path, ORDER='analysis = "second-order"')
    assert "no-notional-load" in {f.code for f in Study.read(bare, cache=False).findings}


def test_patterns_and_frames_behind_members_need_second_order_as_well(tmp_path):
    """Live loads that may be absent hide no sway; nor do members that buckle by themselves before the frame."""
    free = shed(tmp_path, USE=", pattern = true")
    free.write_text(free.read_text().replace("line = 20", "line = 60"), encoding="utf-8")
    study = Study.read(free, cache=False)
    assert any(r.free for r in study.under(["strength"]))
    whole = shed(tmp_path, "w.toml")
    whole.write_text(whole.read_text().replace("line = 20", "line = 60"), encoding="utf-8")
    why, alike = (verdict(s)[1] for s in (study, Study.read(whole, cache=False)))
    assert "alpha_cr is down to" in why and why.split("alpha_cr is")[1] == alike.split("alpha_cr is")[1]
    # Twelve thin struts on the ground beside it, pressed by various shares of what they buckle under.
    euler = math.pi**2 * 210e6 * 1.4e-7 / 16
    struts = "".join(f"s{i} = [20, {i}, 0]\ne{i} = [24, {i}, 0]\n" for i in range(12))
    more = f'[nodes]\n{struts}[members.struts]\nsection = "CHS 48.3x3.2"\nmaterial = "S355"\nends = "hinged"\n'
    more += "pieces = { " + ", ".join(f's{i} = "s{i} > e{i}"' for i in range(12)) + " }\n"
    more += '[[supports]]\nat = "s*"\nfix = "x y z rx"\n[[supports]]\nat = "e*"\nfix = "y z rx"\n'
    beside = shed(tmp_path, "b.toml", more=more)
    push = ", ".join(f'{{ on = "e{i}", force = {-(0.3 + 0.02 * i) * euler:.3f}, dir = "+x" }}' for i in range(12))
    beside.write_text(
        beside.read_text().replace("Q = [ ", f"Q = [ {push}, ").replace("line = 20", "line = 60"), encoding="utf-8"
    )
    holds, why = verdict(Study.read(beside, cache=False))
    assert holds != Holds.PASSES and "by themselves" in why and "5.2.1" in why


def test_a_steel_pass_needs_factored_results_of_its_design(tmp_path):
    order = {"ORDER": 'analysis = "second-order"'}
    lean = 'LX = { notional = "0.003", dir = "+x" }'
    aisc = {"STEEL": 'under = ["BELOW"]'}

    def of(rules, under, design):
        path = shed(tmp_path, **order, LEAN=lean, **aisc)
        text = path.read_text().replace("EN 1993-1-1", "AISC 360-22")
        text = (
            text.replace('"ASCE 7-22 strength"', rules)
            .replace("BELOW", under)
            .replace("[steel]", f'[steel]\ndesign = "{design}"')
        )
        path.write_text(text, encoding="utf-8")
        return verdict(Study.read(path, cache=False))

    both = '"ASCE 7-22 strength", "ASCE 7-22 allowable", "ASCE 7-22 service"'
    assert of(both, "ASCE 7-22 strength", "LRFD")[1] == ""
    assert of(both, "ASCE 7-22 allowable", "ASD")[1] == ""
    assert "no match" in of(both, "ASCE 7-22 allowable", "LRFD")[1] and "no match" in of(both, "strength", "ASD")[1]
    assert "service" in of(both, "service", "LRFD")[1] and "no factored load" in of(both, "cases", "LRFD")[1]
    assert (
        "1.6"
        in of(both + ']\ncustom = { X = { formula = "G + Q + LX", set = "strength" } }\nonly = ["*"', "X", "ASD")[1]
    )


def test_steel_is_a_limit_by_itself_and_a_stub_of_it_is_no_pass(tmp_path, capsys):
    path = shed(tmp_path)
    path.write_text(path.read_text().replace("line = 20", "line = 90"), encoding="utf-8")
    found = judged(Study.read(path, cache=False))
    assert [o.limit.name for o in found.outcomes if o.fails][:1] == ["steel members"]
    assert main(["verdict", str(path)]) == 1 and "steel members" in capsys.readouterr().out
    # Checked already, members are not checked again for limits; under other results they are.
    study = Study.read(path, cache=False)
    _, checked, _ = checked_members(study, sorted(study.project.steel.on))
    twice = replace(checked, use=2 * checked.use)
    first, second = (judged(study, checked=c).outcomes for c in (twice, replace(twice, asked=twice.asked[1:])))
    values, doubled, again = ([o.value for o in some if o.case] for some in (found.outcomes, first, second))
    assert doubled == [2 * v for v in values] and again == values != []
    part = '[[limits]]\nname = "posts"\ncheck = "steel"\non = "columns"\nunder = "strength"\nutilisation = 0.9\n'
    limits = Study.read(shed(tmp_path, more=part), cache=False).project.limits
    families = [{limits[k].name: len(limits[k].on)} for k in (0, 1)]
    assert families == [{"posts": 4}, {"steel members": 4}]
    wrong = Study.read(shed(tmp_path, more=part.replace("utilisation = 0.9", 'utilisation = ">= 0.5"')), cache=False)
    assert [f.code for f in wrong.findings if f.level == "error"] == ["bad-bound"]
    assert main(["try", str(path), "--on", "columns", "--sections", "HEB 200"]) in (0, 1)
    loose = shed(tmp_path, STEEL='on = "columns"')
    assert main(["try", str(loose), "--on", "beams", "--sections", "IPE 80"]) == 2
    assert "nothing checks" in capsys.readouterr().err
    stands = '[[limits]]\nname = "sway"\ncheck = "stability"\nunder = "strength"\nalpha_cr = 1.5\n'
    swaying = shed(tmp_path, STEEL='on = "columns"', more=stands)
    assert main(["try", str(swaying), "--on", "beams", "--sections", "HEB 200"]) in (0, 1)
    assert "nothing checks the members of beams" in capsys.readouterr().err
    assert main(["try", str(swaying), "--on", "columns", "--sections", "HEB 200"]) in (0, 1)
    assert "nothing checks" not in capsys.readouterr().err
