"""Components and cladding: zones, areas and pressures by hand, and that nothing but components sees them."""

from __future__ import annotations

import math

import numpy as np
import pytest

from empuje.core.actions.wind.codes import en_tables, en_tables_1
from empuje.core.actions.wind.codes.asce_components import FLAT, WALLS, component_zones, edge_width, fallen
from empuje.core.answers.wind import components_table
from empuje.core.model.words import Set
from empuje.study.decisions import decisions
from empuje.study.study import Study
from empuje.study.verdicts import judged
from models import reading, resolved
from winds import SITE, hall

FOOT = 0.3048
RULES = '[cases]\nG = { action = "dead", self_weight = 1.0 }\n[combinations]\nrules = ["ASCE 7-22 strength", "ASCE 7-22 service"]\n'


def shed(site="ASCE 7-22", h=4.0, rise=0.0, entry="purlins = {}", wind="", more="", bays=4, exposure=None):
    """A shed 20 by 12 m of frames 5 m apart with purlins every 2 m, simple or through, and level rails at half height."""
    nodes, frame, purlins, rails, feet = [], [], [], [], []
    for i in range(bays + 1):
        x = 20.0 / bays * i
        for k in range(7):
            z = h + rise * (1 - abs(k - 3) / 3)
            nodes.append(f"r{i}{k} = [{x}, {2.0 * k}, {z}]")
            if k:
                frame.append(f'f{i}{k} = "r{i}{k - 1} > r{i}{k}"')
        for k in (0, 6):
            nodes += [f"b{i}{k} = [{x}, {2.0 * k}, 0]", f"m{i}{k} = [{x}, {2.0 * k}, {h / 2}]"]
            frame.append(f'c{i}{k} = "b{i}{k} > r{i}{k}"')
            feet.append(f'"b{i}{k}"')
    for k in range(7):
        purlins += [f'p{k}{i} = "r{i}{k} > r{i + 1}{k}"' for i in range(bays)]
    for k in (0, 6):
        rails += [f'g{k}{i} = "m{i}{k} > m{i + 1}{k}"' for i in range(bays)] + [
            f's{k}{i} = "b{i}{k} > b{i + 1}{k}"' for i in range(bays)
        ]  # fmt: skip
    n = bays
    top = [[f"r0{k}" for k in range(7)], [f"r{n}{k}" for k in range(7)]]
    ends = {"wall-w": ["b06", "b00", *top[0]], "wall-e": [f"b{n}0", f"b{n}6", *top[1][::-1]]}
    sides = {"wall-s": ["b00", f"b{n}0", f"r{n}0", "r00"], "wall-n": [f"b{n}6", "b06", "r06", f"r{n}6"]}
    roofs = {"roof-s": ["r00", f"r{n}0", f"r{n}3", "r03"], "roof-n": ["r03", f"r{n}3", f"r{n}6", "r06"]}
    text = ['[project]\nunits = "kN m"\n[nodes]', *nodes, '[members.frame]\nsection = "HEB 200"\nmaterial = "S355"']
    text += ["[members.frame.pieces]", *frame]
    for name, pieces in (("purlins", purlins), ("rails", rails)):
        text += [
            f'[members.{name}]\nsection = "IPE 160"\nmaterial = "S355"\nends = "hinged"\n[members.{name}.pieces]',
            *pieces,
        ]
    text.append(f'[[supports]]\nat = [{", ".join(feet)}]\nfix = "fixed"')
    for name, ring in {**ends, **sides, **roofs}.items():
        kind = 'carry = "nodes"' if name in ends else 'deck = "z"' if name in sides else 'deck = "y"'
        text.append(f"[surfaces.{name}]\ncorners = {ring}\n{kind}".replace("'", '"'))
    code = SITE[site] if exposure is None else SITE[site].replace('exposure = "C"', f'exposure = "{exposure}"')
    text.append(f'[wind]\n{code}\nexterior = ["wall*", "roof*"]\ndirections = {{ WX = "+x", WY = "+y" }}\n{wind}')
    return "\n".join([*text, f"[wind.components]\n{entry}", more])


def force(model, case, name):
    """The force [N] on a member in a case, along the outward normal of the surfaces it carries."""
    lines = model.wind.loads.lines
    m = [x.name for x in model.project.members].index(name)
    rows = lines.take((lines.member == m) & (lines.case == model.project.case_names.index(case)))
    return ((rows.s1 - rows.s0)[:, None] / 2 * (rows.q0 + rows.q1)).sum(axis=0)


def log_between(area, a, b, g, h):
    """Straight over the logarithm of the area in ft2, as the figures are drawn."""
    A = min(max(area / FOOT**2, a), b)
    return g + (h - g) * math.log(A / a) / math.log(b / a)


def test_purlins_by_asce():
    """h 4 m, flat: zones to 0.2 h = 0.8, 0.6 h = 2.4 and 1.2 h = 4.8 m. A purlin in the middle, 5 m by 2 m = 10 m2: in its
    end bay 2.4 m of zone 2, 2.4 m of zone 1, and then 1', of which 0.8 m by the next purlin is zone 1 still: 0.8^2/4 = 0.16 of
    1 m by the lever. The eaves' purlins carry 1 m, so that a third of the span, 5/3 m, counts."""
    model = resolved(shed(wind="GC_pi = 0"))
    q = float(model.wind.profile.one(4.0)) * 0.85
    two, one, inner = (
        log_between(10, *c) for c in ((10, 500, -2.3, -1.4), (10, 500, -1.7, -1.0), (100, 1000, -0.9, -0.4))
    )
    deep = 0.16 * one + 0.84 * inner
    want = -q * 2 * (2.4 * two + 2.4 * one + 0.2 * deep)
    assert force(model, "CWn", "purlins/p30")[2] == pytest.approx(want, rel=1e-4)
    assert force(model, "CWn", "purlins/p31")[2] == pytest.approx(-q * 2 * 5 * deep, rel=1e-4)
    up = log_between(10, 10, 100, 0.3, 0.2)
    assert force(model, "CWp", "purlins/p31")[2] == pytest.approx(-max(770.0, q * up) * 10, rel=1e-4)
    table = components_table(model.wind, ["CWn"])
    edge = table["area"][(table["member"] == "purlins/p01") & (table["zone"] == "roof 2")]
    assert edge == pytest.approx([5 * 5 / 3], rel=1e-9)
    corner = table["C"][(table["member"] == "purlins/p00") & (table["zone"] == "roof 3")]
    assert corner == pytest.approx([log_between(25 / 3, 10, 500, -3.2, -1.4)], abs=1e-4)
    inside = resolved(shed())
    assert force(inside, "CWn", "purlins/p31")[2] == pytest.approx(-q * 2 * 5 * (deep - 0.18), rel=1e-4)
    low = resolved(shed(exposure="B", wind="GC_pi = 0"))
    at = float(low.wind.profile.one(4.0)) * 0.85 * 0.70 / float(low.wind.profile.columns(np.array([4.0]))["K_z"][0])
    assert force(low, "CWn", "purlins/p31")[2] == pytest.approx(-at * 2 * 5 * deep, rel=1e-4)


def test_zones_cover_faces_once_and_turn_with_the_building():
    """Zones 4 and 5 of walls, 1' to 3 of a flat roof: no overlap, nothing left out; corners 0.6 h along, 0.2 h wide."""
    building = resolved(shed()).wind.buildings[0]
    zones, unknown = component_zones(building)
    assert not unknown and edge_width(building) == pytest.approx(1.2)  # 0.1 * 12 m, or 0.4 * 4
    for face in building.faces:
        own = [z.part for z in zones if z.face.surface == face.surface]
        assert sum(p.area for p in own) == pytest.approx(face.area, rel=1e-9)
    area = {n: sum(z.part.area for z in zones if z.name == n) for n in {z.name for z in zones}}
    assert area["roof 3"] == pytest.approx(4 * (2.4 * 2.4 - 1.6 * 1.6), rel=1e-9)
    assert area["roof 1'"] == pytest.approx((20 - 9.6) * (12 - 9.6), rel=1e-9)
    assert area["roof 1"] == pytest.approx((20 - 4.8) * (12 - 4.8) - (20 - 9.6) * (12 - 9.6), rel=1e-9)


def test_walls_by_asce():
    """Rails 5 m by 2 m: zone 4, and 5 within a of the corners; 10 % less below a flat roof."""
    model = resolved(shed(entry="rails = {}", wind="GC_pi = 0"))
    q = float(model.wind.profile.one(4.0)) * 0.85
    four, five = (0.9 * log_between(10, 10, 500, *v) for v in ((-1.1, -0.8), (-1.4, -0.8)))
    a = edge_width(model.wind.buildings[0])
    assert force(model, "CWn", "rails/g01")[1] == pytest.approx(q * 10 * four, rel=1e-4)
    assert force(model, "CWn", "rails/g00")[1] == pytest.approx(q * 2 * (a * five + (5 - a) * four), rel=1e-4)
    push = 0.9 * log_between(10, 10, 500, 1.0, 0.7)
    assert force(model, "CWp", "rails/g01")[1] == pytest.approx(max(q * push, 770) * 10, rel=1e-4)
    assert force(model, "CWp", "rails/g61")[1] == pytest.approx(-max(q * push, 770) * 10, rel=1e-4)


def test_figures_at_round_areas():
    """Both ends of every curve, a middle by the figure's own equation (zone 1: -2.112 + 0.412 log A), and never less for
    less area."""
    for name, (positive, negative) in {**WALLS, **FLAT}.items():
        for (a, b), (g, h) in (positive, negative):
            curve = ((a, b), (g, h))
            assert fallen(curve, a * FOOT**2) == g and fallen(curve, b * FOOT**2) == h and abs(g) >= abs(h), name
            assert fallen(curve, 1e-3) == g and fallen(curve, 1e3) == h
    assert fallen(FLAT["roof 1"][1], 100 * FOOT**2) == pytest.approx(-2.112 + 0.412 * 2, abs=1e-3)
    assert fallen(FLAT["roof 3"][1], 100 * FOOT**2) == pytest.approx(-4.2595 + 1.0595 * 2, abs=1e-3)
    assert fallen(FLAT["roof 2"][1], 100 * FOOT**2) == pytest.approx(-2.8297 + 0.5297 * 2, abs=1e-3)
    assert fallen(FLAT["roof 1'"][1], 300 * FOOT**2) == pytest.approx(-1.9 + 0.5 * math.log10(300), abs=1e-3)


def test_purlins_by_en():
    """Loaded areas of 10 m2 and of 5 m2 between c_pe,1 and c_pe,10: zone H of a flat roof -0.7, or -1.2 at 1 m2; a case of
    pushing and of pulling for each direction; a stated area."""
    model = resolved(shed("EN"))
    assert [c for c in model.project.case_names if c.startswith("C")] == ["CWXp", "CWXn", "CWYp", "CWYn"]
    table = components_table(model.wind, ["CWXn"])

    def C(member, zone):
        return float(table["C"][(table["member"] == member) & (table["zone"] == zone)][0])

    assert C("purlins/p31", "roof I") == -0.2 and C("purlins/p30", "roof H") == pytest.approx(-0.7)
    assert C("purlins/p00", "roof H") == pytest.approx(-1.2 + 0.5 * math.log10(5.0))
    q = float(model.wind.profile.one(4.0))
    # e = min(12, 8) = 8: G to 0.8 m, H to 4 m, I beyond.
    g, h, i = -1.2, -0.7, -0.2
    total = 2 * (0.8 * g + 3.2 * h + 1.0 * i - 5 * 0.2)
    assert force(model, "CWXn", "purlins/p30")[2] == pytest.approx(-q * total, rel=1e-6)
    assert force(model, "CWXp", "purlins/p31")[2] == pytest.approx(-q * 10 * (0.2 + 0.3), rel=1e-6)
    small = resolved(shed("EN", entry='purlins = { area = "0.5 m2" }'))
    assert force(small, "CWXn", "purlins/p30")[2] == pytest.approx(
        -q * 2 * (0.8 * -2.0 + 3.2 * -1.2 + 1.0 * i - 1), rel=1e-6
    )


def test_c_pe_1_is_never_less_than_c_pe_10():
    """Laid out alike, as large or larger in suction and pressure, and equal where the table has one value for both."""
    for name in ("WALLS", "FLAT", "MONO_UP", "MONO_DOWN", "MONO_ALONG", "DUO", "DUO_ALONG"):
        ten, one = getattr(en_tables, name), getattr(en_tables_1, name)
        assert list(ten) == list(one)
        for zone in ten:
            a, b = np.array(ten[zone]), np.array(one[zone])
            assert a.shape == b.shape and (np.abs(b) >= np.abs(a) - 1e-12).all() and (a * b >= 0).all(), (name, zone)


def test_steep_roofs_are_asked_for():
    steep = shed(rise=2.0)
    (fault,) = [f for f in reading(steep).findings if f.level == "error"]
    assert (
        fault.code == "wind-components"
        and "roofs up to 7 degrees" in fault.message
        and "purlins below roof-s" in fault.message
    )
    eaves = hall("ASCE 7-22", 30, 20, 6, 6.4, over=1.0, more='[wind.components]\n"frame/r*" = {}\n')
    assert any("below overhangs of roof-s, roof-n" in f.message for f in reading(eaves).findings)
    assert not any("overhangs" in f.message for f in reading(shed()).findings)
    rails = resolved(shed(rise=2.0, entry="rails = {}"))  # on walls: nothing is asked of the roof
    assert {r.zone for r in rails.wind.components} == {"wall 4", "wall 5"}
    stated = resolved(shed(rise=2.0, entry="purlins = { GC_p = [0.5, -2.0] }", wind="GC_pi = 0"))
    h = stated.wind.buildings[0].h
    q = float(stated.wind.profile.one(h)) * 0.85
    slope = math.hypot(2, 2 / 3) / 2
    assert force(stated, "CWn", "purlins/p21")[2] == pytest.approx(q * 2.0 * 10 * slope * (1 / slope), rel=1e-3)


def test_only_components_see_them(tmp_path):
    """Cases and sets of their own: `cases`, `combinations`, `strength` and no words at all leave them out; limits of frames
    and of reactions under them are errors; purlins that limits size without them are told."""
    limit = '[[limits]]\nname = "l"\ncheck = "stress"\non = "{}"\nnormal = "<= 355 MPa"\nunder = "{}"\n'
    path = tmp_path / "m.toml"

    def study(more, entry="purlins = {}"):
        path.write_text(shed(entry=entry, more=RULES + more), encoding="utf-8")
        return Study.read(path, cache=False)

    s = study(limit.format("purlins", "components"))
    for words in ([], ["cases"], ["combinations"], ["strength"], ["service"], ["*"], ["ASCE 7-22 strength"]):
        assert not any(r.of_components for r in s.under(words)), words
    own = s.under(["components"])
    assert own and not any(r.is_case for r in own) and all(r.of_components for r in own)
    assert {r.combination.set for r in own if r.combination} == {Set.COMPONENTS}
    factors = [dict(r.factors) for r in own if r.combination]
    assert {"G": 0.9, "CWn": 1.0} in factors and all({"CWp", "CWn"} & set(f) for f in factors)
    assert not any(name.startswith("W") for f in factors for name in f)
    assert {r.combination.set for r in s.under(["components service"])} == {Set.COMPONENTS_SERVICE}
    (taken,) = [d for d in decisions(s) if d.what == "area of components purlins"]
    assert taken.taken == "8.33 to 10 m2" and taken.key == "wind.components.purlins.area" and len(taken.about) == 28
    assert [f.code for f in s.findings if f.level == "error"] == [] and s.under(["CWn"])[0].name == "CWn"
    wrong = study(limit.format("frame", "components")).findings
    assert [f.code for f in wrong if f.level == "error"] == ["components-elsewhere"]
    feet = '[[limits]]\nname = "l"\ncheck = "reaction"\nat = "b*"\nuplift = "<= 9 kN"\nunder = "CWn"\n'
    assert [f.code for f in study(feet).findings if f.level == "error"] == ["components-elsewhere"]
    told = study(limit.format("purlins", "strength"), entry="rails = {}").findings
    (words,) = [f.message for f in told if f.code == "frame-pressures"]
    assert "purlins/p00" in words and not [f for f in s.findings if f.code == "frame-pressures"]


def test_steel_checks_components_by_itself(tmp_path):
    """[steel] holds purlins under strength and, as components, under their wind, whatever limits there are beside; stress
    under strength alone is told."""
    path = tmp_path / "m.toml"
    steel = '[steel]\ncode = "EN 1993-1-1"\non = ["purlins", "frame"]\n'
    own = '[[limits]]\nname = "own"\ncheck = "steel"\non = "{}"\nutilisation = "<= 0.8"\nunder = "{}"\n'

    def limits(more, entry="purlins = {}"):
        path.write_text(shed(entry=entry, more=RULES + more), encoding="utf-8")
        s = Study.read(path, cache=False)
        names = s.project.members
        return {x.name: (x.under, {names[m].family for m in x.on}) for x in s.project.limits}, s

    both = ("strength",), {"purlins", "frame"}
    found, s = limits(steel)
    assert found == {"steel members": both, "steel components": (("components",), {"purlins"})}
    assert not [f for f in s.findings if f.level == "error"]
    verdict = {o.limit.name: o for o in judged(s).outcomes}
    assert "CW" in verdict["steel components"].case and verdict["steel components"].case[0] == "U"
    assert [o.limit.name for o in judged(s).outcomes] == ["steel components", "steel members"]  # no answer is missing
    assert limits(steel + own.format("purlins", "components"))[0] == {
        "own": (("components",), {"purlins"}),
        "steel members": both,
    }
    found = limits(steel + own.format("purlins", "strength"))[0]
    assert found["steel members"] == (("strength",), {"frame"}) and found["steel components"][1] == {"purlins"}
    assert limits(steel, entry="rails = {}")[0] == {"steel members": both}
    stress = '[[limits]]\nname = "s"\ncheck = "stress"\non = "purlins"\nnormal = "<= 355 MPa"\nunder = "{}"\n'
    for words, told in (("strength", True), ("components", False)):
        codes = [f.code for f in limits(stress.format(words))[1].findings]
        assert ("components-unchecked" in codes) == told


def test_rooftop_equipment():
    """A chiller of 3 m2 across x and 5 m2 across y, 6 m2 in plan, on a shed 20 by 12 by 4 m: B h = 48 and 80 m2, so 1.9 up to
    4.8 m2 and straight to 1.0; uplift 1.5. A parapet plant of 40 m2: 1.0 at B h. Three quarters in load case 2, nothing in
    uplift with the upper values, 0.77 kN/m2 in the minimum; shared by two nodes."""
    chiller = '[wind.rooftop.chiller]\nat = ["r23", "r33"]\nA_f = {{ WX = {}, WY = 5 }}\nA_r = 6\n'
    unclad, with_it = resolved(shed(wind="GC_pi = 0")), resolved(shed(wind="GC_pi = 0", more=chiller.format(3)))
    q = float(with_it.wind.profile.one(4.0)) * 0.85

    def extra(model, case):
        rows = model.wind.loads.nodes, unclad.wind.loads.nodes
        k = model.project.case_names.index(case)
        sums = [r.f[r.case == k][:, :3].sum(axis=0) for r in rows]
        return sums[0] - sums[1]

    assert extra(with_it, "WX1a") == pytest.approx([q * 1.9 * 3, 0, q * 1.5 * 6], rel=1e-9, abs=1e-6)
    assert extra(with_it, "WX1b") == pytest.approx([q * 1.9 * 3, 0, 0], rel=1e-9, abs=1e-6)
    assert extra(with_it, "WY1a") == pytest.approx([0, q * 1.9 * 5, q * 1.5 * 6], rel=1e-9, abs=1e-6)
    assert extra(with_it, "WX2al")[0] == pytest.approx(0.75 * q * 1.9 * 3, rel=1e-9)
    assert extra(with_it, "WXWY3a")[:2] == pytest.approx([0.75 * q * 1.9 * 3, 0.75 * q * 1.9 * 5], rel=1e-9)
    assert extra(with_it, "WXmin") == pytest.approx([770 * 3, 0, 0], rel=1e-9, abs=1e-6)
    large = resolved(shed(wind="GC_pi = 0", more=chiller.format(48)))
    assert extra(large, "WX1a")[0] == pytest.approx(q * 1.0 * 48, rel=1e-9)
    half = resolved(shed(wind="GC_pi = 0", more=chiller.format(26.4)))
    assert extra(half, "WX1a")[0] == pytest.approx(q * 1.45 * 26.4, rel=1e-9)
    nodes = with_it.wind.loads.nodes
    assert {with_it.project.nodes[n].name for n in nodes.node[np.abs(nodes.f[:, 2]) > 0]} >= {"r23", "r33"}
    for more, words in (
        ("A_f = { WX = 3 }", "leaves out WY"),
        ("A_f = -1", "A_f = -1"),
        ("A_f = { WZ = 1 }", "no direction WZ"),
    ):
        text = shed(more=f'[wind.rooftop.u]\nat = "r23"\n{more}\n')
        assert any(words in f.message for f in reading(text).findings if f.level == "error"), more


def test_a_purlin_that_runs_through_goes_by_its_shortest_span():
    """Frames 5 m apart with a trimmer 2 m beside one, and a stub of 0.4 m: 2 m by 2 m."""
    text = shed(wind="GC_pi = 0")
    for i in range(4):
        text = text.replace(f'p3{i} = "r{i}3 > r{i + 1}3"\n', 'p3 = "r03 > r43"\n' if i == 0 else "")
    text = text.replace("[members.frame]", "T = [8.0, 6.0, 4.0]\nU = [8.0, 8.0, 4.0]\nS = [10.4, 6.0, 4.0]\nV = [10.4, 6.0, 3.0]\n"
                        "[members.frame]").replace("[members.frame.pieces]", '[members.frame.pieces]\nt = "T > U"\ns = "S > V"')  # fmt: skip
    model = resolved(text)
    rows = [r for r in model.wind.components if r.member == "purlins/p3" and r.case == "CWn"]
    assert rows and all(r.area == pytest.approx(2.0 * 2.0, rel=1e-9) for r in rows)
