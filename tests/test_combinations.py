"""Code combinations against lists written out by hand, and what may be left out of them."""

import itertools
from fnmatch import fnmatch

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.spatial import ConvexHull

from empuje.core.answers.table import said
from empuje.core.combine.prune import corners
from empuje.files.base.result_selectors import results_meant
from empuje.files.combos.rules import Given, own_codes, read_rule_text
from empuje.study.study import Study
from models import PORTAL, reading, resolved

CASES = """
G = { action = "dead", self_weight = 1.0 }
Q = { action = "live", use = "storage" }
O = { action = "live", use = "office" }
R = { action = "roof live" }
S = { action = "snow" }
A = { action = "wind", title = "from the left" }
B = { action = "wind", title = "from the right" }
"""


def model(combinations, cases=CASES):
    head = PORTAL.split("[cases]")[0]
    return f"{head}[cases]\n{cases}\n[combinations]\n{combinations}\n"


def analysed(text):
    """How its combinations will be analysed, in the words of tables."""
    found = resolved(text)
    return {said(found.project.how(c), c.second_order_at) for c in found.combinations}


def made(rules, way, cases=CASES, more=""):
    """The factors of a rule set's combinations."""
    frame = resolved(model(f'rules = ["{rules}"]\nexpansion = "{way}"\nreduce = false\n{more}', cases))
    # What stands in brackets may be absent: each pattern is one of the list.
    return [
        frozenset((c, round(f, 9)) for c, f in x.factors if c not in gone)
        for x in frame.combinations
        for n in range(len(x.free) + 1)
        for gone in itertools.combinations(x.free, n)
    ]


def by_hand(*lines):
    """Lists in short: `1.2 G; 1.6 Q|; .3 S|.5 R` is every choice of one word from each part, nothing where one ends."""
    out = []
    for line in lines:
        parts = [[w.split() for w in part.split("|")] for part in line.split(";")]
        for chosen in itertools.product(*parts):
            pairs = frozenset((w[i + 1], round(float(w[i]), 9)) for w in chosen for i in range(0, len(w), 2))
            if pairs not in out:
                out.append(pairs)
    return out


AS_WRITTEN = {
    "ASCE 7-22 strength": [
        "1.4 G", "1.2 G; 1.6 Q 1.6 O; .5 R|.3 S", "1.2 G; 1.6 R|1 S; 1 Q .5 O|.5 A|.5 B",
        "1.2 G; 1 A|1 B; 1 Q .5 O; .5 R|.3 S", ".9 G; 1 A|1 B",
    ],
    "ASCE 7-16 strength": [
        "1.4 G", "1.2 G; 1.6 Q 1.6 O; .5 R|.5 S", "1.2 G; 1.6 R|1.6 S; 1 Q .5 O|.5 A|.5 B",
        "1.2 G; 1 A|1 B; 1 Q .5 O; .5 R|.5 S", ".9 G; 1 A|1 B",
    ],
    "ASCE 7-22 allowable": [
        "1 G", "1 G 1 Q 1 O", "1 G; 1 R|.7 S", "1 G .75 Q .75 O; .75 R|.525 S", "1 G; .6 A|.6 B",
        "1 G .75 Q .75 O; .45 A|.45 B; .75 R|.525 S", ".6 G; .6 A|.6 B",
    ],
    "ASCE 7-16 allowable": [
        "1 G", "1 G 1 Q 1 O", "1 G; 1 R|1 S", "1 G .75 Q .75 O; .75 R|.75 S", "1 G; .6 A|.6 B",
        "1 G .75 Q .75 O; .45 A|.45 B; .75 R|.75 S", ".6 G; .6 A|.6 B",
    ],
    "ASCE 7-22 service": ["1 G 1 Q 1 O", "1 G .5 S", "1 G 1 R", "1 G .5 Q .5 O; 1 A|1 B"],
    "ASCE 7-16 service": ["1 G 1 Q 1 O", "1 G .5 S", "1 G 1 R", "1 G .5 Q .5 O; 1 A|1 B"],
    "ASCE 7-22 stability": [".9 G; 1 A|1 B"],
    "ASCE 7-16 stability": [".9 G; 1 A|1 B"],
    # Storage 1.0, offices 0.7, snow 0.5, wind 0.6, roofs 0; a roof's live load never with snow or wind.
    "EN 1990 6.10": [
        "1.35 G|1 G; 1.5 Q 1.5 O .75 S; .9 A|.9 B", "1.35 G|1 G; 1.5 R 1.5 Q 1.05 O",
        "1.35 G|1 G; 1.5 S 1.5 Q 1.05 O; .9 A|.9 B", "1.35 G|1 G; 1.5 A|1.5 B; 1.5 Q 1.05 O .75 S",
    ],
    "EN 1990 6.10a/b": [
        "1.35 G|1 G; 1.5 Q 1.05 O .75 S; .9 A|.9 B",
        "1.1475 G|1 G; 1.5 Q 1.5 O .75 S; .9 A|.9 B", "1.1475 G|1 G; 1.5 R 1.5 Q 1.05 O",
        "1.1475 G|1 G; 1.5 S 1.5 Q 1.05 O; .9 A|.9 B", "1.1475 G|1 G; 1.5 A|1.5 B; 1.5 Q 1.05 O .75 S",
    ],
    "EN 1990 equilibrium": [
        "1.1 G|.9 G; 1.5 Q 1.5 O .75 S; .9 A|.9 B", "1.1 G|.9 G; 1.5 R 1.5 Q 1.05 O",
        "1.1 G|.9 G; 1.5 S 1.5 Q 1.05 O; .9 A|.9 B", "1.1 G|.9 G; 1.5 A|1.5 B; 1.5 Q 1.05 O .75 S",
    ],
    "EN 1990 characteristic": [
        "1 G 1 Q 1 O .5 S; .6 A|.6 B", "1 G 1 R 1 Q .7 O", "1 G 1 S 1 Q .7 O; .6 A|.6 B", "1 G; 1 A|1 B; 1 Q .7 O .5 S",
    ],
    "EN 1990 frequent": ["1 G .9 Q .5 O", "1 G .8 Q .3 O", "1 G .2 S .8 Q .3 O", "1 G; .2 A|.2 B; .8 Q .3 O"],
    "EN 1990 quasi-permanent": ["1 G .8 Q .3 O"],
    "AS/NZS 1170.0 strength": [
        "1.35 G", "1.2 G 1.5 Q 1.5 O 1.5 R", "1.2 G .9 Q .6 O", "1.2 G; 1 A|1 B; .6 Q .4 O", ".9 G; 1 A|1 B",
        "1.2 G 1 S .6 Q .4 O",
    ],
    "AS/NZS 1170.0 service": [
        "1 G 1 Q .7 O .7 R", "1 G .6 Q .4 O", "1 G .6 Q .4 O; 1 A|1 B", "1 G .6 Q .4 O 1 S",
    ],
    "AS/NZS 1170.0 stability": [
        "1.35 G|.9 G", "1.2 G|.9 G; 1.5 Q 1.5 O 1.5 R", "1.2 G|.9 G; 1 A|1 B|1 S; .6 Q .4 O",
    ],
    "NBCC 2020 strength": [
        "1.4 G", "1.25 G|.9 G; 1.5 Q 1.5 O; 1 S|1.5 R .4 A|1.5 R .4 B", "1.25 G|.9 G; 1.5 S; 1 Q 1 O|.4 A|.4 B",
        "1.25 G|.9 G; 1.4 A|1.4 B; 1 Q .5 O .5 R|.5 S",
    ],
    "NBCC 2020 service": ["1 G 1 Q 1 O 1 R", "1 G 1 S", "1 G 1 Q .5 O; 1 A|1 B"],
    "IS 875-5 limit state": [
        "1.5 G 1.5 Q 1.5 O; 1.5 R|1.5 S", "1.2 G 1.2 Q 1.2 O; 1.2 R|1.2 S; 1.2 A|1.2 B", "1.5 G|.9 G; 1.5 A|1.5 B",
    ],
    "IS 875-5 service": [
        "1 G 1 Q 1 O; 1 R|1 S", "1 G; 1 A|1 B", "1 G .8 Q .8 O; .8 R|.8 S; .8 A|.8 B",
    ],
}  # fmt: skip


# Every variable load may be absent.
COMPLETE = {
    "ASCE 7-22 strength": [
        "1.4 G", "1.2 G; 1.6 Q|; 1.6 O|; .5 R|.3 S|", "1.2 G; 1.6 R|1 S|; 1 Q|; .5 O|", "1.2 G; 1.6 R|1 S|; .5 A|.5 B|",
        "1.2 G; 1 A|1 B|; 1 Q|; .5 O|; .5 R|.3 S|", ".9 G; 1 A|1 B|",
    ],
    "ASCE 7-16 strength": [
        "1.4 G", "1.2 G; 1.6 Q|; 1.6 O|; .5 R|.5 S|", "1.2 G; 1.6 R|1.6 S|; 1 Q|; .5 O|",
        "1.2 G; 1.6 R|1.6 S|; .5 A|.5 B|", "1.2 G; 1 A|1 B|; 1 Q|; .5 O|; .5 R|.5 S|", ".9 G; 1 A|1 B|",
    ],
    "ASCE 7-22 allowable": [
        "1 G; 1 Q|; 1 O|", "1 G; 1 R|.7 S|", "1 G; .75 Q|; .75 O|; .75 R|.525 S|", "1 G|.6 G; .6 A|.6 B|",
        "1 G; .75 Q|; .75 O|; .45 A|.45 B|; .75 R|.525 S|",
    ],
    "ASCE 7-22 service": ["1 G; 1 Q|; 1 O|", "1 G; .5 S|", "1 G; 1 R|", "1 G; .5 Q|; .5 O|; 1 A|1 B|"],
    "ASCE 7-16 service": ["1 G; 1 Q|; 1 O|", "1 G; .5 S|", "1 G; 1 R|", "1 G; .5 Q|; .5 O|; 1 A|1 B|"],
    "ASCE 7-22 stability": [".9 G; 1 A|1 B|"],
    "ASCE 7-16 stability": [".9 G; 1 A|1 B|"],
    "EN 1990 6.10a/b": [
        "1.35 G|1.1475 G|1 G", "1.35 G|1 G; 1.5 Q|; 1.05 O|; .75 S|; .9 A|.9 B|",
        "1.1475 G|1 G; 1.5 Q 1.5 O|1.5 Q|1.5 O; .75 S|; .9 A|.9 B|", "1.1475 G|1 G; 1.5 R; 1.5 Q|; 1.05 O|",
        "1.1475 G|1 G; 1.5 S; 1.5 Q|; 1.05 O|; .9 A|.9 B|", "1.1475 G|1 G; 1.5 A|1.5 B; 1.5 Q|; 1.05 O|; .75 S|",
    ],
    "EN 1990 equilibrium": [
        "1.1 G|.9 G", "1.1 G|.9 G; 1.5 Q 1.5 O|1.5 Q|1.5 O; .75 S|; .9 A|.9 B|", "1.1 G|.9 G; 1.5 R; 1.5 Q|; 1.05 O|",
        "1.1 G|.9 G; 1.5 S; 1.5 Q|; 1.05 O|; .9 A|.9 B|", "1.1 G|.9 G; 1.5 A|1.5 B; 1.5 Q|; 1.05 O|; .75 S|",
    ],
    "EN 1990 characteristic": [
        "1 G", "1 G; 1 Q 1 O|1 Q|1 O; .5 S|; .6 A|.6 B|", "1 G 1 R; 1 Q|; .7 O|", "1 G 1 S; 1 Q|; .7 O|; .6 A|.6 B|",
        "1 G; 1 A|1 B; 1 Q|; .7 O|; .5 S|",
    ],
    "EN 1990 frequent": [
        "1 G", "1 G; .9 Q .5 O|.9 Q|.5 O", "1 G; .8 Q|; .3 O|", "1 G .2 S; .8 Q|; .3 O|", "1 G; .2 A|.2 B; .8 Q|; .3 O|",
    ],
    "EN 1990 quasi-permanent": ["1 G; .8 Q|; .3 O|"],
    "AS/NZS 1170.0 service": ["1 G; 1 Q|; .7 O|; .7 R|", "1 G; .6 Q|; .4 O|; 1 A|1 B|1 S|"],
    "AS/NZS 1170.0 stability": [
        "1.35 G", "1.2 G|.9 G; 1.5 Q|; 1.5 O|; 1.5 R|", "1.2 G|.9 G; 1 A|1 B|1 S|; .6 Q|; .4 O|",
    ],
    "NBCC 2020 service": ["1 G; 1 Q|; 1 O|; 1 R|", "1 G; 1 S|", "1 G; 1 Q|; .5 O|; 1 A|1 B|"],
    "IS 875-5 service": [
        "1 G; 1 Q|; 1 O|; 1 R|1 S|", "1 G; 1 A|1 B|", "1 G; .8 Q|; .8 O|; .8 R|.8 S|; .8 A|.8 B|",
    ],
    "ASCE 7-16 allowable": [
        "1 G; 1 Q|; 1 O|", "1 G; 1 R|1 S|", "1 G; .75 Q|; .75 O|; .75 R|.75 S|", "1 G|.6 G; .6 A|.6 B|",
        "1 G; .75 Q|; .75 O|; .45 A|.45 B|; .75 R|.75 S|",
    ],
    "EN 1990 6.10": [
        "1.35 G|1 G", "1.35 G|1 G; 1.5 Q 1.5 O|1.5 Q|1.5 O; .75 S|; .9 A|.9 B|", "1.35 G|1 G; 1.5 R; 1.5 Q|; 1.05 O|",
        "1.35 G|1 G; 1.5 S; 1.5 Q|; 1.05 O|; .9 A|.9 B|", "1.35 G|1 G; 1.5 A|1.5 B; 1.5 Q|; 1.05 O|; .75 S|",
    ],
    "AS/NZS 1170.0 strength": [
        "1.35 G", "1.2 G; 1.5 Q|; 1.5 O|; 1.5 R|", "1.2 G; .9 Q|; .6 O|", "1.2 G; 1 A|1 B|1 S|; .6 Q|; .4 O|",
        ".9 G; 1 A|1 B|",
    ],
    "NBCC 2020 strength": [
        "1.4 G", "1.25 G|.9 G; 1.5 Q|; 1.5 O|; 1 S|", "1.25 G|.9 G; 1.5 Q|; 1.5 O|; 1.5 R|; .4 A|.4 B|",
        "1.25 G|.9 G; 1.5 S|; 1 Q|; 1 O|", "1.25 G|.9 G; 1.5 S|; .4 A|.4 B|",
        "1.25 G|.9 G; 1.4 A|1.4 B|; 1 Q|; .5 O|; .5 R|", "1.25 G|.9 G; 1.4 A|1.4 B|; .5 S|",
    ],
    "IS 875-5 limit state": [
        "1.5 G; 1.5 Q|; 1.5 O|; 1.5 R|1.5 S|", "1.2 G; 1.2 Q|; 1.2 O|; 1.2 R|1.2 S|; 1.2 A|1.2 B|",
        "1.5 G|.9 G; 1.5 A|1.5 B|",
    ],
}  # fmt: skip


def same(found, expected):
    assert len(found) == len(set(found))
    assert set(found) == set(expected), (set(found) - set(expected), set(expected) - set(found))


@pytest.mark.parametrize("rules", AS_WRITTEN)
def test_lists_as_the_code_writes_them(rules):
    same(made(rules, "as written"), by_hand(*AS_WRITTEN[rules]))


@pytest.mark.parametrize("rules", COMPLETE)
def test_complete_lists(rules):
    same(made(rules, "complete"), by_hand(*COMPLETE[rules]))


def test_every_rule_set_that_comes_with_us_reads_and_has_a_hand_list():
    sets, clauses = [], []
    for file, text in own_codes().values():
        found, notes = read_rule_text(text, file, Given({}, {}))
        assert not notes.findings
        sets += [r.name for r in found]
        clauses += [rule.clause for r in found for rule in r.rules]
    assert all(clauses)
    apart = set(ACCIDENTAL) | {s for s in sets if s.endswith("construction")}
    assert set(sets) - apart == set(AS_WRITTEN) == set(COMPLETE)


ACCIDENTAL = {  # psi_1: storage 0.9, offices 0.5, snow and wind 0.2, roofs 0; psi_2: 0.8, 0.3, else 0
    "EN 1990 accidental": [
        "1 G 1 X .9 Q .5 O", "1 G 1 X .8 Q .3 O", "1 G 1 X .2 S .8 Q .3 O", "1 G 1 X; .2 A|.2 B; .8 Q .3 O",
    ],
    "EN 1990 accidental psi2": ["1 G 1 X .8 Q .3 O"],
    "ASCE 7-22 extraordinary": ["1.2 G|.9 G; 1 X .5 Q .5 O .15 S"],
    "ASCE 7-16 extraordinary": ["1.2 G|.9 G; 1 X .5 Q .5 O .2 S"],
}  # fmt: skip


@pytest.mark.parametrize("rules", ACCIDENTAL)
def test_accidental_actions(rules):
    cases = CASES + 'X = { action = "accidental", title = "a lorry against a column" }\n'
    same(made(rules, "as written", cases), by_hand(*ACCIDENTAL[rules]))
    assert not resolved(model(f'rules = ["{rules}"]')).combinations  # without the action there is nothing to combine


SEISMIC = """
G = { action = "dead", self_weight = 1.0 }
Q = { action = "live", use = "office" }
EX = { action = "seismic", along = "+x", reversible = true }
EY = { action = "seismic", along = "+y", reversible = true }
"""


def test_seismic_directions_go_crosswise_with_either_sign():
    pairs = ["|".join(f"{a} EX {b} EY" for a in (s, -s) for b in (t, -t)) for s, t in ((1.3, 0.39), (0.39, 1.3))]
    both = "|".join(pairs)
    expected = by_hand("1.4 G", "1.2 G 1.6 Q", "1.2 G .5 Q", f"1.3 G .5 Q; {both}", f".8 G; {both}")
    found = made("ASCE 7-22 strength", "as written", SEISMIC, "values = { S_DS = 0.5, rho = 1.3 }")
    same(found, expected)
    together = made("EN 1990 6.10", "as written", SEISMIC)
    upright = SEISMIC + 'EZ = { action = "seismic", along = "+z", reversible = true }\n'
    three = "|".join(
        " ".join(f"{sign * (1 if axis == lead else 0.3)} E{axis}" for sign, axis in zip(signs, "XYZ", strict=True))
        for lead in "XYZ" for signs in itertools.product((1, -1), repeat=3)
    )  # fmt: skip
    same(made("EN 1990 6.10", "as written", upright), by_hand("1.35 G|1 G; 1.5 Q", f"1 G .3 Q; {three}"))
    asce = made("ASCE 7-22 stability", "as written", upright)
    assert by_hand("0.9 G 1 EX -0.3 EY 1 EZ")[0] in asce and len(asce) == 16
    crosswise = "|".join(f"{a} EX {b} EY" for a, b in itertools.product((1, -1), (0.3, -0.3)))
    crosswise += "|" + "|".join(f"{a} EX {b} EY" for a, b in itertools.product((0.3, -0.3), (1, -1)))
    same(together, by_hand("1.35 G|1 G; 1.5 Q", f"1 G .3 Q; {crosswise}"))


def test_cases_that_go_together_exclude_each_other_make_patterns_and_stages():
    cases = """
G = { action = "dead", self_weight = 1.0 }
A = { action = "live", use = "office", pattern = true }
B = { action = "live", use = "office", together = "bays" }
C = { action = "live", use = "office", together = "bays" }
D = { action = "live", use = "office", one_of = "lift" }
E = { action = "live", use = "office", one_of = "lift" }
P = { action = "dead", stage = "construction" }
K = { action = "construction" }
"""
    found = made("AS/NZS 1170.0 strength", "as written", cases)
    same(found, by_hand("1.35 G", "1.2 G 1.5 B 1.5 C; 1.5 A|; 1.5 D|1.5 E", "1.2 G .6 B .6 C; .6 A|; .6 D|.6 E"))
    same(made("ASCE 7-22 construction", "as written", cases), by_hand("1.4 G 1.4 P", "1.2 G 1.2 P 1.6 K"))


def test_what_happens_while_building():
    cases = (
        'G = { action = "dead" }\nK = { action = "construction" }\nW = { action = "wind" }\nQ = { action = "live" }\n'
    )
    same(
        made("ASCE 7-16 construction", "as written", cases),
        by_hand("1.4 G", "1.2 G 1.6 K", "1.2 G 1 W 1 K", ".9 G 1 W"),
    )
    found = made("EN 1990 construction", "as written", cases)
    same(found, by_hand("1.35 G|1 G; 1.5 K .9 W|1.5 W 1.5 K"))


def test_loads_of_water_soil_temperature_and_ground():
    """Fluids go with dead load, soil helps or hinders, prestress is there, strains of its own come on top."""
    cases = """
G = { action = "dead" }
F = { action = "fluid" }
H = { action = "soil" }
P = { action = "prestress" }
T = { action = "thermal" }
U = { action = "settlement" }
N = { action = "rain" }
"""
    same(
        made("ASCE 7-22 strength", "as written", cases),
        by_hand("1.4 G 1.4 F 1 P; 1.6 H|.9 H", "1.2 G 1.2 F 1 P 1 T 1 U; .5 N|1.6 N; 1.6 H|.9 H"),
    )
    same(
        made("AS/NZS 1170.0 strength", "as written", cases),
        by_hand("1.35 G 1 P; 1.5 H|.9 H; 1.2 F|.9 F", "1.2 G 1 P; |1.2 N; 1.5 H|.9 H; 1.2 F|.9 F"),
    )
    same(
        made("NBCC 2020 strength", "as written", cases),
        by_hand(
            "1.4 G 1 P 1.25 T 1.25 U; 1.5 F|.9 F; 1.5 H|.9 H",
            "1.25 G|.9 G; 1 P; 1 N|1.5 N; 1.25 T 1.25 U; 1.5 F|.9 F; 1.5 H|.9 H",
        ),
    )
    same(
        made("IS 875-5 limit state", "as written", cases),
        by_hand("1.5 G|.9 G; 1 P; 1.5 F|.9 F; 1.5 H|.9 H", "1.2 G 1 P 1.2 T 1.2 U; 1.2 F|.9 F; 1.2 H|.9 H"),
    )
    same(
        made("EN 1990 6.10", "as written", cases),
        by_hand("1.35 G|1 G; 1 P 1.2 U 1.5 T; 1.35 F|1 F; 1.35 H|1 H"),
    )


PERMANENT = """
G = { action = "dead" }
F = { action = "fluid" }
H = { action = "soil" }
P = { action = "prestress" }
Q = { action = "live", use = "storage" }
S = { action = "snow" }
W = { action = "wind" }
EX = { action = "seismic", along = "+x" }
"""


@pytest.mark.parametrize("rules", list(COMPLETE))
def test_what_is_permanent_is_never_absent(rules):
    """Of fluid only, which a tank may lack, there is 0.9 D without it (ASCE 7, 2.3.1(5), 2.4.1(7))."""
    for acting in made(rules, "complete", PERMANENT):
        there = {case for case, _ in acting}
        assert {"G", "H", "P"} <= there, acting
        assert "F" in there or (rules.startswith("ASCE") and not {"Q", "S"} & there)


def test_soil_works_against_a_light_house():
    """1.0 G + 1.35 H: each source has its own factor (EN 1990, table A1.2(B), note 3); and its like in other codes."""
    for rules, favourable in (("EN 1990 6.10", "1 G 1.35 H"), ("IS 875-5 limit state", ".9 G 1.5 H")):
        cases = 'G = { action = "dead" }\nH = { action = "soil" }\n'
        frame = resolved(model(f'rules = ["{rules}"]\nreduce = false', cases))
        assert by_hand(favourable)[0] in [frozenset(c.factors) for c in frame.combinations]
        names = [c.name for c in frame.combinations]
        assert len(set(names)) == len(names) == 4 and any(n.endswith(".H") for n in names)


def test_actions_apart_never_go_along_together():
    """A roof's live load and snow, both with a factor when they go along: one of them at a time, in 6.10a as well."""
    words = '[combinations.factors]\npsi0 = { "roof live" = 0.7 }'
    for rules in ("EN 1990 6.10", "EN 1990 6.10a/b"):
        for way in ("complete", "as written"):
            found = made(rules, way, CASES, words)
            assert not any(
                {"R"} < {c for c, _ in acting} and {c for c, _ in acting} & {"S", "A", "B"} for acting in found
            )
            assert any(dict(acting).get("R") == 1.05 and "Q" in dict(acting) for acting in found)


def test_snow_and_rain_are_alternatives():
    cases = 'G = { action = "dead" }\nS = { action = "snow" }\nN = { action = "rain" }\n'
    same(made("NBCC 2020 strength", "as written", cases), by_hand("1.4 G", "1.25 G|.9 G; 1 S|1 N|1.5 S|1.5 N"))


def test_an_allowable_stress_set_is_analysed_at_more_than_its_loads():
    text = model('rules = ["ASCE 7-22 allowable"]').replace(
        'units = "kN m"', 'units = "kN m"\nanalysis = "second-order"'
    )
    assert analysed(text) == {"second order at 1.6"}
    text += '[combinations.second_order_at]\n"ASCE 7-22 allowable" = 1\n'
    assert analysed(text) == {"second order"}


def notes_of(combinations, cases, loads="", level="warning"):
    found = reading(model(combinations, cases).replace("[combinations]", loads + "\n[combinations]"))
    return {(f.code, f.message.split(":")[0].split(" (")[0]) for f in found.findings if f.level == level}


def test_each_set_says_which_cases_it_leaves_out():
    cases = CASES + 'T = { action = "thermal" }\nX = { action = "settlement" }\n'
    rules = 'rules = ["EN 1990 6.10", "EN 1990 quasi-permanent", "AS/NZS 1170.0 stability"]'
    said = {(f.level, f.code, f.message) for f in reading(model(rules, cases)).findings}
    wind = "case A is in no combination of EN 1990 quasi-permanent: its psi2 is 0 there"
    assert ("note", "left-out", wind) in said
    assert ("note", "left-out", "AS/NZS 1170.0 stability leaves out thermal, settlement loads: T, X") in said
    rain = 'rules = ["EN 1990 6.10", "ASCE 7-22 service"]'
    said = {(f.level, f.message) for f in reading(model(rain, CASES + 'N = { action = "rain" }\n')).findings}
    assert ("warning", "case N (is rain) is in no combination of EN 1990 6.10") in said
    assert not any("case N" in m and "ASCE 7-22 service" in m for _, m in said)


def test_values_nobody_gave_are_said_where_they_decide():
    said = [
        f.message for f in reading(model('rules = ["ASCE 7-22 strength"]', SEISMIC)).findings if f.code == "assumed"
    ]
    assert [m for m in said if "S_DS = 0 is taken" in m] and [m for m in said if "rho = 1 is taken" in m]
    assert any("f_L = 0.5 for case Q" in m and "not known" in m for m in said)
    given = 'rules = ["ASCE 7-22 strength"]\nvalues = { S_DS = 0.4, rho = 1.3 }'
    assert not any("is taken," in f.message for f in reading(model(given, SEISMIC)).findings)
    told = resolved(model(given, SEISMIC)).told[0]
    assert "S_DS = 0.4" in told and "rho = 1.3" in told and "f_L: Q 0.5" in told


def test_a_heavy_live_load_goes_along_whole():
    """f_L = 0.5 holds up to 100 psf = 4.788 kN/m2 (ASCE 7, 2.3.1 exception 1), by what lies on the floors."""
    floor = """
[surfaces.floor]
corners = ["A1@eave", "C1@eave", "C2@eave", "A2@eave"]
carry = "nodes"
[loads]
O = [ { on = "floor", area = "AREA kN/m2", dir = "-z" }, { on = "floor", area = 0.8 } ]
"""
    for area, f_L in (("3.98", 0.5), ("4.0", 1.0)):
        text = model('rules = ["ASCE 7-22 strength"]\nexpansion = "as written"').replace(
            "[combinations]", floor.replace("AREA", area) + "[combinations]"
        )
        frame = resolved(text)
        (U4,) = [c for c in frame.combinations if c.name == "U4+A+O+Q+R"]
        assert dict(U4.factors)["O"] == f_L
    # However it is written, and whatever lifts beside it; what only lifts is no live load of the floor.
    for words, f_L in (
        ('area = "-6 kN/m2", dir = "up"', 1.0), ('area = -6, dir = "+z"', 1.0), ('area = -6, dir = "normal"', 1.0),
        ('area = [-6, 1], along = "+x", dir = "up"', 1.0), ('area = 6, dir = "up"', 0.5), ('area = 6, dir = "normal"', 0.5),
    ):  # fmt: skip
        text = floor.replace('area = "AREA kN/m2", dir = "-z"', words).replace('{ on = "floor", area = 0.8 } ', "")
        frame = resolved(model('rules = ["ASCE 7-22 strength"]\nexpansion = "as written"').replace(
            "[combinations]", text + "[combinations]"))  # fmt: skip
        (U4,) = [c for c in frame.combinations if c.name == "U4+A+O+Q+R"]
        assert dict(U4.factors)["O"] == f_L, words


def test_many_cases_are_enveloped_without_listing_all():
    """8 live, 8 wind and 3 snow cases: 2^8 patterns of live load stay in brackets; the envelope is that of every one."""
    cases = 'G = { action = "dead", self_weight = 1.0 }\n'
    cases += "".join(f'L{i} = {{ action = "live", use = "office" }}\n' for i in range(8))
    cases += "".join(f'W{i} = {{ action = "wind" }}\n' for i in range(8))
    cases += "".join(f'S{i} = {{ action = "snow" }}\n' for i in range(3))
    # ties that pull only: every combination would have to be analysed
    frame = resolved(model('rules = ["ASCE 7-22 strength"]', cases))
    assert len(frame.combinations) < 400
    largest = max(sum(f for c, f in x.factors if c[0] == "L") for x in frame.combinations)
    assert largest == pytest.approx(8 * 1.6) and {c for x in frame.combinations for c in x.free} == {
        f"L{i}" for i in range(8)
    }
    more = "".join(f'M{i} = {{ action = "live", use = "office" }}\n' for i in range(3))
    tied = model('rules = ["ASCE 7-22 strength"]', cases + more).replace(
        'section = "IPE 200"\nmaterial = "S235"\nends = "hinged"',
        'section = "IPE 200"\nmaterial = "S235"\nbar = true\nacts = "tension"',
    )
    assert 'acts = "tension"' in tied
    said = next(f for f in reading(tied).findings if f.code == "too-many")
    assert "sums do not hold" in said.message and "join live cases" in said.remedy


def test_two_codes_stand_side_by_side():
    names = {
        c.name: c.source
        for c in resolved(
            model('rules = ["ASCE 7-22 strength", "EN 1990 6.10", "ASCE 7-16 strength"]\nreduce = false')
        ).combinations
    }
    assert names["ASCE722.U5+A"] == "ASCE 7-22 strength, 2.3.1(5)" and names["ASCE716.U5+A"].startswith("ASCE 7-16")
    assert any(n.startswith("EN1990.610+") for n in names) and not any(" " in n for n in names)


def test_a_floor_is_not_there_twice_while_it_is_built():
    floor = """
[floors.slab]
dead = { case = "G", area = 3 }
construction_dead = { case = "K", area = 2 }
[surfaces.floor]
corners = ["A1@eave", "C1@eave", "C2@eave", "A2@eave"]
carry = "nodes"
floor = "slab"
"""
    for stage, twice in (("", True), (', stage = "final"', False)):
        cases = f'G = {{ action = "dead"{stage} }}\nK = {{ action = "dead", stage = "construction" }}\nB = {{ action = "dead", self_weight = 1.0 }}\n'
        found = reading(
            model('rules = ["ASCE 7-22 construction"]', cases).replace("[combinations]", floor + "[combinations]")
        )
        assert any(f.code == "wrong-case" and "twice" in f.message for f in found.findings) == twice
        if not twice:
            assert [c.formula for c in found.resolved.combinations] == ["1.4 K + 1.4 B"]


def test_unequal_parts_of_a_permanent_load_in_equilibrium():
    cases = 'G = { action = "dead" }\nH = { action = "dead" }\nW = { action = "wind" }\n'
    same(made("EN 1990 equilibrium", "as written", cases), by_hand("1.1 G|.9 G; 1.1 H|.9 H; 1.5 W"))


def test_a_lean_goes_with_the_wind_it_has_the_direction_of():
    cases = """
G = { action = "dead", self_weight = 1.0 }
W = { action = "wind", along = "-x" }
X = { notional = "1/200", dir = "+x", reversible = true }
Y = { notional = "1/200", dir = "+y" }
"""
    expected = by_hand("1.35 G; 1 X|-1 X|1 Y", "1.2 G; 1 X|-1 X|1 Y", "1.2 G 1 W -1 X", ".9 G 1 W -1 X")
    found = made("AS/NZS 1170.0 strength", "as written", cases)
    same(found, expected)
    assert made("AS/NZS 1170.0 service", "as written", cases) == by_hand("1 G", "1 G 1 W")


def test_names_come_from_the_rule_and_the_cases_and_stay():
    names = {c.name for c in resolved(model('rules = ["ASCE 7-22 strength"]')).combinations}
    assert {"U1", "U2+O+Q+R", "U4+A+O+Q+S", "U5+B"} <= names
    more = 'T = { action = "thermal" }\n' + CASES + 'Z = { action = "live", use = "office" }\n'
    assert names <= {c.name for c in resolved(model('rules = ["ASCE 7-22 strength"]', more)).combinations}
    assert len({c.name for c in resolved(model('rules = ["NBCC 2020 strength"]', more)).combinations}) > 100


def test_rules_and_combinations_are_left_out_or_picked():
    def of(words):
        return [
            c.name
            for c in resolved(
                model(f'rules = ["AS/NZS 1170.0 strength"]\nexpansion = "as written"\n{words}')
            ).combinations
        ]

    assert of('only = ["Ra", "Re+*"]') == ["Ra", "Re+A", "Re+B"]
    assert of('leave_out = ["R[b-d]", "Re+A"]') == ["Ra", "Re+B", "Rg+S+O+Q"]


def test_national_values_and_factors_take_the_place_of_recommended_ones():
    words = "values = { gamma_G = 1.2, xi = 0.9 }\n[combinations.factors]\npsi0 = { storage = 0.8, wind = 0.5 }"
    found = made("EN 1990 6.10a/b", "as written", CASES, words)
    assert by_hand("1.2 G 1.2 Q 1.05 O .75 S .75 A")[0] in found
    assert by_hand("1.08 G 1.5 S 1.2 Q 1.05 O .75 B")[0] in found


RULES = """
code = "Orchard"
[symbols]
D = { actions = ["dead"], permanent = true }
V = { actions = ["live", "snow"] }
[factors.light]
residential = 0.2
office = 0.4
assembly = 1
shopping = 1
storage = 1
"light traffic" = 1
"heavy traffic" = 1
snow = 0.6
[sets.yard]
set = "service"
rules = [ { id = "Y", clause = "our own", formula = "D + (2 light V | 0)" } ]
"""


def test_an_engineers_own_rules_lie_beside_the_model(tmp_path):
    (tmp_path / "orchard.toml").write_text(RULES, encoding="utf-8")
    text = model('rules = ["Orchard yard"]\nrule_files = "orchard.toml"\nexpansion = "as written"')
    (tmp_path / "m.toml").write_text(text, encoding="utf-8")
    found = Study.read(tmp_path / "m.toml")
    assert found.sound
    combinations = {c.name: (c.formula, c.source, c.set) for c in found.resolved.combinations}
    assert combinations == {
        "Y+O+Q+S": ("1.0 G + 2.0 Q + 0.8 O + 1.2 S", "Orchard yard, our own", "service"),
        "Y": ("1.0 G", "Orchard yard, our own", "service"),
    }
    assert {f.code for f in found.findings if "wind" in f.message} == {"not-combined"}
    (tmp_path / "orchard.toml").write_text(
        RULES.replace("2 light V", "2 ligth V").replace("snow = 0.6\n", ""), encoding="utf-8"
    )
    wrong = [f for f in Study.read(tmp_path / "m.toml").findings if f.level == "error"]
    assert [(f.code, f.place.file, f.place.line) for f in wrong][:1] == [("bad-formula", "orchard.toml", 16)]


@pytest.mark.parametrize(
    ("combinations", "cases", "code"),
    [
        ('rules = ["ASCE 7-23 strength"]', CASES, "unknown-name"),
        ('rules = ["ASCE 7-22 strength"]\nonly = "U9"', CASES, "unknown-name"),
        ('rules = ["ASCE 7-22 strength"]\nvalues = { gamma_G = 1 }', CASES, "unknown-key"),
        ('rules = ["EN 1990 6.10"]\n[combinations.factors]\npsi0 = { offices = 1 }', CASES, "unknown-key"),
        ('rules = ["ASCE 7-22 strength"]\nrule_files = "../x.toml"', CASES, "unusable-table"),
        ('rules = ["ASCE 7-22 strength"]\nexpansion = "all"', CASES, "unknown-word"),
        ('rules = ["NBCC 2020 strength"]', CASES.replace("storage", "store"), "unknown-word"),
        ('rules = ["NBCC 2020 strength"]', CASES + 'Z = { action = "wind", use = "office" }', "wrong-key"),
    ],
)
def test_slips_are_named(combinations, cases, code):
    found = reading(model(combinations, cases))
    assert not found.sound
    assert code in {f.code for f in found.findings if f.level == "error"}


def test_a_floor_without_a_use_counts_as_storage_and_says_so():
    cases = CASES.replace(', use = "office"', "")
    assert "no-use" in {f.code for f in reading(model('rules = ["ASCE 7-22 strength"]', cases)).findings}
    assert by_hand("1.2 G 1 A 1 Q 1 O .5 R")[0] in made("ASCE 7-22 strength", "as written", cases)


EVERY_SET = [r.name for file, text in own_codes().values() for r in read_rule_text(text, file, Given({}, {}))[0]]
EVERY_SET = [name for name in EVERY_SET if not name.endswith(("accidental", "psi2", "extraordinary"))]  # without A none


@settings(max_examples=40, deadline=None)
@given(st.integers(0, 10**6), st.lists(st.sampled_from(EVERY_SET), min_size=1, max_size=5, unique=True))
def test_each_rule_set_keeps_its_envelope_beside_any_others(seed, rules):
    """Of any choice of rule sets, in any order, with live loads that are reduced or not: by itself, by the word of its
    set, by a glob; and nothing of a part of one is left out."""
    rng = np.random.default_rng(seed)
    frame = resolved(model(f"rules = {rules}".replace("'", '"')))
    results = rng.standard_normal((40, len(frame.project.cases)))

    def ends(words, mixes):
        of_each = results @ frame.weights(results_meant(frame, words, mixes))
        return [of_each.min(axis=1), of_each.max(axis=1)]

    made_any = [r for r in rules if any(r in c.rule_sets for c in frame.combinations)]
    for words in ([r] for r in (*made_any, *{c.set for c in frame.combinations}, "combinations")):
        np.testing.assert_allclose(ends(words, False), ends(words, True), rtol=1e-12)
    one = made_any[int(rng.integers(len(made_any)))]
    alone = resolved(model(f'rules = ["{one}"]\nreduce = false'))
    listed = {frozenset(r.factors) for r in results_meant(frame, [one], mixes=True)}
    assert listed == {frozenset(c.factors) for c in alone.combinations}
    some = str(rng.choice([c.rule for c in frame.combinations])) + "*"
    meant = results_meant(frame, [some], mixes=True)
    assert {r.name for r in meant} >= {c.name for c in frame.combinations if fnmatch(c.short, some)}
    parts = {r for r in rules if 0 < sum(r in m.of.rule_sets for m in meant) < len(results_meant(frame, [r], True))}
    kept = {r.name for r in results_meant(frame, [some])}
    assert {r.name for r in meant if parts >= set(r.of.rule_sets)} <= kept
    np.testing.assert_allclose(ends([some], False), ends([some], True), rtol=1e-12)


def test_mixes_are_left_out_of_whole_rule_sets_only():
    frame = resolved(model('rules = ["ASCE 7-22 strength"]'))
    mixes = [c.name for c in frame.combinations if c.mix_in]
    assert len(mixes) >= 3
    assert not {r.name for r in results_meant(frame, ["strength"])} & set(mixes)
    assert [r.name for r in results_meant(frame, [mixes[0]])] == mixes[:1]
    assert mixes[0] in {r.name for r in results_meant(frame, ["strength", mixes[0]])}
    rest = {r.name for r in results_meant(frame, ["strength", "!U1"])}
    assert set(mixes) <= rest | {"U1"} and "U1" not in rest


PAD = """
[project]
units = "kN m"
space = "plane"
[nodes]
a = [0, 0]
b = [0, 4]
c = [3, 0]
[materials]
m = { E = "210 GPa", G = "80 GPa", density = "0 kg/m3" }
[sections]
s = { A = "50 cm2", Iy = "5000 cm4", Iz = "500 cm4", J = "10 cm4" }
[members.post]
section = "s"
material = "m"
pieces = { p = "a > b", q = "c > b" }
[[supports]]
at = ["a", "c"]
fix = "fixed"
[cases]
D = { action = "dead" }
W = { action = "wind" }
[loads]
D = [{ on = "b", force = "100 kN" }]
W = [{ on = "b", force = "30 kN", dir = "+x" }]
"""


def test_what_is_no_convex_function_is_asked_of_every_combination(tmp_path):
    """H/V of a support under 1.2 D + 0.5 W, a mix of 1.2 D and 1.2 D + W, is asked for; of Fz it need not be."""
    text = PAD + '[combinations]\nrules = ["ASCE 7-22 strength"]\n'
    text += '[[limits]]\nname = "ratio"\ncheck = "reaction"\nat = "a"\nunder = "strength"\nH_to_V = 0.5\n'
    text += '[[limits]]\nname = "force"\ncheck = "reaction"\nat = "a"\nunder = "strength"\nFz = "<= 500 kN"\n'
    text = text.replace('W = { action = "wind" }', 'W = { action = "wind" }\nLr = { action = "roof live" }')
    (tmp_path / "m.toml").write_text(text, encoding="utf-8")
    study = Study.read(tmp_path / "m.toml", cache=False)
    ratio, force = study.project.limits
    asked = [{r.name for r in study.under(limit.under, not limit.convex)} for limit in (ratio, force)]
    assert "U3+W" in asked[0] - asked[1] and asked[1] < asked[0]


@settings(max_examples=40, deadline=None)
@given(st.integers(0, 10**6), st.integers(2, 4))
def test_what_is_kept_are_the_corners_of_the_hull(seed, cases):
    points = np.random.default_rng(seed).integers(0, 4, (60, cases)) / 2.0
    points[:2] = points[2:4]
    kept = corners(points)
    hull = ConvexHull(np.unique(points, axis=0))
    assert {tuple(p) for p in points[kept]} == {tuple(p) for p in hull.points[hull.vertices]}
    assert len(np.unique(points[kept], axis=0)) == kept.sum()


def test_nothing_is_left_out_where_results_are_no_sums():
    tied = model('rules = ["AS/NZS 1170.0 strength"]').replace(
        'section = "IPE 200"', 'section = "IPE 200"\nbar = true\nacts = "tension"'
    )
    tied = tied.replace('ends = "hinged"', "")
    assert len(resolved(tied).combinations) == len(by_hand(*COMPLETE["AS/NZS 1170.0 strength"]))
    assert analysed(tied) == {"as one"}
