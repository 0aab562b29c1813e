"""What holds steel members, and what does not: by change of what stands there, by what codes ask for, by hand."""

import math
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from empuje.core.analysis.equations import build_equations
from empuje.core.steel.checked import check_members
from empuje.core.steel.lengths import lengths_of
from empuje.core.steel.lines import build_lines
from empuje.core.steel.restraints import Restraints
from models import reading, resolved, solution

HEAD = """
[project]
units = "kN m"
[cases]
G = {{ action = "dead" }}
[combinations.custom]
U = {{ formula = "1.0 G", set = "strength" }}
[steel]
code = "{code}"
[nodes]
{nodes}
"""


def model(nodes, families, supports, loads="", code="EN 1993-1-1", more=""):
    """A model of families (name, section, pieces, other keys) in S355."""
    text = HEAD.format(nodes="\n".join(f"{n} = {list(at)}" for n, at in nodes.items()), code=code)
    for name, section, pieces, keys in families:
        text += f'[members.{name}]\nsection = "{section}"\nmaterial = "S355"\n{keys}\n'
        text += "pieces = { " + ", ".join(f'{k} = "{v}"' for k, v in pieces.items()) + " }\n"
    for at, fix in supports:
        text += f'[[supports]]\nat = "{at}"\n{fix}\n'
    return text + f"[loads]\nG = [ {loads} ]\n" + more


def stretches(text, family):
    """Lengths about y, z and lateral ones of a family's members, each once."""
    project = resolved(text).project
    lines = build_lines(project)
    held = Restraints(project, lines, lambda: build_equations(project))
    members = [i for i, m in enumerate(project.members) if m.family == family]
    found = lengths_of(project, lines, held, project.steel, np.array(members))
    return [sorted({round(float(v), 6) for v in getattr(found, k)}) for k in ("L_y", "L_z", "L_LT")]


POLE = {"A": (0, 0, 0), "M": (0, 0, 2.5), "T": (0, 0, 6)}
AROUND = {"a": (0.4, 0, 6), "b": (0.4, 0, 2.5), "c": (-0.4, 0, 6), "d": (0, 0.4, 6)}


@pytest.mark.parametrize(
    ("pieces", "others"),
    [
        ({"p": "A > T"}, {}),
        ({"p": "A > M", "q": "M > T"}, {}),
        ({"p": "A > M", "q": "T > M"}, {}),
        ({"p": "A > T"}, {"s": "T > a"}),  # a stub
        ({"p": "A > T"}, {"s": "T > a", "t": "a > M"}),  # a bracket
        ({"p": "A > M", "q": "M > T"}, {"s": "c > T", "t": "T > a", "u": "T > d"}),  # crossarms
        ({"p": "A > T"}, {"s": "T > a", "t": "M > b", "u": "a > b"}),  # two arms and what hangs between them
    ],
)
def test_a_pole_stands_free_whatever_sits_on_it(pieces, others):
    """L_cr = 2 x 6 m, in one piece or two, with stubs, brackets, crossarms."""
    families = [("pole", "HEB 160", pieces, "")]
    families += [("arms", "IPE 100", others, "")] if others else []
    text = model({**POLE, **AROUND} if others else POLE, families, [("A", 'fix = "fixed"')])
    assert stretches(text, "pole")[:2] == [[12.0], [12.0]]


def test_a_guyed_pole_is_held_where_the_guys_are_and_a_soft_spring_holds_nothing():
    guys = {"g": (4, 0, 0), "h": (-2, 3.4, 0), "i": (-2, -3.4, 0)}
    pieces = {"g": "T > g", "h": "T > h", "i": "T > i"}
    families = [("pole", "HEB 160", {"p": "A > T"}, ""), ("guys", "SHS 60x60x5", pieces, "bar = true")]
    feet = [(n, 'fix = "pinned"') for n in guys]
    held = model({**POLE, **guys}, families, [("A", 'fix = "fixed"'), *feet])
    assert stretches(held, "pole")[:2] == [[6.0], [6.0]]
    for k, length in (("1 N/m", 12.0), ("1e9 N/m", 6.0)):
        spring = [("T", f'spring = {{ x = "{k}", y = "{k}" }}')]
        text = model(POLE, families[:1], [("A", 'fix = "fixed"'), *spring])
        assert stretches(text, "pole")[:2] == [[length], [length]]


TWINS = {"A": (0, 0, 0), "B": (8, 0, 0), "M": (4, 0, 0), "C": (0, 3, 0), "D": (8, 3, 0), "N": (4, 3, 0), "P": (4, 6, 0)}
FORK = 'fix = "x y z rx"'


def twins(struts, more_supports=(), keys='ends = "hinged"', section="SHS 80x80x5"):
    beams = [("beams", "IPE 300", {"p": "A > B", "q": "C > D"}, "")]
    held = [(n, FORK) for n in "ABCD"]
    return model(TWINS, [*beams, ("struts", section, struts, keys)], [*held, *more_supports])


def test_a_strut_to_a_twin_holds_nothing_one_to_the_ground_does():
    assert stretches(twins({"s": "M > N"}), "beams")[1:] == [[8.0], [8.0]]
    ground = {"s": "M > N", "t": "N > P"}
    assert stretches(twins(ground, [("P", 'fix = "pinned"')]), "beams")[1:] == [[4.0], [4.0]]
    # Braced in the plane of the beams by diagonals instead; free to slide along the strut; a strut that is a rod holds
    # sideways and not against twisting.
    assert stretches(twins({"s": "M > N", "d": "A > N", "e": "B > N"}), "beams")[1:] == [[4.0], [4.0]]
    assert stretches(twins(ground, [("P", 'fix = "x z"')]), "beams")[1:] == [[8.0], [8.0]]
    assert stretches(twins(ground, [("P", 'fix = "pinned"')], "bar = true"), "beams")[1:] == [[4.0], [8.0]]


def test_less_stiffness_never_gives_shorter_lengths():
    """A spring at the foot of the strut, from nothing to rigid: lengths fall at what the code asks for, once."""
    text = twins({"s": "M > N", "t": "N > P"}, [("P", 'fix = "x z"\nspring = { y = "K N/m" }')])
    grades = np.logspace(0, 11, 12)
    found = [max(stretches(text.replace("K N/m", f"{k:.6g} N/m"), "beams")[1]) for k in grades]
    assert all(a >= b for a, b in pairwise(found)) and (found[0], found[-1]) == (8.0, 4.0)
    # 8 P/(0.75 L), P = pi^2 E I_z/L^2 at 4 m, and for both beams at once.
    I_z, EA_strut = 604e-8, 210e9 * 1436e-6 / 3
    asked = 2 * 8 * min(math.pi**2 * 210e9 * I_z / 16, 5381e-6 * 355e6) / (0.75 * 4)
    turn = 1 / (1 / asked - 1.5 / EA_strut) if asked < EA_strut else math.inf
    first = next(k for k, length in zip(grades, found, strict=True) if length == 4.0)
    assert first / 10 < turn * 1.3 and first > asked / 2


def test_a_brace_is_asked_by_all_that_it_holds_whoever_is_checked():
    """Twins on one spring: checked both, one alone, the other not in [steel], nearly parallel: as stiff a spring."""
    supports = [*((n, FORK) for n in "ABCD"), ("P", 'fix = "x z"\nspring = { y = "K N/m" }')]
    struts = ("struts", "SHS 80x80x5", {"s": "M > N", "t": "N > P"}, 'ends = "hinged"')

    def held_from(others, asked="one|other", on="", nodes=TWINS):
        text = model(nodes, [("one", "IPE 300", {"p": "A > B"}, ""), *others, struts], supports)
        text = text.replace("[nodes]", f"{on}\n[nodes]")
        for k in np.geomspace(1e5, 1e8, 31):
            project = reading(text.replace("K N/m", f"{k:.6g} N/m")).project
            held = Restraints(project, build_lines(project), lambda p=project: build_equations(p))
            members = np.array([i for i, m in enumerate(project.members) if m.family in asked.split("|")])
            if lengths_of(project, held.lines, held, project.steel, members).L_z[0] == 4:
                return k
        return math.inf

    twin = [("other", "IPE 300", {"q": "C > D"}, "")]
    both = held_from(twin)
    assert held_from([]) < 0.6 * both < math.inf
    assert held_from(twin, "one") == both == held_from(twin, "one", 'on = "one"')
    skew = {**TWINS, "D": (8, 3.004, 0), "N": (4, 3.002, 0)}
    assert held_from(twin, nodes=skew) == both


@settings(max_examples=12, deadline=None)
@given(st.integers(0, 10**6), st.sampled_from(["EN 1993-1-1", "AISC 360-22"]))
def test_in_pieces_and_in_one(seed, code):
    """A beam over two spans of a floor, or a post, cut anywhere, its pieces laid either way: the same lengths, and every
    check the same at its worst."""
    rng = np.random.default_rng(seed)
    cuts = np.sort(rng.uniform(0.05, 0.95, rng.integers(1, 6)))
    upright = bool(rng.integers(2))
    way = (0, 0, 1) if upright else (math.cos(0.4), math.sin(0.4), 0)

    def at(s):
        return tuple(round(float(9 * s * c), 9) for c in way)

    section = str(rng.choice(["IPE 300", "HEB 180", "SHS 150x150x6.3"]))
    across = "+x" if upright else "down"
    loads = f'{{ on = "b", line = {rng.uniform(2, 12):.3f}, dir = "{across}" }}'
    loads += f', {{ on = "e1", force = {rng.uniform(-150, -10):.2f}, dir = "+{"z" if upright else "x"}" }}'
    ends = [
        ("e0", 'fix = "x y z rz"' if upright else 'fix = "x y z rx"'),
        ("e1", 'fix = "x y"' if upright else 'fix = "y z rx"'),
    ]
    found = []
    for k in ([], cuts):
        names = ["e0", *(f"n{i}" for i in range(len(k))), "e1"]
        nodes = dict(zip(names, [at(0), *(at(c) for c in k), at(1)], strict=True))
        pieces = {}
        for i, (a, b) in enumerate(pairwise(names)):
            pieces[f"p{i}"] = f"{b} > {a}" if len(k) and rng.integers(2) else f"{a} > {b}"
        text = model(nodes, [("b", section, pieces, "")], ends, loads, code)
        s = solution(text)
        results = [r for r in s.results if r.name == "U"]
        checked = check_members(s, results, s.project.steel, np.arange(len(s.project.members)))
        found.append((stretches(text, "b"), checked.use.max(axis=0)))
    assert found[0][0] == found[1][0]
    np.testing.assert_allclose(found[0][1], found[1][1], rtol=1e-4, atol=3e-6)


def test_the_bars_of_a_chord_are_one_out_of_the_plane():
    """Nine bays of 2 m in a plane truss: 2 m in the plane, 18 m out of it; stated, what is stated."""
    n = 9
    nodes = {f"b{i}": (2 * i, 0) for i in range(n + 1)} | {f"t{i}": (2 * i + 1, 1.5) for i in range(n)}
    bars = {f"c{i}": f"b{i} > b{i + 1}" for i in range(n)}
    webs = {f"d{i}": f"b{i} > t{i}" for i in range(n)} | {f"e{i}": f"t{i} > b{i + 1}" for i in range(n)}
    webs |= {f"f{i}": f"t{i} > t{i + 1}" for i in range(n - 1)}
    families = [("chord", "SHS 100x100x5", bars, "bar = true"), ("webs", "SHS 60x60x5", webs, "bar = true")]
    text = model(nodes, families, [("b0", 'fix = "x z"'), (f"b{n}", 'fix = "z"')]).replace(
        'units = "kN m"', 'units = "kN m"\nspace = "plane"')  # fmt: skip
    assert stretches(text, "chord")[:2] == [[2.0], [18.0]]
    stated = text + '[[steel.lengths]]\non = "chord"\nbraced_at = ["0%", "100%"]\n'
    assert stretches(stated, "chord")[:2] == [[2.0], [2.0]]


def test_steps_of_a_haunch_count_as_the_rafter():
    """Sections that change along a straight rafter: each step has the length of the whole, its diagram as if even."""
    nodes = {"A": (0, 0, 0), "B": (0.5, 0, 0), "C": (1, 0, 0), "D": (10, 0, 0)}
    steps = [
        ("one", "IPE 500", {"p": "A > B"}, ""),
        ("two", "IPE 400", {"p": "B > C"}, ""),
        ("rest", "IPE 300", {"p": "C > D"}, ""),
    ]
    load = '{ on = "*/*", line = 5 }'
    text = model(nodes, steps, [("A", 'fix = "fixed"'), ("D", 'fix = "y z rx"')], load)
    for family in ("one", "two", "rest"):
        assert stretches(text, family) == [[10.0], [10.0], [10.0]]
    s = solution(text)
    found = check_members(s, [r for r in s.results if r.name == "U"], s.project.steel, np.arange(3))
    assert found.lengths.even.all() and (found.use[:, found.checks.index("lateral")] > 0.05).all()


def test_columns_of_several_storeys_are_held_by_rigid_beams_and_beams_by_their_columns():
    nodes = {
        f"{c}{k}": (6 * i, 5 * j, 3.5 * k)
        for c, i, j in (("a", 0, 0), ("b", 1, 0), ("c", 0, 1), ("d", 1, 1))
        for k in range(3)
    }
    posts = {f"{c}{k}": f"{c}{k} > {c}{k + 1}" for c in "abcd" for k in range(2)}
    beams = {f"{x}{y}{k}": f"{x}{k} > {y}{k}" for x, y in ("ab", "cd", "ac", "bd") for k in (1, 2)}
    feet = [(f"{c}0", 'fix = "fixed"') for c in "abcd"]
    rigid = model(nodes, [("posts", "HEB 200", posts, ""), ("beams", "IPE 300", beams, "")], feet)
    assert stretches(rigid, "posts")[:2] == [[3.5], [3.5]] and stretches(rigid, "beams")[1] == [5.0, 6.0]
    # Hinged beams lead to other posts only: nothing holds these at mid height.
    hinged = rigid.replace("[members.beams]", '[members.beams]\nends = "hinged"')
    assert stretches(hinged, "posts")[:2] == [[7.0], [7.0]]


def test_each_stretch_has_its_own_moments():
    """A cantilevered end moment runs off linearly over stretches of 2 and 6 m. AISC: C_b and the largest moment of each
    stretch by hand; the whole member's moment with the other stretch's C_b would be another number."""
    nodes = {"A": (0, 0, 0), "B": (8, 0, 0)}
    load = '{ on = "b", moment = 60, dir = "+y", at = "0%" }'
    text = model(nodes, [("b", "IPE 300", {"p": "A > B"}, "")], [("A", FORK), ("B", 'fix = "y z rx"')], load, "AISC 360-22",
                 '[[steel.lengths]]\non = "b"\nbraced_at = "2 m"\n')  # fmt: skip
    s = solution(text)
    found = check_members(s, [r for r in s.results if r.name == "U"], s.project.steel, np.array([0]))
    flexure = found.use[0, found.checks.index("flexure")]
    E, Iz, Iw, J, S, Z, h, tf = 210e9, 604e-8, 126e-9, 20.1e-8, 557e-6, 628e-6, 0.3, 0.0107
    r_y, r_ts = math.sqrt(Iz / 53.8e-4), math.sqrt(math.sqrt(Iz * Iw) / S)
    L_p = 1.76 * r_y * math.sqrt(E / 355e6)
    Jc = J / (S * (h - tf))
    low = 0.7 * 355e6 / E
    L_r = 1.95 * r_ts / low * math.sqrt(Jc + math.sqrt(Jc**2 + 6.76 * low**2))
    by_hand = []
    for L, M in ((2.0, (60, 45)), (6.0, (45, 0))):
        a, b, c = (M[0] + (M[1] - M[0]) * k for k in (0.25, 0.5, 0.75))
        C_b = 12.5 * M[0] / (2.5 * M[0] + 3 * a + 4 * b + 3 * c)
        M_p = 355e6 * Z
        if L_r >= L:
            M_n = C_b * (M_p - (M_p - 0.7 * 355e6 * S) * (L - L_p) / (L_r - L_p))
        else:
            far = L / r_ts
            M_n = C_b * math.pi**2 * E / far**2 * math.sqrt(1 + 0.078 * Jc * far**2) * S
        by_hand.append(M[0] * 1e3 / (0.9 * min(M_n, M_p)))
    assert flexure == pytest.approx(max(by_hand), rel=0.01)


OPTIONS = ['flange = "top"', 'flange = "bottom"', 'L_LT = "1.5 m"', "k_y = 0.7", 'braced_at = "40%"', "", ""]
SECTIONS = ["IPE 400", "HEB 200", "UPE 220", "L 100x100x10", "WT7x34", "SHS 120x120x5", "CHS 139.7x5", "welded", "box"]


@settings(max_examples=14, deadline=None)
@given(st.integers(0, 10**6), st.sampled_from(["EN 1993-1-1", 'EN 1993-1-1"\nlateral = "rolled', "AISC 360-22"]))
def test_no_member_knows_its_neighbours(seed, code):
    """Random members with random options, all checked together and one by one."""
    rng = np.random.default_rng(seed)
    nodes, families, supports, loads, more = {}, [], [], [], ""
    kind = rng.choice(SECTIONS, 3)
    own = '[sections]\nwelded = { shape = "I", h = "500 mm", b = "200 mm", tw = "8 mm", tf = "12 mm" }\n'
    own += 'box = { shape = "box", h = "300 mm", b = "200 mm", tw = "6 mm", tf = "8 mm" }\n'
    for i in range(8):
        nodes |= {f"s{i}": (0, 3 * i, 0), f"e{i}": (round(float(rng.uniform(3, 9)), 3), 3 * i, 0)}
        families.append((f"m{i}", str(rng.choice(kind)), {"p": f"s{i} > e{i}"}, ""))
        supports += [(f"s{i}", FORK), (f"e{i}", 'fix = "y z rx"')]
        loads.append(f'{{ on = "m{i}", line = {rng.uniform(-9, 15):.2f} }}')
        loads.append(f'{{ on = "e{i}", force = {rng.uniform(-120, 90):.2f}, dir = "+x" }}')
        loads.append(f'{{ on = "m{i}", moment = {rng.uniform(-4, 4):.2f}, dir = "+x", at = "30%" }}')
        loads.append(f'{{ on = "m{i}", line = {rng.uniform(-1, 1):.2f}, dir = "+y" }}')
        option = str(rng.choice(OPTIONS))
        more += f'[[steel.lengths]]\non = "m{i}"\n{option}\n' if option else ""
    s = solution(model(nodes, families, supports, ", ".join(loads), code, own + more))
    results = [r for r in s.results if r.name == "U" or r.is_case]
    together = check_members(s, results, s.project.steel, np.arange(8))
    for i in range(8):
        alone = check_members(s, results, s.project.steel, np.array([i]))
        np.testing.assert_allclose(alone.use[0], together.use[i], rtol=1e-9, atol=1e-12)
        assert (alone.partly[0], alone.lost[0]) == (together.partly[i], together.lost[i])


@pytest.mark.parametrize("code", ["EN 1993-1-1", "AISC 360-22"])
def test_members_in_steps_know_no_neighbours_either(code):
    """A line of two sections with a held flange: alone, and beside one whose stretches about y and z differ."""
    nodes, families, supports, loads, more = {}, [], [], [], ""
    for i, option in enumerate(('flange = "top"', 'braced_at = ["0%", "50%", "100%"]')):
        nodes |= {f"s{i}": (0, 3 * i, 0), f"m{i}": (3, 3 * i, 0), f"e{i}": (9, 3 * i, 0), f"o{i}": (12, 3 * i, 0)}
        first, then = {"p": f"s{i} > m{i}"}, {"p": f"m{i} > e{i}", "q": f"e{i} > o{i}"}
        families += [(f"a{i}", "IPE 450", first, ""), (f"b{i}", "IPE 300", then, "")]
        supports += [(f"s{i}", FORK), (f"e{i}", 'fix = "y z rx"')]
        loads += [f'{{ on = "a{i}", line = 14 }}', f'{{ on = "b{i}", line = 14 }}']
        more += f'[[steel.lengths]]\non = ["a{i}", "b{i}"]\n{option}\n'
    s = solution(model(nodes, families, supports, ", ".join(loads), code, more))
    results = [r for r in s.results if r.name == "U"]
    n = len(s.project.members)
    together = check_members(s, results, s.project.steel, np.arange(n))
    assert together.lengths.even.any()
    for i in range(n):
        alone = check_members(s, results, s.project.steel, np.array([i]))
        np.testing.assert_allclose(alone.use[0], together.use[i], rtol=1e-9, atol=1e-12)


def test_a_slab_holds_columns_in_its_plane_where_it_stands_without_them():
    """Corner columns below a slab go to it; a mast's own plate holds nothing, nor does one that only bends."""
    nodes = {
        f"{n}{k}": (x, y, z)
        for k, (x, y) in enumerate(((0, 0), (6, 0), (6, 5), (0, 5)))
        for n, z in (("B", 0), ("T", 4))
    }
    columns = [("c", "HEB 160", {f"p{k}": f"B{k} > T{k}" for k in range(4)}, "")]
    slab = """[surfaces.slab]
corners = ["T0", "T1", "T2", "T3"]
material = "C30/37"
thickness = 0.2
mesh = 1.0
"""
    text = model(nodes, columns, [("B*", 'fix = "pinned"')], more=slab)
    assert stretches(text, "c") == [[4.0], [4.0], [4.0]]
    assert stretches(text.replace("thickness", 'acts = "bending"\nthickness'), "c")[:2] == [[8.0], [8.0]]
    mast = {"B": (0, 0, 0), "T": (0, 0, 4)}
    plate = slab.replace('["T0", "T1", "T2", "T3"]', "[[-1, -1, 4], [1, -1, 4], [1, 1, 4], [-1, 1, 4]]")
    text = model(mast, [("c", "HEB 160", {"p": "B > T"}, "")], [("B", 'fix = "fixed"')], more=plate)
    assert stretches(text, "c")[:2] == [[8.0], [8.0]]
    held = '[[supports]]\nalong = "slab/1"\nfix = "x y z"\n'
    assert stretches(text + held, "c")[:2] == [[4.0], [4.0]]
    through = {"B": (0, 0, 0), "M": (0, 0, 4), "T": (0, 0, 7)}
    text = model(through, [("c", "HEB 160", {"p": "B > T"}, "")], [("B", 'fix = "fixed"')], more=plate + held)
    assert stretches(text, "c")[0] == [4.0, 6.0]
