"""Several buildings on one site: each loop of walls with its roofs is met by itself, whatever stands beside it."""

from __future__ import annotations

import math
import random
from itertools import pairwise

import numpy as np
import pytest
import shapely

from empuje.core.actions.totals import applied_totals
from empuje.core.answers.wind_sums import wind_sums
from models import reading, resolved
from winds import SITE, hall, halls, pieces

SOUTH, NORTH = (
    {"at": (0, 0), "length": 30, "width": 20},
    {"at": (5, 80), "length": 18, "width": 12, "eave": 4, "ridge": 4},
)


def totals(model):
    """Forces and moments about the origin by case (cases, 6)."""
    sums = applied_totals(model.project, model.wind.loads, np.zeros(3), len(model.project.cases))
    return {name: sums[:, i] for i, name in enumerate(model.project.case_names)}


def zones(model, case, suffix=""):
    """What is on a building's surfaces: (surface, zone, area, C, net pressure), sorted; `suffix` of their names, left out."""
    out = []
    for p in pieces(model.wind, case):
        name = model.project.surfaces[p.zone.surface].name
        if name.endswith(suffix) and (suffix or len(name) == 6):
            out.append((name[:6], p.zone.stretch.name, p.zone.area, p.C, p.net))
    return sorted((*row[:2], *(round(float(v), 7) for v in row[2:])) for row in out)


def told(text, code="wind-plan"):
    return [f.message for f in reading(text).findings if f.code == code and f.level in ("warning", "error")]


@pytest.mark.parametrize("seed", range(40))
def test_a_building_is_met_as_if_it_stood_alone(seed):
    """One to three halls anywhere at any angle, with the wind square to the first: the sums of a site are those of its
    halls alone, so is every zone; members receive pressure times area; the order of surfaces changes nothing."""
    rng = random.Random(seed)
    site, angle = rng.choice(list(SITE)), rng.choice([0.0, rng.uniform(0, 360)])
    each = []
    for k in range(rng.randint(1, 3)):
        b, eave = rng.uniform(8, 30), rng.uniform(3, 9)
        slope = math.radians(rng.choice([0.0, 7.0, 18.0, 35.0]))
        each.append({
            "length": rng.uniform(10, 40), "width": b, "eave": eave, "ridge": eave + math.tan(slope) * b / 2,
            "at": (rng.uniform(-5, 5) + 50 * k, rng.uniform(-30, 30)), "over": rng.choice([0.0, 1.2]),
        })  # fmt: skip
    kept = rng.choice(['["1ap", "2*bn*"]', '["1bp", "4*an*"]']) if site != "EN" else '["ap", "bn"]'
    wind = f"ground = 0\nvariants = {kept}"
    model = resolved(halls(site, each, angle, wind, order=lambda s: rng.sample(s, len(s))))
    assert len(model.wind.buildings) == len(each)
    found, alone = totals(model), [resolved(halls(site, [own], angle, wind)) for own in each]
    for name in (c.name for c in model.wind.rule.cases):
        parts = sum(totals(one)[name] for one in alone)
        size = np.abs(parts[:3]).max()
        assert found[name][:3] == pytest.approx(parts[:3], abs=1e-9 * size)
        assert found[name][3:] == pytest.approx(parts[3:], abs=1e-7 * size * 100)
        put = sum(p.force * np.array(p.way) for p in pieces(model.wind, name))
        assert found[name][:3] == pytest.approx(put, abs=1e-8 * size)
        if model.wind.rule.cases[0].twist == 0 and not name[2:].startswith(("2", "4")):
            for k, one in enumerate(alone):
                assert zones(model, name, " bcd"[k].strip()) == zones(one, name)


def test_hand_figures_of_two_halls():
    """Two flat boxes 60 m apart by EN: the side wall of each begins with A; ASCE: the shear is the sum of both halls', by
    hand 0.85 (0.8 + C_l) q on each; load case 2 turns each by its own 0.15 B."""
    near = {"at": (0, 0), "length": 20, "width": 10, "eave": 5, "ridge": 5}
    far = {"at": (80, 0), "length": 10, "width": 20, "eave": 5, "ridge": 5}
    model = resolved(halls("EN", [near, far]))
    of_far = {z: C for _, z, _, C, _ in zones(model, "WXap", "b")}
    assert of_far["wall A"] == -1.2 and of_far["wall B"] == -0.8
    near, far = {**near, "eave": 4.5, "ridge": 4.5}, {**far, "eave": 4.5, "ridge": 4.5}
    model = resolved(halls("ASCE 7-16", [near, far], wind="GC_pi = 0"))
    # Below 15 ft in exposure B K_z = 0.575 (table 26.10-1: 2.01 (15/1200)^(2/7)), K_d = 0.85, K_e = 1.
    q = 0.613 * 2.01 * (15 / 1200) ** (2 / 7) * 0.85 * 50**2
    shear = sum(0.85 * q * (0.8 + lee) * 4.5 * B for B, lee in ((10, 0.3), (20, 0.5)))
    assert totals(model)["WX1a"][0] == pytest.approx(shear, rel=1e-9)
    apart = [resolved(halls("ASCE 7-16", [own], wind="GC_pi = 0")) for own in (near, far)]
    both = resolved(halls("ASCE 7-16", [near, far], wind="GC_pi = 0"))
    for one, b in zip(apart, (10.0, 20.0), strict=True):
        shift = totals(one)["WX2al"][5] - 0.75 * totals(one)["WX1a"][5]
        assert shift == pytest.approx(-0.15 * b * 0.75 * totals(one)["WX1a"][0], rel=1e-6)
    assert totals(both)["WX2al"][5] == pytest.approx(sum(totals(one)["WX2al"][5] for one in apart), rel=1e-9)


@pytest.mark.parametrize("site", ["ASCE 7-16", "ASCE 7-22"])
def test_torsion_of_a_lean_to(site):
    """Walls higher on one side, with q that grows over the height: the sum stays, and the walls' resultant moves by 0.15 B."""
    model = resolved(hall(site, 30, 20, 4, 9, north=14, wind='GC_pi = 0\nvariants = ["1a", "2a*"]'))
    sums = totals(model)
    walls = [p for p in pieces(model.wind, "WX1a") if p.zone.sways]
    F = sum(p.force * p.way[0] for p in walls)
    for case, sign in (("WX2al", -1), ("WX2ar", 1)):
        assert sums[case][:3] == pytest.approx(0.75 * sums["WX1a"][:3], rel=1e-9)
        assert sums[case][5] - 0.75 * sums["WX1a"][5] == pytest.approx(sign * 0.75 * F * 0.15 * 20, rel=1e-9)


def test_what_closes_a_loop_and_what_does_not():
    """Halls back to back share a wall's line and are one; 0.5 m apart they are two. A loop on a loop is part of it; walls
    and roofs in pieces change nothing; a roof over two loops makes them one, which is told."""

    def count(each, **more):
        return len(resolved(halls("ASCE 7-22", each, wind="ground = 0", **more)).wind.buildings)

    flat = {"length": 10, "width": 10, "eave": 4, "ridge": 4}
    assert count([flat, {**flat, "at": (10.5, 0)}]) == 2
    assert count([flat, {**flat, "at": (10.01, 0)}]) == 1
    link = '[surfaces.roof-link]\ncorners = [[0, 0, 4], [24, 0, 4], [24, 10, 4], [0, 10, 4]]\ncarry = "nodes"'
    text = halls("ASCE 7-22", [flat, {**flat, "at": (14, 0)}], more=link, exterior='["wall*", "roof-link"]')
    assert any("2 plans under one roof" in words for words in told(text))
    split = hall("ASCE 7-22", 30, 20).replace(
        '[surfaces.wall-s]\ncorners = ["s0", "s1", "s1t", "s0t"]',
        '[surfaces.wall-s2]\ncorners = [[12, 0, 0], "s1", "s1t", [12, 0, 6]]\ndeck = ["s0", "s1"]\n'
        '[surfaces.wall-s]\ncorners = ["s0", [12, 0, 0], [12, 0, 6], "s0t"]',
    ).replace("[members.frame.pieces]", "P1 = [12, 0, 0]\nP2 = [12, 0, 6]\n[members.frame.pieces]")  # fmt: skip
    split = split.replace("[members.frame]", "P1 = [12, 0, 0]\nP2 = [12, 0, 6]\n[members.frame]", 1)
    split = split.replace(
        "P1 = [12, 0, 0]\nP2 = [12, 0, 6]\n[members.frame.pieces]", "[members.frame.pieces]\nq = 'P1 > P2'"
    )
    split = split.replace('at = ["s0"', 'at = ["P1", "s0"')
    whole, parts = totals(resolved(hall("ASCE 7-22", 30, 20))), totals(resolved(split))
    for name, force in whole.items():
        assert parts[name] == pytest.approx(force, abs=1e-6 * np.abs(force).max()), name


def test_walls_inside_have_no_wind():
    """A partition caught by the selector, drawn either way, adds nothing and is told; named for a side it counts. Where a
    roof steps, the wall above the lower roof stays outside."""
    part = '[surfaces.wall-part]\ncorners = {}\ncarry = "nodes"'
    ring = ["[15, 0, 0]", "[15, 20, 0]", "[15, 20, 6]", "[15, 0, 6]"]
    nodes = {"p0": (15, 0, 0), "p1": (15, 20, 0), "p2": (15, 20, 6), "p3": (15, 0, 6)}
    members = 'q = "p0 > p3"\nqq = "p1 > p2"\nqr = "p2 > p3"'
    alone = totals(resolved(hall("ASCE 7-22")))

    def partitioned(corners, wind=""):
        text = hall("ASCE 7-22", wind=wind, more=part.format(f"[{', '.join(corners)}]"))
        text = text.replace(
            "[members.frame]", "".join(f"{k} = {list(v)}\n" for k, v in nodes.items()) + "[members.frame]"
        )
        text = text.replace("[members.frame.pieces]", f"[members.frame.pieces]\n{members}")
        return text.replace('at = ["s0"', 'at = ["p0", "p1", "s0"')

    for corners in (ring, ring[::-1]):
        text = partitioned(corners)
        (words,) = told(text, "wind-inner")
        assert "wall-part in `exterior` has the inside on both sides" in words
        assert all(v == pytest.approx(alone[k], abs=1e-9 * np.abs(v).max()) for k, v in totals(resolved(text)).items())
    meant = "[wind.directions.WX]\ntowards = 0\nleeward = 'wall-part'\n"
    text = partitioned(ring).replace('directions = { WX = "0.0 deg", WY = "90.0 deg" }', "") + "\n" + meant
    assert totals(resolved(text))["WX1ap"][0] > 1.2 * alone["WX1ap"][0]
    assert not [words for words in told(text, "wind-inner") if "both sides" in words]
    low = '[surfaces.wall-{}]\ncorners = {}\ncarry = "nodes"\n'
    annex = [[[30, 0], [42, 0]], [[42, 0], [42, 20]], [[42, 20], [30, 20]]]
    more = "".join(low.format(f"an{k}", [[*a, 0], [*b, 0], [*b, 3], [*a, 3]]) for k, (a, b) in enumerate(annex))
    more += '[surfaces.roof-an]\ncorners = [[30, 0, 3], [42, 0, 3], [42, 20, 3], [30, 20, 3]]\ncarry = "nodes"'
    found = reading(hall("ASCE 7-22", more=more)).findings
    assert any("wall-e is drawn down to 0 m, and the roof before it is at 3 m" in f.message for f in found)
    assert not [f for f in found if "inside on both" in f.message]


def test_what_is_stated_of_one_building():
    """`[wind.buildings]`: an enclosure of its own changes the inside of that one alone; surfaces named together are one."""
    own = '[wind.buildings.shed]\nexterior = "*b"\nenclosure = "partially enclosed"\n'
    plain = resolved(halls("ASCE 7-22", [SOUTH, NORTH]))
    model = resolved(halls("ASCE 7-22", [SOUTH, NORTH], more=own))
    assert [b.name for b in model.wind.buildings] == ["shed", "building 2"]
    assert [b.name for b in plain.wind.buildings] == ["building 1", "building 2"]
    inside = {m.seen.building.name: m.internal[0] for m in model.wind.blown[0].met}
    as_found = {m.seen.building.name: m.internal[0] for m in plain.wind.blown[0].met}
    assert inside["shed"] == pytest.approx(0.55 / 0.18 * as_found["building 2"], rel=1e-12)
    assert inside["building 2"] == as_found["building 1"]
    assert zones(model, "WX1ap") == zones(plain, "WX1ap") and zones(model, "WX1ap", "b") != zones(plain, "WX1ap", "b")
    wide = "[wind.directions.WX]\ntowards = 0\nB = 20\n"
    text = halls("ASCE 7-22", [SOUTH, NORTH]).replace('directions = { WX = "0.0 deg", WY = "90.0 deg" }', "")
    assert any("there are 2 buildings" in words for words in told(f"{text}\n{wide}"))
    open_ = resolved(halls("EN", [SOUTH, NORTH], wind="openings = { wall-s = 4, wall-sb = 2 }"))
    assert {c.inside for c in open_.wind.rule.cases} == {1}
    silent = told(halls("EN", [SOUTH, NORTH], wind="openings = { wall-s = 4 }"), "wind-shape")
    assert any("none of building 2" in words for words in silent)


@pytest.mark.parametrize(
    ("site", "of_all", "of_one", "stated"),
    [("ASCE 7-22", 'exposure = "C"', 'exposure = "B"\nK_d = 1.0', "K_d = 1.0"),
     ("EN", 'terrain = "III"', 'terrain = "I"\nc_dir = 0.9', "c_dir = 0.9"),
     ("ASCE 7-16", 'exposure = "B"', "K_zt = 1.4\nground = -2.0", "K_zt = 1.4\nground = -2.0")],
)  # fmt: skip
def test_a_site_by_direction(site, of_all, of_one, stated):
    """What is stated of one direction is as if all were of that site; the other directions keep theirs."""
    plain = hall(site, angle=25)
    own = f'[wind.directions]\nWX = "25 deg"\n[wind.directions.WY]\ntowards = "115 deg"\n{of_one}\n'
    mixed = plain.replace('directions = { WX = "25 deg", WY = "115 deg" }', "") + "\n" + own
    changed = plain.replace(of_all, f"{of_one.splitlines()[0] if '=' in of_one and of_one[:4] in of_all else of_all}")
    changed = changed.replace("exterior =", f"{stated}\nexterior =")
    one, other, both = (totals(resolved(text)) for text in (plain, changed, mixed))
    for name, force in both.items():
        if name.startswith("WXWY") or name.startswith("WYWX"):
            continue
        want = one if name.startswith("WX") else other
        assert force == pytest.approx(want[name], abs=1e-9 * np.abs(force).max()), name
        assert name.endswith("min") or np.abs(one[name] - other[name]).max() > 0.01 * np.abs(force).max()


def test_copies_of_a_building():
    """A hall copied has the wind of two where its surfaces are named by globs; where they are not, that is told, unless a
    `!` leaves them out; half a hall with its mirror image is the whole."""
    names = '["wall-s", "wall-n", "wall-w", "wall-e", "roof-s", "roof-n"{}]'
    copy = '[[copies]]\nname = "far"\nof = ["frame", "wall*", "roof*"]\nshift = [0, 50, 0]'
    one, two = (totals(resolved(hall("ASCE 7-22", more=more))) for more in ("", copy))
    assert all(two[k][:3] == pytest.approx(2 * v[:3], abs=1e-9 * np.abs(v).max()) for k, v in one.items())
    text = hall("ASCE 7-22", exterior=names.format(""), more=copy)
    (words,) = told(text, "wind-copies")
    assert "wall-s~far, wall-n~far, wall-w~far, wall-e~far and 2 more are copied" in words
    assert all(v == pytest.approx(one[k]) for k, v in totals(resolved(text)).items())
    for more in (', "*~*"', ', "!*~far"'):
        assert not told(hall("ASCE 7-22", exterior=names.format(more), more=copy), "wind-copies")
    pair = {"length": 15, "width": 20, "eave": 6, "ridge": 6}
    flip = '[[copies]]\nname = "m"\nof = ["frame", "wall*", "roof*"]\nmirror = {{ x = {} }}'
    own = '["wall-s*", "wall-n*", "wall-w*", "roof*"]'
    mirrored = totals(resolved(halls("ASCE 7-22", [pair], more=flip.format("15.0"), exterior=own)))
    whole = totals(resolved(halls("ASCE 7-22", [{**pair, "length": 30}])))
    for name, force in whole.items():
        assert mirrored[name] == pytest.approx(force, abs=1e-6 * np.abs(force).max()), name


@pytest.mark.parametrize(("site", "speed", "odd"), [("ASCE 7-22", "50 m/s", False), ("ASCE 7-22", "20 m/s", True),
                                                    ("ASCE 7-16", "115 m/s", True), ("EN", "25 m/s", False),
                                                    ("EN", "90 m/s", True)])  # fmt: skip
def test_speeds_that_cannot_be_are_told(site, speed, odd):
    text = hall(site).replace('"25 m/s"' if site == "EN" else '"50 m/s"', f'"{speed}"')
    assert bool(told(text, "odd-wind")) == odd


@pytest.mark.parametrize("site", [*SITE])
def test_sums_by_building_family_and_level(site):
    """Each of the three adds to the whole of every case; a level has half of what lies between it and the next: of the
    windward wall of a box 5 m high half goes to the ground."""
    text = halls(site, [{**SOUTH, "ridge": 6.0}, NORTH], wind="unclad = { frame = {} }")
    model = resolved(text)
    names = [c.name for c in model.wind.rule.cases]
    table = wind_sums(model.wind, model.project, names)
    whole = totals(model)
    for k, word in enumerate(("along", "across", "uplift")):
        for name in names:
            x, y = model.wind.blown[model.wind.rule.cases[names.index(name)].headings[0]].heading.vector
            want = (whole[name][0] * x + whole[name][1] * y, whole[name][1] * x - whole[name][0] * y, whole[name][2])[k]
            for by in ("building", "family", "level"):
                rows = (table["case"] == name) & (table["by"] == by)
                size = np.abs(whole[name][:3]).max()
                assert table[word][rows].sum() == pytest.approx(want, abs=1e-9 * size), (name, by, word)
    assert {"building 1", "building 2", "unclad members"} <= set(table["of"])
    box = resolved(halls("ASCE 7-16", [{"length": 10, "width": 10, "eave": 4.5, "ridge": 4.5}], wind="GC_pi = 0"))
    level = wind_sums(box.wind, box.project, ["WX1a"])
    shear = level["along"][level["by"] == "level"]
    assert len(shear) == 2 and shear[0] == pytest.approx(shear[1], rel=1e-9)


def test_one_direction_and_holes_are_told():
    found = told(hall("ASCE 7-22", directions={"WX": 0}), "one-wind")
    assert found == ["there is wind in one direction only, WX"]
    assert not told(hall("ASCE 7-22"), "one-wind")
    door = hall("ASCE 7-22").replace("[surfaces.wall-n]", "openings = [[[2, 0, 0], [5, 0, 0], [5, 0, 3], [2, 0, 3]]]\n"
                                     "[surfaces.wall-n]")  # fmt: skip
    (words,) = told(door, "wind-openings")
    assert "wall-s has holes of 9 m2" in words
    assert not told(door.replace("[wind]", "[wind]\nopenings = { wall-s = 9 }"), "wind-openings")


def test_equal_cases_are_combined_once():
    """EN: a flat roof has two alternatives for four (zone I alone has two values), along a ridge there is one; rules take
    each once, all stay as cases, and a load put in one by hand makes it its own."""
    rules = '[cases]\nG = { action = "dead", self_weight = 1.0 }\n[combinations]\nrules = ["EN 1990 6.10"]\n'
    flat, ridged = (hall("EN", 30, 20, 6, ridge, more=rules) for ridge in (6, 9))

    def taken(text):
        model = resolved(text)
        names = {case for c in model.combinations for case, _ in c.factors}
        every = [c.name for c in model.wind.rule.cases]
        return {h: [n for n in every if n.startswith(h) and n in names] for h in ("WX", "WY")}, len(every)

    assert taken(flat) == ({"WX": ["WXap", "WXan", "WXbp", "WXbn"], "WY": ["WYap", "WYan", "WYbp", "WYbn"]}, 16)
    assert taken(ridged)[0] == {"WX": ["WXap", "WXan"], "WY": [f"WY{r}{s}" for r in "abcd" for s in "pn"]}
    by_hand = ridged + '[loads]\nWXcp = [ { on = "s0t", force = "1 kN", dir = "+x" } ]\n'
    assert taken(by_hand)[0]["WX"] == ["WXap", "WXan", "WXcp"]
    for text in (flat, ridged):
        (note,) = [f for f in reading(text).findings if f.code == "wind-alike"]
        assert "combined once" in note.message
        assert not [f for f in reading(text).findings if f.code == "uncombined-case"]
    assert taken(hall("ASCE 7-22", 30, 20, 6, 9, more=rules))[0]["WX"] != []


def box_of(ring, h, roof, name="b"):
    """A building of walls round a ring of points, counter-clockwise, and level roofs; all carried by nodes on posts."""
    points = dict.fromkeys((round(x, 9), round(y, 9)) for x, y in [*ring, *(q for r in roof for q in r)])
    corners = {f"{name}{k}": p for k, p in enumerate(points)}
    nodes = [f"{k}{s} = {[*p, z]}" for k, p in corners.items() for s, z in (("", 0.0), ("t", h))]
    pieces = [f'p{k} = "{k} > {k}t"' for k in corners]
    walls = [
        f'[surfaces.wall-{name}{k}]\ncorners = [{[*a, 0.0]}, {[*b, 0.0]}, {[*b, h]}, {[*a, h]}]\ncarry = "nodes"'
        for k, (a, b) in enumerate(zip(ring, [*ring[1:], ring[0]], strict=True))
    ]
    roofs = [
        f'[surfaces.roof-{name}{k}]\ncorners = {[[*p, h] for p in r]}\ncarry = "nodes"' for k, r in enumerate(roof)
    ]
    return nodes, pieces, [f'"{k}"' for k in corners], [*walls, *roofs]


def site(code, parts, wind="", towards=("0 deg",)):
    """A model of such buildings."""
    nodes, pieces, feet, surfaces = ([x for p in parts for x in p[k]] for k in range(4))
    headings = ", ".join(f'W{k} = "{t}"' for k, t in enumerate(towards))
    return "\n".join([
        '[project]\nunits = "kN m"\n[nodes]', *dict.fromkeys(nodes), '[members.frame]\nsection = "HEB 200"\nmaterial = "S355"',
        "[members.frame.pieces]", *dict.fromkeys(pieces), f'[[supports]]\nat = [{", ".join(feet)}]\nfix = "fixed"', *surfaces,
        f'[wind]\n{SITE[code]}\nexterior = ["wall*", "roof*"]\ndirections = {{ {headings} }}\n{wind}',
    ])  # fmt: skip


def below(text, case):
    """The areas of soffits by what is on them."""
    out = {}
    model = resolved(text)
    for p in pieces(model.wind, case):
        if p.zone.stretch.name.startswith("below"):
            out[p.zone.stretch.name] = out.get(p.zone.stretch.name, 0.0) + p.zone.area
    return out


@pytest.mark.parametrize("angle", [0.0, 27.0])
def test_soffits_by_the_nearest_wall(angle):
    """A hall 20 by 10 m whose windward wall has a recess of 5 by 2 m, its roof reaching out 1.2 m: 12 + 10 m2 before windward
    walls, in one roof or two, turned or not; a recess deeper (8 m) than wide (3 m) has its depth beyond 3 m by the nearer
    walls; an eave over a side wall is by that wall, its corner by the windward wall."""
    c, s = math.cos(math.radians(angle)), math.sin(math.radians(angle))

    def turned(*points):
        return [(c * x - s * y, s * x + c * y) for x, y in points]

    ring = turned((0, 0), (20, 0), (20, 10), (0, 10), (0, 7), (2, 7), (2, 2), (0, 2))
    whole = turned((-1.2, 0), (20, 0), (20, 10), (-1.2, 10))
    halves = turned((-1.2, 0), (1, 0), (1, 10), (-1.2, 10)), turned((1, 0), (20, 0), (20, 10), (1, 10))
    for roofs in ([whole], halves):
        found = below(site("ASCE 7-22", [box_of(ring, 4, roofs)], towards=[f"{angle} deg"]), "W01ap")
        assert found == pytest.approx({"below the windward overhang": 22.0}, rel=1e-6)
        found = below(site("EN", [box_of(ring, 4, roofs)], towards=[f"{angle} deg"]), "W0ap")
        assert found == pytest.approx({"below the overhang, wall D": 22.0}, rel=1e-6)
        found = below(site("EN", [box_of(ring, 4, roofs)], towards=[f"{angle + 180} deg"]), "W0ap")
        # To leeward the sides of the recess, 18 to 20 m behind the edge, have what is nearer to them.
        want = {"below the overhang, wall E": 12 + 10 - 4, "below the overhang, wall C": 4}
        assert found == pytest.approx(want, rel=1e-6)
    deep = turned((0, 0), (20, 0), (20, 10), (0, 10), (0, 7), (8, 7), (8, 4), (0, 4))
    flush = turned((0, 0), (20, 0), (20, 10), (0, 10))
    found = below(site("ASCE 7-22", [box_of(deep, 4, [flush])], towards=[f"{angle} deg"]), "W01ap")
    # All of the 3 m before the inner wall; farther out the sides of the recess are nearer than that wall.
    assert found == pytest.approx({"below the windward overhang": 9.0}, rel=1e-6)
    plain = turned((0, 0), (20, 0), (20, 10), (0, 10))
    eave = turned((-1, 0), (20, 0), (20, 12), (-1, 12))
    found = below(site("ASCE 7-22", [box_of(plain, 4, [eave])], towards=[f"{angle} deg"]), "W01ap")
    assert found == pytest.approx({"below the windward overhang": 12.0}, rel=1e-6)
    found = below(site("EN", [box_of(plain, 4, [eave])], towards=[f"{angle} deg"]), "W0ap")
    # e = min(10, 8) = 8 m: A to 1.6 m, B to 8 m, C beyond, on the 2 m before the side wall.
    want = {"wall D": 12.0, "wall A": 2 * 1.6, "wall B": 2 * 6.4, "wall C": 2 * 12.0}
    assert found == pytest.approx({f"below the overhang, {k}": v for k, v in want.items()}, rel=1e-6)


PLANS = {
    "L": [(0, 0), (24, 0), (24, 10), (12, 10), (12, 22), (0, 22)],
    "T": [(0, 0), (10, 0), (10, 8), (18, 8), (18, 16), (-8, 16), (-8, 8), (0, 8)],
    "U": [(0, 0), (30, 0), (30, 20), (20, 20), (20, 8), (10, 8), (10, 20), (0, 20)],
}


@pytest.mark.parametrize("seed", [3, 18, 22, 53])
def test_any_plan_however_it_is_drawn(seed):
    """L, T and U plans below one roof that reaches out: with walls in pieces in any order, turned by any angle and rounded to
    the millimetre it is one building with the same forces."""
    rng = random.Random(seed)
    code, plan, h = rng.choice(list(SITE)), PLANS[rng.choice(list(PLANS))], rng.uniform(3, 12)
    eave = shapely.buffer(shapely.Polygon(plan), rng.choice([1.0, 2.5]), join_style="mitre")
    roof = shapely.get_coordinates(shapely.orient_polygons(eave).exterior)[:-1].tolist()
    angle, kept = rng.uniform(0, 360), '["1ap", "2bnl"]' if code != "EN" else '["ap", "bn"]'

    def drawn(turn, cuts=0, digits=None):
        c, s = math.cos(math.radians(turn)), math.sin(math.radians(turn))

        def put(points):
            out = [(c * x - s * y, s * x + c * y) for x, y in points]
            return out if digits is None else [(round(x, digits), round(y, digits)) for x, y in out]

        ring = []
        for (x, y), (u, v) in pairwise([*plan, plan[0]]):
            at = [0.0, *sorted(rng.uniform(0.1, 0.9) for _ in range(rng.randint(0, cuts)))]
            ring += [(x + t * (u - x), y + t * (v - y)) for t in at]
        parts = box_of(put(ring), h, [put(roof)])
        rng.shuffle(parts[3])
        model = resolved(site(code, [parts], f"variants = {kept}\nground = 0", [f"{turn} deg", f"{turn + 90} deg"]))
        assert len(model.wind.buildings) == 1
        back = np.array([[c, s, 0], [-s, c, 0], [0, 0, 1]])
        return {k: (back @ f[:3], f[5]) for k, f in totals(model).items()}

    first = drawn(0.0)
    for other, within in ((drawn(0.0, 2), 1e-6), (drawn(angle), 1e-6), (drawn(angle, 2, 3), 5e-3)):
        for name, (force, moment) in first.items():
            size = np.abs(force).max()
            assert other[name][0] == pytest.approx(force, abs=within * size), name
            assert other[name][1] == pytest.approx(moment, abs=within * size * 30), name
