"""Wind on plane frames: slices of a building, compared with that building in space and with hand figures."""

from __future__ import annotations

import math

import numpy as np
import pytest

from empuje.core.actions.totals import applied_totals
from models import reading, resolved
from winds import SITE, pieces


def frame(site, length=30.0, place=15.0, width=6.0, half=10.0, eave=6.0, ridge=9.0, wind="", over=0.0, more="", cut=""):
    """A portal across x, its columns at x = 0 and 2 half."""
    nodes = {"a": (0, 0), "A": (0, eave), "R": (half, ridge), "B": (2 * half, eave), "b": (2 * half, 0)}
    pieces_ = {"ca": "a > A", "ra": "A > R", "rb": "R > B", "cb": "b > B"}
    if over:
        fall = (ridge - eave) / half * over
        nodes |= {"P": (-over, eave - fall), "Q": (2 * half + over, eave - fall)}
        pieces_ |= {"oa": "P > A", "ob": "B > Q"}
    return "\n".join([
        '[project]\nunits = "kN m"\nspace = "plane"\n[nodes]', *(f"{k} = {list(v)}" for k, v in nodes.items()),
        '[members.frame]\nsection = "HEB 300"\nmaterial = "S355"\n[members.frame.pieces]',
        *(f'{k} = "{v}"' for k, v in pieces_.items()), '[[supports]]\nat = ["a", "b"]\nfix = "fixed"',
        f'[wind]\n{SITE[site]}\nexterior = "frame"\ndirections = {{ WX = "+x", WE = "-x", WY = "+y", WS = "-y" }}',
        cut or f"slice = {{ length = {length}, place = {place}, width = {width} }}", wind, more,
    ])  # fmt: skip


def hall_of_frames(site, length=30.0, frames=5, half=10.0, eave=6.0, ridge=9.0, wind=""):
    """The same hall in space, of frames along y, its sheets spanning from frame to frame on rails at every node."""
    nodes, rows, feet = [], [], []
    step = length / frames
    for k in range(frames + 1):
        y = k * step
        for name, x, z in (("a", 0, 0), ("A", 0, eave), ("R", half, ridge), ("B", 2 * half, eave), ("b", 2 * half, 0)):
            nodes.append(f"{name}{k} = [{x}, {y}, {z}]")
        rows += [f'ca{k} = "a{k} > A{k}"', f'ra{k} = "A{k} > R{k}"', f'rb{k} = "R{k} > B{k}"', f'cb{k} = "b{k} > B{k}"']
        feet += [f'"a{k}"', f'"b{k}"']
    n = frames
    rings = {
        "wall-a": (["a0", f"a{n}", f"A{n}", "A0"], True), "wall-b": ([f"b{n}", "b0", "B0", f"B{n}"], True),
        "wall-s": (["a0", "b0", "B0", "R0", "A0"], False), "wall-n": ([f"b{n}", f"a{n}", f"A{n}", f"R{n}", f"B{n}"], False),
        "roof-a": (["A0", f"A{n}", f"R{n}", "R0"], True), "roof-b": (["R0", f"R{n}", f"B{n}", "B0"], True),
    }  # fmt: skip
    outlines = {k: (r[::-1] if k != "wall-s" and k != "wall-n" else r, d) for k, (r, d) in rings.items()}
    text = ['[project]\nunits = "kN m"\n[nodes]', *nodes, '[members.frame]\nsection = "HEB 300"\nmaterial = "S355"']
    text += ["[members.frame.pieces]", *rows, f'[[supports]]\nat = [{", ".join(feet)}]\nfix = "fixed"']
    for name, (ring, deck) in outlines.items():
        kind = 'deck = "y"' if deck else 'carry = "nodes"'
        text.append(f"[surfaces.{name}]\ncorners = {ring}\n{kind}".replace("'", '"'))
    text.append(f'[wind]\n{SITE[site]}\nexterior = ["wall*", "roof*"]\n{wind}')
    text.append('directions = { WX = "+x", WE = "-x", WY = "+y", WS = "-y" }')
    return "\n".join(text)


def on_members(model, names):
    """Forces and moments about the middle of the base, in the plane, of members' loads by case (Fx, Fz, My)."""
    chosen = [i for i, m in enumerate(model.project.members) if m.name.split("/")[1] in names]
    loads = model.wind.loads
    some = np.isin(loads.lines.member, chosen)
    from dataclasses import replace

    own = replace(loads, lines=loads.lines.take(some), points=loads.points.take(loads.points.member < 0),
                  nodes=loads.nodes.take(loads.nodes.node < 0))  # fmt: skip
    y = float(model.project.xyz[model.project.ends[chosen[0]], 1].mean())
    sums = applied_totals(model.project, own, np.array([10.0, y, 0.0]), len(model.project.cases))
    return {name: sums[[0, 2, 4], i] for i, name in enumerate(model.project.case_names)}


@pytest.mark.parametrize("site", [*SITE])
@pytest.mark.parametrize("ridge", [6.0, 9.0])
def test_a_frame_carries_what_it_does_in_space(site, ridge):
    """The third of six frames 6 m apart, in space under decks along the hall: where no zone ends in its bays the same, case
    by case, wind across and along, load cases with torsion; all frames together, end frames of half a bay, are the hall."""
    wind = "" if site == "EN" else 'variants = ["1*", "2*", "min"]'
    space = resolved(hall_of_frames(site, ridge=ridge, wind=wind))
    each = [resolved(frame(site, 30, 6.0 * k, 6.0, ridge=ridge, wind=wind)) for k in range(6)]
    loads = [on_members(m, ["ca", "ra", "rb", "cb"]) for m in each]
    for case in (c.name for c in space.wind.rule.cases):
        whole = sum(
            np.asarray(v)
            for k in range(6)
            for v in [on_members(space, [f"{r}{k}" for r in ("ca", "ra", "rb", "cb")])[case]]
        )
        together = sum(own[case] for own in loads)
        size = np.abs(whole[:2]).max()
        assert together[:2] == pytest.approx(whole[:2], abs=1e-6 * size), case
        assert together[2] == pytest.approx(whole[2], abs=1e-6 * size * 10), case
        inner = on_members(space, ["ca2", "ra2", "rb2", "cb2"])[case]
        if case.startswith(("WX", "WE")) and site != "EN" and "2" not in case[2:3]:
            assert loads[2][case] == pytest.approx(inner, abs=1e-6 * np.abs(inner).max() + 1e-9), case


def test_hand_figures_of_a_flat_portal():
    """A slice 5 m wide of a box 4.5 m high by ASCE 7-16 without inside: 0.8 and 0.5 q on the columns; along the building at
    its middle 0.7 on both, and on the roof by h/2, h and 2h from the end it meets."""
    model = resolved(frame("ASCE 7-16", 40, 12, 5, half=5, eave=4.5, ridge=4.5, wind="GC_pi = 0"))
    q = 0.613 * 2.01 * (15 / 1200) ** (2 / 7) * 0.85 * 50**2 * 0.85
    sums = on_members(model, ["ca", "cb"])
    L_B = 10 / 40
    assert sums["WX1a"][0] == pytest.approx(q * (0.8 + 0.5) * 4.5 * 5, rel=1e-9) and L_B < 1
    assert on_members(model, ["ca"])["WY1a"][0] == pytest.approx(-0.7 * q * 4.5 * 5, rel=1e-9)
    roof = on_members(model, ["ra", "rb"])["WY1a"][1]
    # h/L = 0.11: -0.9 to h, -0.5 to 2h = 9 m, -0.3 beyond: the strip lies 9.5 to 14.5 m behind the end.
    assert roof == pytest.approx(0.3 * q * 10 * 5, rel=1e-9)
    back = on_members(model, ["ra", "rb"])["WS1a"][1]
    assert back == pytest.approx(roof, rel=1e-9)
    end = resolved(frame("ASCE 7-16", 40, 0, 5, half=5, eave=4.5, ridge=4.5, wind="GC_pi = 0"))
    assert on_members(end, ["ra", "rb"])["WY1a"][1] == pytest.approx(0.9 * q * 10 * 2.5, rel=1e-9)
    areas = sum(p.zone.area for p in pieces(model.wind, "WX1a"))
    assert areas == pytest.approx(5 * (4.5 + 10 + 4.5), rel=1e-9)


def test_eaves_and_canopies_in_the_plane():
    """What reaches out before the windward column has 0.8 q below it; a canopy in the plane has the coefficients of 27.3-4."""
    model = resolved(frame("ASCE 7-22", over=1.0))
    names = {p.zone.stretch.name for p in pieces(model.wind, "WX1ap")}
    assert {"windward slope, overhang", "below the windward overhang", "leeward slope, overhang"} <= names
    text = frame("ASCE 7-22", half=4, eave=5, ridge=5).replace('exterior = "frame"', 'free_roofs = ["frame/r*"]')
    found = {p.zone.stretch.name: p.C for p in pieces(resolved(text).wind, "WXa")}
    assert found == {"free roof, windward half": 1.2, "free roof, leeward half": 0.3}


def test_what_a_plane_model_asks_for():
    def errors(text):
        return [f.message for f in reading(text).findings if f.level == "error"]

    assert any("is a slice of" in words for words in errors(frame("EN", cut=" ")))
    for cut in ("slice = { length = 30, place = 31, width = 6 }", "slice = { length = 30, place = 3, width = 0 }"):
        assert any("slice has length" in words for words in errors(frame("EN", cut=cut)))
    assert any(
        "openings: a plane model has no surfaces" in w for w in errors(frame("EN", wind="openings = { ca = 3 }"))
    )
    from winds import hall

    assert any(
        "slice is of plane models" in w for w in errors(hall("EN", wind="slice = { length = 1, place = 0, width = 1 }"))
    )
    assert math.isfinite(sum(v[0] for v in on_members(resolved(frame("EN")), ["ca"]).values()))


@pytest.mark.parametrize("site", [*SITE])
@pytest.mark.parametrize("ridge", [9.0, 4.5])
@pytest.mark.parametrize("free", [False, True])
def test_members_in_pieces_and_drawn_the_other_way(site, ridge, free):
    """Columns and rafters in unequal pieces, and from their other ends: the same forces; a frame at one end of the building
    under wind along it is that at the other end under the opposite wind."""
    whole = frame(site, ridge=ridge, wind="reduce_by_area = true" if site != "EN" else "c_fr = 0.04")
    if free:  # a canopy instead of a building
        whole = whole.replace('exterior = "frame"', 'free_roofs = "frame/r*"')
    M, N = [0, 2.5], [4.0, 6 + 0.4 * (ridge - 6)]
    pieces_ = whole.replace("[nodes]", f"[nodes]\nM = {M}\nN = {N}\nO = {[13.0, 6 + 0.7 * (ridge - 6)]}")
    for old, new in (('ca = "a > A"', 'ca = "a > M"\ncc = "M > A"'), ('ra = "A > R"', 'ra = "A > N"\nrc = "N > R"'),
                     ('rb = "R > B"', 'rb = "R > O"\nrd = "O > B"')):  # fmt: skip
        pieces_ = pieces_.replace(old, new)
    back = whole.replace('"a > A"', '"A > a"').replace('"A > R"', '"R > A"').replace('"b > B"', '"B > b"')
    first = on_members(resolved(whole), ["ca", "ra", "rb", "cb"])
    for text in (pieces_, back):
        found = on_members(resolved(text), ["ca", "cc", "ra", "rc", "rb", "rd", "cb"])
        for name, force in first.items():
            assert found[name] == pytest.approx(force, abs=1e-7 * np.abs(force).max() + 1e-9), name
    ends = [
        on_members(resolved(whole.replace("place = 15.0", f"place = {at}")), ["ca", "ra", "rb", "cb"]) for at in (0, 30)
    ]
    for name, force in ends[0].items():
        alone = free and name[-1] in "cd"  # one slope of a canopy by itself: that to the left of the wind
        if name.startswith("WY") and not name.startswith(("WYWX", "WYWE")) and name[-1] not in "lr" and not alone:
            other = ends[1]["WS" + name[2:]]
            assert other == pytest.approx(force, abs=1e-7 * np.abs(force).max() + 1e-9), name
