"""Live load in patterns: envelopes over all 2^n without listing them, against listing them."""

import itertools
import json
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from build import HERE, line, named, point, solved, toward
from empuje.cli import main
from empuje.core.analysis.solve import solve
from empuje.core.answers.bands import bands
from empuje.core.answers.envelope import envelope, extremes
from empuje.core.answers.foundations import displacement_envelope, reaction_envelope
from empuje.core.model.cases import Case, Combination
from empuje.core.model.combining import Combining
from empuje.core.model.words import How
from empuje.core.resolve import resolve
from empuje.files.base.result_selectors import patterns_named
from models import PORTAL, resolved
from moving import beam, study

FORCES = ("N", "Vy", "Vz", "T", "My", "Mz")


def continuous(rng, n, lean=False):
    """A beam over n + 1 supports at odd spacings, drawn as one member; a live case of two loads on each span."""
    x = np.append(0.0, np.cumsum(rng.uniform(3, 7, n)))
    nodes = [(v, 0, 0) for v in x]
    way = toward((0.0, 0.6, -0.8))
    loads = [line(0, *rng.uniform(1e3, 4e3, 2), way=way, case="G")]
    for i in range(n):
        at = float(rng.uniform(x[i], x[i + 1]))
        loads += [point(0, float(rng.uniform(2e3, 9e3)), at, way=way, case=f"L{i}"),
                  point(0, float(rng.uniform(1e3, 3e3)), float(rng.uniform(x[i], x[i + 1])), case=f"L{i}")]  # fmt: skip
    held = {i: (i == 0, True, True, i == 0, False, False) for i in range(n + 1)}
    frame = solved(nodes, [(0, n)], held, loads).project
    cases = frame.cases
    live = [f"L{i}" for i in range(n)]
    if lean:
        cases = (*cases, Case("X", "notional", "", 0.0, HERE, 0.02, (0.0, 1.0, 0.0)))
    tail = (("X", 1.0),) if lean else ()
    name = "U" + "".join(f"+{c}" for c in live) + ("+X" if lean else "")
    factors, named = (("G", 1.2), *((c, 1.6) for c in live), *tail), (*live, *(c for c, _ in tail))
    free = Combination(name, factors, "strength", HERE, "rule", tuple(live), stem="U", named=named)
    other = Combination(
        "V", (("G", 0.9), *((c, -0.7) for c in live[:2]), *tail), "strength", HERE, "rule", tuple(live[:1]), stem="V"
    )
    return replace(frame, cases=cases, combining=Combining((free, other)))


def every_pattern(frame):
    """The same combinations with all patterns listed, by name."""
    out = []
    for c in frame.combining.custom:
        for absent in itertools.product((False, True), repeat=len(c.free)):
            gone = {n for n, a in zip(c.free, absent, strict=True) if a}
            name = c.name
            for n in gone:
                name = name.replace(f"+{n}+", "+").removesuffix(f"+{n}") if f"+{n}" in name else name
            if name in [o.name for o in out]:
                name += "".join(sorted(gone))
            out.append(Combination(name, tuple(f for f in c.factors if f[0] not in gone), c.set, HERE))
    return replace(frame, combining=Combining(tuple(out)))


def both(frame):
    apart = every_pattern(frame)
    solutions = [solve(resolve(f)) for f in (frame, apart)]
    return [(s, [r for r in s.results if not r.is_case]) for s in solutions]


@settings(max_examples=12, deadline=None)
@given(st.integers(0, 10**6), st.integers(1, 5), st.booleans())
def test_extremes_bands_and_node_envelopes_equal_those_of_the_list(seed, n, lean):
    frame = continuous(np.random.default_rng(seed), n, lean)
    (s, names), (apart, listed) = both(frame)
    a, b = extremes(s, names, np.arange(1)), extremes(apart, listed, np.arange(1))
    size = np.abs(b.forces).max()
    own = np.arange(6)
    np.testing.assert_allclose(a.forces[0, own, :, own], b.forces[0, own, :, own], atol=1e-9 * size)
    np.testing.assert_allclose(
        bands(s, names, np.arange(1), 13).value,
        bands(apart, listed, np.arange(1), 13).value,
        atol=1e-9 * size,
    )
    for one, kinds in (
        (reaction_envelope, ("Fx", "Fy", "Fz", "Mx", "My", "Mz")),
        (displacement_envelope, ("ux", "uy", "uz", "rx", "ry", "rz")),
    ):
        more = () if one is reaction_envelope else (np.arange(n + 1),)
        t, u = one(s, names, *more), one(apart, listed, *more)
        for r in range(len(u)):
            assert t[u["of"][r]][r] == pytest.approx(
                u[u["of"][r]][r], abs=1e-9 * max(np.abs(np.nan_to_num(u[k])).max() for k in kinds)
            )


@settings(max_examples=8, deadline=None)
@given(st.integers(0, 10**6), st.integers(1, 4))
def test_patterns_beside_results_of_second_order(seed, n):
    """Polynomials of higher degree stand in the same table then; cuts and extremes stay those of the list."""
    frame = continuous(np.random.default_rng(seed), n)
    free, other = frame.combining.custom
    custom = (free, replace(other, set="service", free=()))
    frame = replace(frame, combining=Combining(custom), second_order=("service",))
    (s, names), (apart, listed) = both(frame)
    assert s.how(names) == ["summed", "second order"]
    a, b = extremes(s, names, np.arange(1)), extremes(apart, listed, np.arange(1))
    own = np.arange(6)
    size = np.abs(b.forces).max()
    np.testing.assert_allclose(a.forces[0, own, :, own], b.forces[0, own, :, own], atol=1e-9 * size)


def test_the_governing_pattern_is_named_and_proves_itself():
    """Ten spans, 1024 patterns: each named pattern, analysed by itself, has the value at that place; and no pattern more."""
    frame = continuous(np.random.default_rng(3), 10)
    s = solve(resolve(frame))
    names = [r for r in s.results if not r.is_case]
    table = envelope(s, names, np.arange(1))
    apart = resolve(every_pattern(frame))
    listed = [r for r in apart.results if not r.is_case]
    mix, how = apart.weights(listed), (How.SUMMED,) * len(listed)
    every = extremes(replace(s, model=apart, results=tuple(listed), mix=mix, how_each=how), listed, np.arange(1))
    for r in range(len(table)):
        of, side = FORCES.index(table["of"][r]), ["min", "max"].index(table["extreme"][r])
        best = every.forces[0, of, side, of]
        assert table[table["of"][r]][r] == pytest.approx(best, abs=1e-9 * np.abs(every.forces).max())
        governs = table["case"][r]
        for pattern in patterns_named(s.model, [governs]):
            alone = solve(resolve(replace(frame, combining=Combining((pattern.combination,)))))
            again = envelope(alone, named(alone, [governs]), np.arange(1), (table["of"][r],))
            assert again[table["of"][r]][side] == pytest.approx(best, rel=1e-9)
    # The classic: the largest sagging moment of a span has its own load and every other one.
    sag = table.rows((table["of"] == "My") & (table["extreme"] == "max"))["case"][0]
    spans = [int(t[1:]) for t in sag.split("+")[1:]]
    assert {i % 2 for i in spans} in ({0}, {1}) and len(spans) == 5


FLOOR = (
    PORTAL.split("[cases]")[0]
    + """
[cases]
G = { action = "dead", self_weight = 1.0 }
A = { action = "live", use = "office", pattern = true }
B = { action = "live", use = "office", pattern = true }
[loads]
A = [ { on = "rafters/1/A*", line = 3 } ]
B = [ { on = "rafters/1/C*", line = 3 } ]
[combinations]
rules = ["AS/NZS 1170.0 strength"]
expansion = "as written"
"""
)


def test_patterns_in_the_model_are_free_where_results_are_sums(tmp_path, capsys):
    assert [(c.name, c.formula) for c in resolved(FLOOR).combinations] == [
        ("Ra", "1.35 G"), ("Rb+A+B", "1.2 G + [1.5 A] + [1.5 B]"), ("Rc+A+B", "1.2 G + [0.6 A] + [0.6 B]"),
    ]  # fmt: skip
    listed = resolved(FLOOR.replace('units = "kN m"', 'units = "kN m"\nanalysis = "second-order"'))
    assert {"Rb+A+B", "Rb+A", "Rb+B", "Rb"} <= {c.name for c in listed.combinations} and not any(
        c.free for c in listed.combinations
    )
    (tmp_path / "m.toml").write_text(FLOOR, encoding="utf-8")
    path = str(tmp_path / "m.toml")

    def rows(*words):
        assert main([words[0], path, *words[1:], "--format", "json"]) == 0
        return json.loads(capsys.readouterr().out)

    found = rows("envelope", "--on", "rafters/1/A*", "--of", "My")
    reached = rows("reactions", "--envelope", "--on", "A1@base")
    assert {"Rb", "Rb+A", "Rb+B"} & {r["case"] for r in (*found, *reached)}
    # A pattern named by --under is analysed by itself; why finds the worst one.
    assert main(["reactions", path, "--under", "Rb*"]) == 0
    assert "envelopes are over every pattern" in capsys.readouterr().err
    assert main(["envelope", path]) == 0 and "pattern" not in capsys.readouterr().err
    reactions = {r["case"]: r["Fz [kN]"] for r in rows("reactions", "--on", "A1@base", "--under", "Rb+A,Rb+A+B,G,A,B")}
    assert reactions["Rb+A"] == pytest.approx(1.2 * reactions["G"] + 1.5 * reactions["A"])
    assert reactions["Rb+A+B"] == pytest.approx(reactions["Rb+A"] + 1.5 * reactions["B"])
    assert main(["why", path, "--on", "A1@base", "--of", "Fx", "--sense", "min"]) == 0
    out = capsys.readouterr().out
    assert "The parts add up" in out
    assert main(["reactions", path, "--under", "Rb+C"]) == 2
    assert rows("envelope", "--on", "rafters/1/A*", "--led-by", "normal", "--under", "Rb*")[0]["case"].startswith("Rb")


SPANS = beam(
    [6, 5, 7],
    """LIFT
[cases]
G = { action = "dead" }
N1 = { action = "live", pattern = true }
N2 = { action = "live", pattern = true }
N3 = { action = "live", pattern = true }
[loads]
G = [{ on = "b", line = 2 }]
N1 = [{ on = "b/b1", line = 20 }]
N2 = [{ on = "b/b2", line = 20 }]
N3 = [{ on = "b/b3", line = 20 }]
[vehicles.v]
axles = [[0, 10], [2, 10]]
[traffic.T]
vehicle = "v"
way = "b"
use = "storage"
[combinations.custom]
C1 = "1.35 G + 1.5 N1 + 1.5 N2 + 1.5 N3"
M1 = "1.35 G + 1.5 N2 + 1.2 T"
""",
)


@pytest.mark.parametrize("lift", ["", "lift = true"])
def test_custom_combinations_have_patterns_as_those_of_codes(lift, tmp_path):
    """Written out without `pattern`, the eight combinations are what one with three cases in patterns envelopes, where
    results are sums and where a support can lift; the combination is meant by its own name in both."""
    listed = SPANS.replace("LIFT", lift).replace(", pattern = true", "")
    rows = [f'P{k} = "1.35 G{"".join(f" + 1.5 N{i + 1}" for i in range(3) if k >> i & 1)}"' for k in range(8)]
    one, each = study(SPANS.replace("LIFT", lift), tmp_path), study("\n".join([listed, *rows]), tmp_path)
    tops = []
    for s, words in ((one, ["C1"]), (each, ["P*"])):
        results = s.under(words)
        found = extremes(s.solution(results), results, np.arange(3)).forces
        tops.append(found[:, np.arange(6), :, np.arange(6)])
    assert tops[0] == pytest.approx(tops[1], rel=1e-9, abs=1e-6 * np.abs(tops[1]).max())
    for word, formula in (("C1.without.N2", "1.35 G + 1.5 N1 + 1.5 N3"), ("C1.without.N1+N3", "1.35 G + 1.5 N2")):
        assert [(r.name, r.what) for r in one.under([word])] == [(word, formula)]
    meant = one.under(["M1"])
    assert all(r.name.startswith("M1") for r in meant) and (len(meant) == 1) == (not lift)
    (placed,) = one.under(["M1.without.N2 T@4m"] if lift else ["M1 T@4m"])
    assert placed.name == ("M1.without.N2 T@4m" if lift else "M1 T@4m") and "1.2 T@4m" in placed.what
    assert one.solution([placed]).results


def test_together_cases_come_and_go_together_and_too_many_patterns_are_refused(tmp_path):
    joined = SPANS.replace("LIFT", "").replace("pattern = true }", 'pattern = true, together = "n" }')
    assert [r.name for r in study(joined, tmp_path).under(["C1"])] == ["C1", "C1.without.N1+N2+N3"]
    cases = "".join(f'Q{k} = {{ action = "live", pattern = true }}\n' for k in range(11))
    many = SPANS.replace("LIFT", "lift = true").replace("[loads]", cases + "[loads]")
    many += f'C2 = "G + {" + ".join(f"Q{k}" for k in range(11))}"\n'
    assert [f.code for f in study(many, tmp_path).findings if f.level == "error"] == ["too-many"]
