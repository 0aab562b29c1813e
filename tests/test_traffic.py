"""Moving loads: published tables and closed forms, positions written as loads by hand, sweeps, and what is refused."""

import numpy as np
import pytest

from build import named
from empuje.core.actions.traffic.laid import loads_of_standing, loads_of_train
from empuje.core.analysis.moving.places import displacements_at
from empuje.core.analysis.solve import respond
from empuje.core.answers.along import node_displacements
from empuje.core.answers.applied import applied_loads
from empuje.core.answers.bands import bands
from empuje.core.answers.deflection import Reference, largest_deflections
from empuje.core.answers.envelope import envelope, extremes
from empuje.core.answers.foundations import displacement_envelope, reaction_envelope
from empuje.core.answers.influence import influence
from empuje.core.answers.moving import movers_of, moving_of
from empuje.core.answers.reactions import reactions, resultants
from empuje.core.answers.stress import stress_envelope
from empuje.core.answers.stress_fibres import coefficients
from empuje.core.answers.stress_places import stress_stations
from empuje.core.answers.traffic import Asked, journey_of, step_table, traffic_table, worst_table
from empuje.core.answers.travel import one_way_travel
from empuje.core.answers.why import target_of
from empuje.core.catalogue.fibres import all_fibres
from empuje.core.catalogue.vehicles import vehicles
from empuje.core.model.loads import PlainLoads
from empuje.core.model.words import Stress
from moving import beam, case, findings, forces_under, random_frame, study, swept

FT, KIP = 0.3048, 4448.2216152605
HS20 = {  # span [ft]: greatest moment [kip ft] and end shear [kip] of a lane: AASHTO Standard Specifications, appendix A
    10: (80.0, 32.0), 12: (96.0, 32.0), 14: (112.0, 32.0), 16: (128.0, 36.0), 18: (144.0, 39.1), 20: (160.0, 41.6),
    24: (192.7, 45.3), 28: (252.0, 48.0), 30: (282.1, 49.6), 34: (343.5, 52.2), 36: (378.9, 53.3), 40: (449.8, 55.2),
    44: (520.9, 56.7), 50: (627.9, 58.5), 56: (735.1, 60.0), 60: (806.5, 60.8), 70: (985.6, 62.4), 80: (1164.9, 63.6),
    90: (1344.4, 64.5), 100: (1524.0, 65.3), 150: (2475.0, 74.0), 200: (4100.0, 90.0),
}  # fmt: skip


def tops(text, tmp_path, member=0, name="T"):
    """Least and greatest of N ... Mz along a member under a moving case: (6, 2)."""
    solution, results = case(study(text, tmp_path), name)
    found = extremes(solution, results, np.array([member]))
    return found.forces[0, np.arange(6), :, np.arange(6)]


def of(member, force, x):
    return Asked(target_of(member, True, force), x, force)


@pytest.mark.parametrize("span", [10, 14, 20, 28, 34, 44, 56, 100, 200])
def test_hs20_on_simple_spans_as_published(span, tmp_path):
    # The concentrated load of the lane is one for moments and another for shear.
    found = {
        word: tops(beam([span], f'[traffic.T]\nvehicle = ["HS20-44 truck", "HS20-44 lane {word}"]\nway = "b"',
                        "kip ft"), tmp_path)
        for word in ("moment", "shear")
    }  # fmt: skip
    shear = max(-found["shear"][2, 0], found["shear"][2, 1])  # at whichever end it comes in
    assert (found["moment"][4, 1] / KIP / FT, shear / KIP) == pytest.approx(HS20[span], abs=0.11)


def absolute(span, loads, gaps):
    """The absolute greatest moment of axles on a simple span: below each axle in turn, with it and the resultant of all
    that are on the span equally far from the middle."""
    best = 0.0
    at = -np.cumsum([0.0, *gaps])
    for first in range(len(loads)):
        for stop in range(first + 1, len(loads) + 1):
            P, s = np.array(loads[first:stop]), at[first:stop]
            R, centre = P.sum(), (P @ s) / P.sum()
            for k in range(len(P)):
                shift = span / 2 - (s[k] + centre) / 2
                place = s + shift
                if place.min() >= 0 and place.max() <= span:
                    left = R * (span - (centre + shift)) / span * place[k]
                    best = max(
                        best, left - sum(p * (place[k] - q) for p, q in zip(P, place, strict=True) if q < place[k])
                    )
    return best


@pytest.mark.parametrize(("span", "loads", "gaps"), [
    (9.0, [80, 80], [2.1]), (7.3, [60, 110], [1.7]), (12.0, [35, 145, 145], [4.3, 4.3]), (16.5, [35, 145, 120], [3.1, 5.2]),
    (5.0, [50, 90, 20, 70], [1.2, 1.9, 2.6]),
])  # fmt: skip
def test_absolute_greatest_moment(span, loads, gaps, tmp_path):
    axles = ", ".join(f'["{g} m", "{p} kN"]' for g, p in zip([0, *gaps], loads, strict=True))
    for heading, way in (("forward", "b"), ("backward", "b")):
        text = f'[vehicles.v]\naxles = [{axles}]\n[traffic.T]\nvehicle = "v"\nway = "{way}"\nheading = "{heading}"'
        found = tops(beam([span], text), tmp_path)
        assert found[4, 1] == pytest.approx(1e3 * absolute(span, loads, gaps), rel=1e-9)
        reach = np.cumsum([0, *gaps])
        ends = [
            sum(p * max(0.0, 1 - (s - o) / span) for p, s in zip(loads, reach, strict=True) if s >= o) for o in reach
        ]
        back = [
            sum(p * max(0.0, 1 - (o - s) / span) for p, s in zip(loads, reach, strict=True) if s <= o) for o in reach
        ]
        near, far = (ends, back) if heading == "backward" else (back, ends)
        assert (found[2, 1], -found[2, 0]) == pytest.approx((1e3 * max(near), 1e3 * max(far)), rel=1e-7)


ONE = '[vehicles.v]\naxles = [[0, "1 kN"]]\n[traffic.T]\nvehicle = "v"\nway = "b"\n'


@pytest.mark.parametrize("shear", [False, True])
def test_influence_lines_of_continuous_beams(shear, tmp_path):
    """M over a support of two and three equal spans, moment and shear inside, reactions; with their areas."""
    L = 6.0
    s = study(beam([L, L], ONE, shear=shear), tmp_path)
    (mover,) = s.movers.values()
    stiff = 0.0 if not shear else 3 * 210e9 * 4e-4 / (81e9 * 40e-4) / L**2  # by three moments: L/3EI + 1/GAL for L/3EI
    line = influence(mover, 0, of(0, "My", L))
    at, value = line.sampled(8)
    d = np.where(at <= L, at, 2 * L - at)
    assert value == pytest.approx(-d * (L**2 - d**2) / (4 * L**2) / (1 + stiff), abs=1e-9)
    assert line.areas == pytest.approx((-(L**2) / 8 / (1 + stiff), 0.0), abs=1e-9)
    assert line.extremes[0][1] == pytest.approx(-L / (6 * np.sqrt(3)) / (1 + stiff), rel=1e-10)
    R = influence(mover, 0, Asked(target_of(0, False, "Fz"), 0.0, "Fz"))
    at, value = R.sampled(8)
    over = (
        -np.where(at <= L, at, 2 * L - at) * (L**2 - np.where(at <= L, at, 2 * L - at) ** 2) / (4 * L**2) / (1 + stiff)
    )
    assert value == pytest.approx(np.maximum(1 - at / L, 0.0) + over / L, abs=1e-9)
    V = influence(mover, 0, of(0, "Vz", 2.0)).sampled(8)
    simple = np.where(V[0] <= L, np.where(V[0] <= 2.0, -V[0] / L, 1 - V[0] / L), 0.0)
    jump = np.flatnonzero(np.diff(V[0]) == 0)
    wrong = np.abs(V[1] - simple - np.interp(V[0], at, over) / L) > 2e-2
    assert set(np.flatnonzero(wrong)) <= set(jump) | set(jump + 1)
    if shear:
        return
    three = study(beam([L, L, L], ONE), tmp_path)
    (mover,) = three.movers.values()
    at, value = influence(mover, 0, of(0, "My", L)).sampled(8)
    first, last = at <= L, at >= 2 * L
    assert value[first] == pytest.approx(-4 / 15 * at[first] * (L**2 - at[first] ** 2) / L**2, abs=1e-10)
    far = 3 * L - at[last]
    assert value[last] == pytest.approx(far * (L**2 - far**2) / L**2 / 15, abs=1e-10)


def test_lane_loads_stand_where_they_are_adverse_or_go_with_the_vehicle(tmp_path):
    L, w = 8.0, 12e3
    lane = ONE.replace('"1 kN"]]', '"1 N"]]\nlane = "12 kN/m"')
    s = study(beam([L, L], lane), tmp_path)
    (mover,) = s.movers.values()
    table = worst_table(mover, [of(0, "My", L / 2), of(0, "My", L)])
    assert table["moment"] == pytest.approx([-w * L**2 / 32, 3 * w * L**2 / 32, -w * L**2 / 8, 0.0], abs=3)
    assert [c.partition(".lane")[2] for c in table["case"][:3]] == ["8to16", "0to8", "0to16"]
    # Before, under and behind a vehicle in the middle of a single span: of 2 m and of what is left on both sides.
    for words, way, loaded in ((["under"], "", [(3, 5)]), (["before"], "", [(5, 8)]), (["before"], ".back", [(0, 3)]),
                               (["before", "behind"], "", [(5, 8), (0, 3)])):  # fmt: skip
        text = (
            ONE.replace('[[0, "1 kN"]]', f'[[0, "1 N"], [2, "1 N"]]\nlane = "12 kN/m"\nlane_on = {words}')
            + 'heading = "both"\n'
        )
        s = study(beam([L], text.replace("'", '"')), tmp_path)
        r = s.under(["T@5m" + way])
        reaction = s.solution(r).reaction[0, 2] @ s.solution(r).weights(r)
        assert reaction[0] == pytest.approx(sum(w * (b - a) * (1 - (a + b) / 2 / L) for a, b in loaded), abs=3)


@pytest.mark.parametrize(("name", "load", "phi"), [
    (f"FL{k} {tyres}", load, phi) for k, load in enumerate([26, 40, 63, 90, 140, 170], 1)
    for tyres, phi in (("pneumatic", 1.4), ("solid", 2.0))
])  # fmt: skip
def test_fork_lifts_of_en_1991_on_a_beam(name, load, phi, tmp_path):
    found = tops(beam([5.0], f'[traffic.T]\nvehicle = "{name}"\nway = "b"'), tmp_path)
    assert (found[4, 1], found[2, 1]) == pytest.approx((phi * load * 1e3 * 5 / 4, phi * load * 1e3), rel=1e-8)


def test_vehicles_of_codes():
    known = vehicles()
    assert [[round(a.load / KIP, 9) for a in known[f"HL-93 {n}"].axles] for n in ("truck", "tandem")] == [
        [8, 32, 32],
        [25, 25],
    ]
    assert known["HL-93 truck"].lane == pytest.approx(0.64 * KIP / FT) and known["HL-93 tandem"].dynamic == 1.33
    assert [known[f"LM1 lane {k}"].lane / 1e3 for k in (1, 2, 3)] == [27, 7.5, 7.5]
    assert [known[f"LM1 lane {k}"].axles[1].gap[0] for k in (1, 2, 3)] == [1.2] * 3


def test_a_distance_that_is_a_range(tmp_path):
    """Over the middle support of two spans the worst is an axle on the peak of each: 2 (L - L/sqrt 3) apart, or as near to
    that as the range lets them; so too of two vehicles in a row."""
    L = 6.0

    def over(d):
        return -1e5 * d * (L**2 - d**2) / (4 * L**2)

    peak, gap = 2 * over(L / np.sqrt(3)), 2 * (L - L / np.sqrt(3))
    for low, high, value in ((2, 9, peak), (5.3, 9, None), (1, 3, None)):
        text = f'[vehicles.v]\naxles = [[0, "100 kN"], ["{low} m .. {high} m", "100 kN"]]\n[traffic.T]\nvehicle = "v"\nway = "b"'
        (mover,) = study(beam([L, L], text), tmp_path).movers.values()
        table = worst_table(mover, [of(1, "My", 0.0)])
        nearest = min(max(gap, low), high)
        wanted = value or min(over(d) + over(2 * L - d - nearest) for d in np.linspace(L - nearest, L, 20001) if d > 0)
        one_span = min(over(d) + over(d - low) for d in np.linspace(low, L, 20001))
        assert table["moment"][0] == pytest.approx(min(wanted, one_span), rel=1e-6 if value is None else 1e-12)
        if value:
            assert float(table["case"][0].partition("gaps")[2]) == pytest.approx(gap, abs=2e-6)
    row = '[vehicles.v]\naxles = [[0, "100 kN"]]\n[traffic.T]\nvehicle = "v"\nway = "b"\ncount = 2\nclear = "2 m"'
    (mover,) = study(beam([L, L], row), tmp_path).movers.values()
    assert worst_table(mover, [of(1, "My", 0.0)])["moment"][0] == pytest.approx(peak, rel=1e-12)


@pytest.mark.parametrize("seed", [0, 2, 3, 5, 6, 7, 9, 12])
def test_random_frames_by_static_runs_and_sweeps(seed, tmp_path):
    """Every governing value is that of its position as loads written one by one; no position swept over is worse."""
    s = study(random_frame(seed), tmp_path)
    assert s.sound, [str(f) for f in s.findings]
    solution = s.solution()
    results = [r for r in solution.results if r.moving]
    members = np.arange(len(s.project.members))
    found, moving = extremes(solution, results, members), moving_of(solution, results)
    still, (mover,) = solution.weights(results, still=True), moving.movers
    size = [np.abs(found.forces[..., part]).max() for part in (slice(3), slice(3, 6))]
    scale = np.repeat(size, 3)
    chosen = np.random.default_rng(seed).choice(found.result.size, 24, replace=False)
    for m, f, side in zip(*np.unravel_index(chosen, found.result.shape), strict=True):
        row, r, x = (
            np.ravel_multi_index((m, f, side), found.result.shape),
            found.result[m, f, side],
            found.x[m, f, side],
        )
        loads = loads_of_standing(mover.laid, mover.standing(found.picks[0], row), 0)
        alone = respond(mover.equations, PlainLoads(loads.lines, loads.points), 1)
        both = forces_under(solution, m, x, still[:, [r]]) + moving.factor[0, r] * forces_under(alone, m, x, np.eye(1))
        off = np.abs(both[:, :, 0] - found.forces[m, f, side]) / scale
        assert off.max(axis=1).min() < 1e-10, (s.project.members[m].name, ["N", "Vy", "Vz", "T", "My", "Mz"][f], side)
    least, most = (found.forces[:, np.arange(6), side, np.arange(6)] for side in (0, 1))
    worst = np.full(6, -np.inf)
    for columns, count in swept(s, solution, 251):
        for m in members[:: max(1, len(members) // 6)].tolist():
            for x in np.linspace(0, s.project.lengths[m], 14):
                base, own = forces_under(solution, m, x, still), forces_under(columns, m, x, np.eye(count))
                total = base[:, :, :, None] + moving.factor[0][:, None] * own[:, :, None]
                over = np.maximum(total.max(axis=(0, 2, 3)) - most[m], least[m] - total.min(axis=(0, 2, 3))) / scale
                worst = np.maximum(worst, over)
    assert worst.max() < 2e-8
    at_nodes = displacement_envelope(solution, results[:1], np.arange(len(s.project.nodes)))
    reactions = reaction_envelope(solution, results[:1])
    for columns, _ in swept(s, solution, 401):
        for table, value, labels in ((at_nodes, columns.displacement, range(len(s.project.nodes))),
                                     (reactions, columns.reaction, columns.support_node)):  # fmt: skip
            names = [s.project.nodes[n].name for n in labels]
            for node, which, extreme, *rest in zip(*(c.values for c in table.columns), strict=True):
                k = [c.name for c in table.columns].index(which) - 4
                swings = value[names.index(node), k] * (1 if extreme == "max" else -1)
                told = rest[1 + k] * (1 if extreme == "max" else -1)
                assert swings.max() <= told + 1e-8 * np.abs(value[:, k // 3 * 3 : k // 3 * 3 + 3]).max()


def test_positions_are_counted_and_journeys_mirrored(tmp_path):
    text = '[vehicles.v]\naxles = [[0, "10 kN"], [4, "30 kN"]]\n[traffic.T]\nvehicle = "v"\nway = "b"\nspeed = "2 m/s"\nevery = "0.25 s"\n'
    by = {}
    for heading in ("forward", "backward"):
        for enters in ("axle by axle", "wholly"):
            s = study(beam([12.0], f'{text}heading = "{heading}"\nenters = "{enters}"'), tmp_path)
            table = traffic_table(s.movers)
            whole = enters == "wholly"
            assert [table[c][0] for c in ("length of way", "positions", "duration", "step")] == pytest.approx(
                [12.0, 17 if whole else 34, 4.0 if whole else 8.0, 0.5]
            )
            steps = step_table(s.movers["T"], [of(0, "My", 5.0), Asked(target_of(0, False, "Fz"), 0, "A"),
                                              Asked(target_of(1, False, "Fz"), 0, "B")])  # fmt: skip
            assert len(steps) == (17 if whole else 34)
            if not whole:
                assert [steps[c][-1] for c in ("My", "A", "B")] == pytest.approx([0, 0, 0], abs=1e-9)
                assert steps["time"][-2] == pytest.approx(8.0) and steps["A"][-2] + steps["B"][-2] == pytest.approx(
                    30e3
                )
            by[heading, enters] = steps
    for enters in ("axle by axle", "wholly"):
        assert by["forward", enters]["A"] == pytest.approx(by["backward", enters]["B"], abs=1e-6)
    odd = text.replace('speed = "2 m/s"\nevery = "0.25 s"', "step = 0.7") + 'enters = "wholly"\n'
    steps = step_table(study(beam([12.0], odd), tmp_path).movers["T"], [of(0, "My", 5.0)])
    assert steps["position"] == pytest.approx([*np.arange(4, 12, 0.7), 12.0])


YARD = """
[project]
units = "kN m"
[grid]
x = { A = 0, B = 6, C = 12 }
y = { 1 = 0, 2 = 3, 3 = 6 }
z = { base = 0, mezz = 4 }
[members.beams]
section = "HEB 300"
material = "S355"
runs = ["A>>C / 1..3 / mezz"]
[members.cross]
section = "HEB 300"
material = "S355"
runs = ["A..C / 1>>3 / mezz"]
[members.columns]
section = "HEB 200"
material = "S355"
runs = ["A..C / 1..3 / base>mezz"]
[[supports]]
at = "*@base"
fix = "fixed"
[surfaces.floor]
corners = ["A1@mezz", "C1@mezz", "C3@mezz", "A3@mezz"]
deck = "DECK"
bearing = "BEARING"
[cases]
H = { action = "live", use = "storage" }
[vehicles.v]
axles = [[0, "20 kN"], [1.5, "60 kN"]]
VEHICLE
[traffic.T]
vehicle = "v"
TRAFFIC
[loads]
H = [HAND]
"""


def yard(traffic, vehicle="", hand="", deck="y", bearing="beams", more=""):
    text = YARD.replace("VEHICLE", vehicle).replace("TRAFFIC", traffic).replace("HAND", hand)
    return text.replace("DECK", deck).replace("BEARING", bearing) + more


def hand(x, y, loads, on="floor"):
    return ", ".join(
        f'{{ on = "{on}", force = "{p} kN", at = [{a}, {b}, 4] }}' for a, b, p in zip(x, y, loads, strict=True)
    )


@pytest.mark.parametrize(("traffic", "vehicle", "deck", "at", "x", "y", "loads"), [
    ('way = [[0, 1, 4], [12, 1, 4]]\nsurface = "floor"', "", "y", "4m", [4, 2.5], [1, 1], [20, 60]),
    ('way = [[0, 1, 4], [12, 1, 4]]\nsurface = "floor"\nheading = "backward"', "gauge = 1.2", "y", "4m",
     [8, 8, 9.5, 9.5], [0.4, 1.6, 0.4, 1.6], [10, 10, 30, 30]),
    ('way = [[1, 0.5, 4], [11, 5.5, 4]]\nsurface = "floor"\naside = 0.3', "", "two-way", "5m",
     [1 + (5 - d) * np.cos(np.arctan(0.5)) - 0.3 * np.sin(np.arctan(0.5)) for d in (0, 1.5)],
     [0.5 + (5 - d) * np.sin(np.arctan(0.5)) + 0.3 * np.cos(np.arctan(0.5)) for d in (0, 1.5)], [20, 60]),
    ('way = ["A2@mezz", "C2@mezz"]\naside = -1.1\nstep = 0.3', "", "y", "4m", [4, 2.5], [1.9, 1.9], [20, 60]),
    ('way = "beams/2@mezz/*"\ndynamic = 1.2', "gauge = 2\ndynamic = 1.5", "y", "5m", [5, 5, 3.5, 3.5], [2, 4, 2, 4],
     [18, 18, 54, 54]),
])  # fmt: skip
def test_wheels_reach_members_as_forces_by_hand_do(traffic, vehicle, deck, at, x, y, loads, tmp_path):
    """On decks of both kinds and by the lever rule: the same displacements as of forces put on the floor there."""
    bearing = "beams" if deck == "y" else "*"
    if "two-way" in deck and "step" not in traffic:
        traffic += "\nstep = 0.25"
    s = study(yard(traffic, vehicle, hand(x, y, loads), deck, bearing).replace('"*"', '["beams", "cross"]'), tmp_path)
    assert s.sound, [str(f) for f in s.findings]
    r = s.under([f"T@{at}" + (".back" if "backward" in traffic else ""), "H"])
    solution = s.solution(r)
    moved = solution.displacement[:, :3] @ solution.weights(r)
    assert moved[..., 0] == pytest.approx(moved[..., 1], rel=1e-9, abs=1e-12 * np.abs(moved).max())


def test_wheels_beside_a_single_member_twist_it_and_horizontal_forces_act_above_it(tmp_path):
    more = 'way = "beams/1@mezz/*"\noff_member = "twist"\naside = 0.4\nheading = "both"'
    s = study(yard(more, "along = 0.25\nacross = 0.1\nheight = 0.8"), tmp_path)
    r = s.under(["T@4m.braking.left", "T@4m.back.starting.right"])
    put_on = np.array([s.resolved.loads.points.f[s.resolved.loads.points.case == k.index].sum(axis=0) for k in r])
    # Forward: brakes along +x and thrust to +y; backward, starting pushes back along +x, its right is +y.
    force = [20e3, 8e3, -80e3]
    twist = [-0.8 * 8e3 - 0.4 * 80e3, 0.8 * 20e3, -0.4 * 20e3]
    assert put_on == pytest.approx(np.array([[*force, *twist]] * 2), rel=1e-12)


def test_patches_keep_the_resultant_and_reach_what_points_do_not(tmp_path):
    """A wheel whose middle is on a beam stands with half of its patch on each side: the neighbours get their shares."""
    base = 'way = [[0, 3, 4], [12, 3, 4]]\nsurface = "floor"'
    s = study(yard(base, 'patch = ["0.4 m", "0.6 m"]'), tmp_path)
    r = s.under(["T@4m"])
    points = s.resolved.loads.points.take(s.resolved.loads.points.case == r[0].index)
    share = {
        n: -points.f[[s.project.members[m].name.startswith(f"beams/{n}") for m in points.member], 2].sum()
        for n in "123"
    }
    assert sum(share.values()) == pytest.approx(80e3, rel=1e-12)
    # Between y = 2.7 and 3.3 the neighbour at 3 m gets on average |y - 3|/3 of it; nine points make 0.149 m of 0.15 m.
    assert share["1"] == pytest.approx(share["3"], rel=1e-9) and share["1"] / 80e3 == pytest.approx(
        0.15 / 3 / 2, rel=0.15
    )


def test_ways_at_once_by_multiple_presence(tmp_path):
    """Of two ways the one that is worst with its factor, or both with theirs."""
    base = 'ways = ["beams/1@mezz/*", "beams/3@mezz/*"]\noff_member = "twist"\n'
    values = {}
    for name, presence in (("alone", "[1.0, 1e-3]"), ("both", "[1e-3, 1.0]"), ("asked", "[1.2, 0.9]")):
        s = study(yard(base + f"presence = {presence}"), tmp_path)
        solution, results = case(s)
        table = reaction_envelope(solution, results, of=("Fz", "Mx"))
        values[name] = np.array([table[f][i] for i, f in enumerate(table["of"])]), table["case"]
    alone, both, asked = (np.abs(values[k][0]) for k in ("alone", "both", "asked"))
    assert asked == pytest.approx(np.maximum(1.2 * alone, 0.9 * both), rel=1e-9, abs=1e-6)
    assert {"_and_" in c for c in values["asked"][1]} == {True, False}


def test_a_crane_bridge_on_two_runways(tmp_path):
    """Its wheels by hand statics: each runway carries its own side, wherever the bridge stands, and left is its left."""
    text = yard('way = "beams/1@mezz/*"\naside = 3\nenters = "wholly"\nheading = "both"', "gauge = 6\n").replace(
        '[[0, "20 kN"], [1.5, "60 kN"]]', '[[0, "80 kN", "30 kN"], [2.8, "80 kN", "30 kN"]]'
    )
    s = study(text, tmp_path)
    solution, results = case(s)
    for position, left, right, places in (("T@7m", 3, 1, [("B-C", 1.0), ("A-B", 4.2)]),
                                          ("T@7m.back", 1, 3, [("A-B", 5.0), ("B-C", 1.8)])):  # fmt: skip
        (r,) = s.under([position])
        points = s.resolved.loads.points.take(s.resolved.loads.points.case == r.index)
        by_name = {(s.project.members[m].name, round(float(x), 6)): float(f)
                   for m, x, f in zip(points.member, points.s, points.f[:, 2], strict=True)}  # fmt: skip
        assert by_name == {(f"beams/{side}@mezz/{bay}", x): load
                           for side, load in ((left, -80e3), (right, -30e3)) for bay, x in places}  # fmt: skip
    assert not any(c.startswith("T@away") for c in envelope(solution, results, np.arange(3))["case"])  # it never leaves


def test_what_moves_across_a_beam_that_is_hinged_at_its_start(tmp_path):
    """Deflections by AISC Manual, table 3-23, case 14, read at places of the loaded element."""
    L, EI = 6.0, 210e9 * 4e-4
    text = (
        beam([L], ONE).replace('fix = "z"', 'fix = "fixed"').replace('at = "A"\nfix = "x z"', 'at = "A"\nfix = "fixed"')
    )
    s = study(text.replace("[members.b]", '[members.b]\nends = ["hinged", "rigid"]'), tmp_path)
    (mover,) = s.movers.values()
    a, x = np.meshgrid([0.7, 2.0, 4.9], [0.4, 2.0, 3.3, 5.5])
    loads = loads_of_train(mover.laid.ways[0], mover.trains[0], a[0], np.arange(a.shape[1]))
    across = displacements_at(mover.units, np.zeros(len(x), int), x[:, 0], np.tile([0.0, 0, 1], (len(x), 1)))
    b = L - a
    before = b**2 * x / (12 * EI * L**3) * (3 * a * L**2 - 2 * L * x**2 - a * x**2)
    after = a / (12 * EI * L**3) * (L - x) ** 2 * (3 * L**2 * x - a**2 * x - 2 * a**2 * L)
    wanted = -1e3 * np.where(x <= a, before, after)
    assert across.values(mover.units.put(loads, a.shape[1])) == pytest.approx(wanted, rel=1e-10)


def test_results_keep_their_numbers_when_positions_join(tmp_path):
    """A result taken before is the same one after, whatever joined: its name, its reactions, its place in the study."""
    more = """
[cases]
G = { action = "dead" }
Q = { action = "live" }
[loads]
G = [{ on = "b", line = 3 }]
Q = [{ on = "b/b1", line = 5 }]
[combinations.custom]
S = "1.2 G + 1.5 Q"
M = "1.2 G + 1.5 T"
"""
    s = study(beam([6, 5], ONE, more=more), tmp_path)
    before = list(s.resolved.results)
    still = [r for r in before if not r.moving]
    at_first = reactions(s.solution(still), still)["Fz"]
    moving = [r for r in before if r.moving]
    stood, _ = s.stand(moving)
    s.stand([r for r in before if r.name == "M"])
    assert [r.name for r in s.resolved.results[: len(before)]] == [r.name for r in before]
    assert [r.index for r in s.resolved.results] == list(range(len(s.resolved.results))) and len(stood) > len(moving)
    np.testing.assert_allclose(reactions(s.solution(still), still)["Fz"], at_first, rtol=1e-12)
    again = s.resolved.case_numbers([r for r in s.resolved.results if r.is_case])
    assert [s.project.cases[i].name for i in again] == [r.name for r in s.resolved.results if r.is_case]
    assert applied_loads(
        s.resolved, [r for r in stood if r.is_case], np.array([0, 1]), np.arange(3), np.zeros(0, np.intp)
    )["case"].tolist()


@pytest.mark.parametrize("axles", [[(0.0, 35e3), (4.3, 145e3), (4.3, 145e3)], [(0.0, 10e3), (2.4, 90e3)]])
def test_the_largest_deflection_under_a_passing_vehicle(axles, tmp_path):
    """Of all positions and all places, by AISC Manual, table 3-23, case 8, for each axle; named by its position."""
    L, EI = 11.0, 210e9 * 4e-4
    written = ", ".join(f'["{gap} m", "{load} N"]' for gap, load in axles)
    s = study(beam([L], ONE.replace('[0, "1 kN"]', written)), tmp_path)
    results = s.under(["T"])
    stood, _ = s.stand(results, s.furthest(results, np.array([0])))
    table = largest_deflections(s.solution(stood), stood, np.array([0]), Reference("chord"))
    x, t = np.linspace(0, L, 441)[:, None], np.linspace(0, 2 * L, 4001)
    moved = np.zeros((len(x), len(t)))
    for behind, (_, load) in zip(np.cumsum([gap for gap, _ in axles]), axles, strict=True):
        a = t - behind
        on, b = (a > 0) & (a < L), L - a
        short, far = np.where(x <= a, x, L - x), np.where(x <= a, b, a)
        moved += np.where(on, load * far * short / (6 * EI * L) * (L**2 - far**2 - short**2), 0.0)
    best = int(np.argmax(table["across"]))
    assert moved.max() * (1 - 1e-9) < table["across"][best] < moved.max() * (1 + 2e-5)
    k, i = np.unravel_index(moved.argmax(), moved.shape)
    assert table["x"][best] == pytest.approx(x[k, 0], abs=0.03)
    assert float(table["case"][best].split("@")[1].split("m")[0]) == pytest.approx(t[i], abs=0.03)


def test_stresses_and_bands_are_over_all_positions(tmp_path):
    s = study(random_frame(3).replace("[traffic.T]", "[traffic.T]").replace("step = ", "step = "), tmp_path)
    solution = s.solution()
    results = [r for r in solution.results if r.moving]
    members = np.arange(2)
    found = extremes(solution, results, members)
    x = np.array([[0.0, 0.37 * s.project.lengths[m], s.project.lengths[m]] for m in members])
    band = bands(solution, results, members, x=x)
    top = found.forces[:, np.arange(6), :, np.arange(6)].transpose(1, 0, 2)
    size = np.abs(top).max()
    assert (band.value[..., 1] <= top[:, None, :, 1] + 1e-9 * size).all()
    assert (band.value[..., 0] >= top[:, None, :, 0] - 1e-9 * size).all()
    section, first = s.project.members[0].section, s.project.members[0].name
    sweep = list(swept(s, solution, 201))
    sigma, tau_z, tau_y = coefficients(section, all_fibres(section))
    for led_by, parts in ((Stress.NORMAL, [sigma]), (Stress.SHEAR, [tau_z, tau_y]),
                          (Stress.MISES, [sigma, 3**0.5 * tau_z, 3**0.5 * tau_y])):  # fmt: skip
        table = stress_envelope(solution, results, members, led_by)

        def stress(f, forces, parts=parts):
            each = np.array([part[f] @ forces for part in parts])
            return each[0] if len(parts) == 1 else np.linalg.norm(each, axis=0)

        for f, fibre in enumerate(all_fibres(section)):
            rows = np.flatnonzero((table["member"] == first) & (table["fibre"] == fibre.name)).tolist()
            for i in rows:
                at_once = np.array([np.nan_to_num(table[c][i]) for c in ("N", "Vy", "Vz", "T", "My", "Mz")])
                assert table[str(led_by)][i] == pytest.approx(stress(f, at_once), rel=1e-8)
            least, most = (table[str(led_by)][i] for i in (rows[0], rows[-1]))
            for columns, count in sweep:
                for x in np.linspace(0, s.project.lengths[0], 9):
                    still = forces_under(solution, 0, x, solution.weights(results, still=True))[:, :, :, None]
                    moved = forces_under(columns, 0, x, np.eye(count))[:, :, None]
                    both = still + moving_of(solution, results).factor[0][:, None] * moved
                    swept_over = stress(f, both.transpose(1, 0, 2, 3).reshape(6, -1))
                    assert swept_over.max() <= most + 1e-7 * abs(most)
                    assert led_by != Stress.NORMAL or least - 1e-7 * abs(least) <= swept_over.min()
        # At stations: what a sweep finds there, both sides of a wheel counted, and the greatest along the member.
        at = stress_stations(solution, results, members, led_by, ["corner 1", "middle"], 4)
        for f, fibre in enumerate(all_fibres(section)):
            for i in np.flatnonzero((at["member"] == first) & (at["fibre"] == fibre.name)).tolist():
                x = float(at["x"][i])
                found = [-np.inf, np.inf]
                for columns, count in sweep:
                    still = forces_under(solution, 0, x, solution.weights(results, still=True))[:, :, :, None]
                    moved = forces_under(columns, 0, x, np.eye(count))[:, :, None]
                    both = still + moving_of(solution, results).factor[0][:, None] * moved
                    values = stress(f, both.transpose(1, 0, 2, 3).reshape(6, -1))
                    found = [max(found[0], values.max()), min(found[1], values.min())]
                # A sweep of 201 positions finds no more, and misses little.
                near = 0.04 * abs(found[0] - min(found[1], 0.0)) + 1e-3
                rows = (table["member"] == first) & (table["fibre"] == fibre.name)
                assert at[f"max {led_by}"][i] <= table[str(led_by)][rows].max() * (1 + 1e-9)
                assert found[0] - 1e-6 * near <= at[f"max {led_by}"][i] <= found[0] + near
                if led_by == Stress.NORMAL:
                    assert found[1] - near <= at[f"min {led_by}"][i] <= found[1] + 1e-6 * near


ONE_WAY = '[members.ties]\nsection = "L 60x60x6"\nmaterial = "S235"\nbar = true\nacts = "tension"\nruns = ["A>B / 1 / base>mezz", "B>A / 1 / base>mezz"]\n'


def test_where_results_are_no_sums_positions_are_analysed_as_one(tmp_path):
    text = yard('way = "beams/1@mezz/*"\nuse = "storage"', more='[combinations.custom]\nU = "1.2 H + 1.6 T"\nV = "H"')
    text = text.replace("[[supports]]", ONE_WAY + "[[supports]]", 1)
    s = study(text, tmp_path)
    chosen = [f for f in s.findings if f.code == "positions-chosen"]
    assert len(chosen) == 1 and f"in {len(s.project.standings)} positions" in chosen[0].message
    names = [r.name for r in s.resolved.results]
    assert "T" not in names and {f"U {k.case}" for k in s.project.standings} < set(names) and names.count("V") == 1
    solution = s.solution()
    assert {str(h) for h in solution.how(solution.results)} == {"as one"}
    # One of them as loads by hand, factored, in a model without traffic.
    standing = s.project.standings[len(s.project.standings) // 2]
    points = s.resolved.loads.points.take(s.resolved.loads.points.case == named(solution, standing.case).index)
    written = ", ".join(f'{{ on = "{s.project.members[m].name}", force = "{-f[2]} N", at = "{x} m" }}'
                        for m, x, f in zip(points.member, points.s, points.f, strict=True))  # fmt: skip
    before = text[: text.index("[vehicles.v]")] + f"[loads]\nH = [{written}]\n" + '[combinations.custom]\nU = "1.6 H"\n'
    (tmp_path / "other").mkdir()
    other = study(before, tmp_path / "other").solution()
    got, wanted = (node_displacements(x, [named(x, n)], np.arange(9))["ux"] for x, n in
                   ((solution, f"U {standing.case}"), (other, "U")))  # fmt: skip
    assert got == pytest.approx(wanted, rel=1e-9, abs=1e-15)


def test_only_what_is_no_sum_is_analysed_by_position(tmp_path):
    text = yard('way = "beams/1@mezz/*"\nuse = "storage"', more="""[combinations.custom]
P = { formula = "1.5 T", set = "strength" }
Q = { formula = "T", set = "service" }
R = { formula = "1.1 T + X", set = "service" }
""").replace("[cases]", '[cases]\nX = { notional = 0.01, dir = "+x" }', 1)  # fmt: skip
    s = study(text.replace("[project]", '[project]\nanalysis = { strength = "second-order" }', 1), tmp_path)
    results = {r.name: r for r in s.resolved.results}
    where = [k.case for k in s.project.standings]
    assert {n for n in results if n[:1] in "PQR"} == {"Q", *(f"{c} {k}" for c in "PR" for k in where)}
    assert results["Q"].moving == ("T",) and not any(r.moving for n, r in results.items() if n[:1] in "PR")
    solution = s.solution()
    p, r, alone = ([results[f"{before}{k}"] for k in where] for before in ("P ", "R ", ""))
    assert [str(h) for h in solution.how([*p, *r])] == ["second order"] * len(where) + ["summed"] * len(where)
    (_, there), (_, total) = resultants(solution, alone), resultants(solution, r)
    down = there[2]
    assert down.max() == pytest.approx(80e3)
    # A case of notional loads pushes with its share of the wheels that are there, as they are factored.
    assert total[[0, 2]] == pytest.approx(np.array([-0.01 * 1.1 * down, 1.1 * down]), abs=1e-3)


def test_nothing_asks_a_moving_case_for_a_result_of_its_own(tmp_path):
    solution, results = case(study(beam([5.0], ONE), tmp_path))
    with pytest.raises(ValueError, match="only its positions"):
        node_displacements(solution, results, np.arange(2))


@pytest.mark.parametrize(("change", "code", "words"), [
    (('way = "b"', 'way = ["b/b1", "b/b3"]'), "gap-in-way", "loose ends at A, B, C, D"),
    (('way = "b"', "way = [[1, 0, 2], [5, 0, 2]]"), "wheel-not-carried", "from 0 m to 4 m"),
    (('way = "b"', "way = [[1, 0, 0], [25, 0, 0]]"), "wheel-not-carried", "from 14 m to 24 m"),
    (('way = "b"', 'way = "b"\nwheels = 4'), "unknown-key", "wheels"),
    (('[[0, "1 kN"]]', '[[0, "1 kN"], [16, "1 kN"]]'), None, ""),
    (('way = "b"', 'way = "b"\nstep = 0'), "bad-quantity", "0 m apart"),
    (('way = "b"', 'way = "b"\nstep = "2 kN"'), "bad-quantity", "length"),
    (('way = "b"', 'way = "b"\nspeed = "2 m/s"'), "missing-key", "go together"),
    (('vehicle = "v"', 'vehicle = "FL2"'), "unknown-name", "FL2 pneumatic"),
    (('way = "b"', ""), "missing-key", "no `way`"),
    (('[[0, "1 kN"]]', '[[2, "1 kN"]]'), "bad-axles", "that of the first is 0"),
    (('[[0, "1 kN"]]', '[[0, "1 kN"], ["9 m .. 4 m", "1 kN"]]'), "bad-quantity", "from the smaller one"),
    (('[[0, "1 kN"]]', '[[0, "1 kN", "2 kN"]]'), "missing-key", "gauge"),
    (('way = "b"', 'way = "b"\ncount = 2'), "missing-key", "keep a distance"),
    (('way = "b"', 'way = ["A"]'), "matches-nothing", "A"),
    (('"1 kN"]]', '"1 kN"]]\nacross = 0.2'), "out-of-plane", "across"),
    (('way = "b"', 'way = "b"\npresence = [0]'), "bad-quantity", "up to 3"),
])  # fmt: skip
def test_what_is_wrong_is_said_with_a_remedy(change, code, words):
    text = beam([5.0, 5.0, 5.0], ONE.replace(*change))
    found = [f for f in findings(text) if f.level == "error"]
    if code is None:
        assert found == []
        found = [f for f in findings(text.replace('way = "b"', 'way = "b"\nenters = "wholly"')) if f.level == "error"]
        code, words = "longer-than-way", "16 m long"
    assert [f.code for f in found] == [code], found
    assert words in found[0].message + found[0].remedy and found[0].place.line


def test_wheels_with_nothing_beside_them_are_told_where():
    base = yard('way = "beams/1@mezz/*"\naside = -0.5')
    (found,) = [f for f in findings(base) if f.level == "error"]
    assert found.code == "wheel-not-carried" and "0.5 m to the right" in found.message and "twist" in found.remedy
    assert "(6, -0.5, 4) m" in found.message
    off = yard('way = [[0, 1, 4], [15, 1, 4]]\nsurface = "floor"')
    (found,) = [f for f in findings(off) if f.level == "error"]
    assert "from 12 m to 15 m" in found.message and "surface" in found.remedy


def test_a_million_positions_cost_what_ten_do(tmp_path):
    """Of steps only those beside the polynomials' peaks are looked at: the worst of all, and within a step of exact."""
    text = '[vehicles.v]\naxles = [[0, "35 kN"], [4.3, "145 kN"], [4.3, "145 kN"]]\n[traffic.T]\nvehicle = "v"\nway = "b"\nstep = STEP'
    exact = tops(beam([12.0, 9.0], text.replace("STEP", '"exact"')), tmp_path)
    fine = tops(beam([12.0, 9.0], text.replace("STEP", "0.0001")), tmp_path)
    coarse = tops(beam([12.0, 9.0], text.replace("STEP", "1.37")), tmp_path)
    assert (fine[[2, 4]] == pytest.approx(exact[[2, 4]], rel=1e-4)) and (
        np.abs(fine) <= np.abs(exact) * (1 + 1e-9)
    ).all()
    solution, _ = case(study(beam([12.0, 9.0], text.replace("STEP", "1.37")), tmp_path))
    (mover,) = movers_of(solution).values()
    t = mover.stepped(mover.trains[0])
    at_nodes = np.add.outer([0, 12, 21], [0, 4.3, 8.6]).ravel()  # stands with each axle exactly there as well
    assert t == pytest.approx(np.union1d(1.37 * np.arange(23), at_nodes)) and t[-2] <= 21 + 8.6 < t[-1]
    assert coarse[2] == pytest.approx(exact[2], rel=1e-9)  # an axle beside a support makes the worst shear
    best = max(forces_under(columns, 0, x, np.eye(count))[:, 4].max()
               for columns, count in swept(None, solution, 0) for x in np.linspace(0, 12, 481))  # fmt: skip
    assert best <= coarse[4, 1] * (1 + 1e-9) and best == pytest.approx(coarse[4, 1], rel=0.02)
    assert coarse[4, 1] < exact[4, 1]


def turned(angle, slope, units, traffic):
    """Two beams side by side on columns, turned in plan and rising along the beams; traffic goes between them."""
    c, s = np.cos(angle), np.sin(angle)
    size = {"kN m": 1.0, "kip ft": 1 / FT}[units]

    def node(x, y, z):
        return [round(float(v) * size, 9) for v in (c * x - s * y, s * x + c * y, z)]

    at = {f"{a}{k}{level}": node(x, y, 0.0 if level == "b" else 4 + slope * x)
          for a, x in (("A", 0), ("B", 6), ("C", 13)) for k, y in ((1, 0), (2, 2.4)) for level in "bt"}  # fmt: skip
    nodes = "\n".join(f"{n} = {v}" for n, v in at.items())
    runs = {"beams": [(f"{a}{k}t", f"{b}{k}t") for k in "12" for a, b in ("AB", "BC")],
            "cross": [(f"{a}1t", f"{a}2t") for a in "ABC"], "columns": [(f"{a}{k}b", f"{a}{k}t") for a in "ABC" for k in "12"]}  # fmt: skip
    round_ = "CHS 219.1x8"  # so that columns are the same from every side
    members = "".join(
        f'[members.{family}]\nsection = "{round_ if family == "columns" else "HEB 300"}"\nmaterial = "S355"\npieces = {{ '
        + ", ".join(f'{a}-{b} = "{a} > {b}"' for a, b in pairs) + " }\n" for family, pairs in runs.items()
    )  # fmt: skip
    line = f"[{at['A1t']}, {at['C1t']}]"
    return f"""
[project]
units = "{units}"
[nodes]
{nodes}
{members}
[[supports]]
at = "*b"
fix = "fixed"
[vehicles.v]
axles = [["0 m", "30 kN"], ["1.7 m", "80 kN"]]
gauge = "1.1 m"
along = 0.2
across = 0.1
height = "0.9 m"
[traffic.T]
vehicle = "v"
way = {line}
aside = "1.2 m"
heading = "both"
{traffic}
"""


WORDS = {"back", "braking", "starting", "left", "right"}


@pytest.mark.parametrize("slope", [0.0, 0.11])
def test_turned_by_33_degrees_sloping_and_in_feet(slope, tmp_path):
    """Forces of members, and what supports get upwards, are the same however the frame stands and in which units."""
    found = []
    for k, (angle, units) in enumerate([(0.0, "kN m"), (np.radians(33), "kN m"), (np.radians(213), "kip ft")]):
        (tmp_path / str(k)).mkdir()
        s = study(turned(angle, slope, units, ""), tmp_path / str(k))
        assert s.sound, [str(f) for f in s.findings]
        solution, results = case(s)
        top = extremes(solution, results, np.arange(4)).forces[:, np.arange(6), :, np.arange(6)].transpose(1, 0, 2)
        table = reaction_envelope(solution, results, of=("Fz",))
        found.append((top, table["Fz"], [set(c.split(".")) & WORDS for c in table["case"]]))
    for top, up, words in found[1:]:
        assert top == pytest.approx(found[0][0], rel=1e-6, abs=1e-7 * np.abs(top).max())
        assert up == pytest.approx(found[0][1], rel=1e-6, abs=1e-6) and words == found[0][2]
    # Each pair of columns gets at most what hand statics of the two wheels of an axle between the beams give.
    assert found[0][1].max() < 110e3


def test_two_way_decks_need_a_step_and_too_many_ranges_are_refused():
    text = yard('way = [[1, 0.5, 4], [11, 4.0, 4]]\nsurface = "floor"', deck="two-way").replace(
        'bearing = "beams"\n', ""
    )
    (found,) = [f for f in findings(text) if f.level == "error"]
    assert found.code == "not-exact" and "step" in found.remedy and "two-way" in found.message
    assert not [
        f for f in findings(text.replace('surface = "floor"', 'surface = "floor"\nstep = 0.2')) if f.level == "error"
    ]
    many = ", ".join('["1 m .. 9 m", "1 kN"]' for _ in range(5))
    exact = beam([20.0], ONE.replace('[[0, "1 kN"]]', f'[[0, "1 kN"], {many}]'))
    assert not [f for f in findings(exact) if f.level == "error"]
    (found,) = [f for f in findings(exact.replace('way = "b"', 'way = "b"\nstep = 0.2')) if f.level == "error"]
    assert found.code == "too-many" and found.remedy


@pytest.mark.parametrize("heading", ["", 'heading = "forward"\n', 'heading = "both"\n'])
def test_the_other_heading_is_told_where_it_is_worse(heading, tmp_path):
    """At the far support of 10 m: forward 110 (1 + 8.7/10) with the front axle off, the other way round 40 x 5.1/10 more."""
    text = '[vehicles.v]\naxles = [[0, "FRONT kN"], [3.6, "110 kN"], [1.3, "110 kN"]]\n[traffic.T]\nvehicle = "v"\nway = "b"\n'
    found = one_way_travel(case(study(beam([10.0], text.replace("FRONT", "40") + heading), tmp_path))[0])
    assert [f.code for f in found] == ["one-way-travel"] * (not heading)
    for f in found:
        assert "Fz of the support B is 226.1 instead of 205.7 kN" in f.message
    alike = text.replace("FRONT", "110").replace("3.6", "1.3") + heading
    assert one_way_travel(case(study(beam([10.0], alike), tmp_path))[0]) == []


def test_an_animation_stands_at_the_written_steps(tmp_path):
    """All of them, the whole way; of more than there are frames so many; without a step evenly."""
    text = '[vehicles.v]\naxles = [[0, 40], ["2 m", 60]]\n[traffic.T]\nvehicle = "v"\nway = "b"\n'
    (mover,) = study(beam([7.0], text + 'step = "1.37 m"\n'), tmp_path).movers.values()
    at = [s.spots[0].t for s in journey_of(mover, 48)]
    assert at == list(mover.stepped(mover.trains[0])) and {round(1.37 * k, 9) for k in range(1, 6)} <= {
        round(t, 9) for t in at
    }
    few = [s.spots[0].t for s in journey_of(mover, 5)]
    assert len(few) == 5 and set(few) <= set(at) and (few[0], few[-1]) == (at[0], at[-1])
    (mover,) = study(beam([7.0], text), tmp_path).movers.values()
    assert np.diff([s.spots[0].t for s in journey_of(mover, 11)]) == pytest.approx(0.9)
