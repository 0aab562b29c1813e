"""Buildings in the wind, as model texts, turned in plan by any angle."""

from __future__ import annotations

import math
from itertools import pairwise

from models import resolved

SITE = {
    "ASCE 7-16": 'code = "ASCE 7-16"\nV = "50 m/s"\nexposure = "B"',
    "ASCE 7-22": 'code = "ASCE 7-22"\nV = "50 m/s"\nexposure = "C"',
    "EN": 'code = "EN 1991-1-4"\nv_b0 = "25 m/s"\nterrain = "III"',
}
DIRECTIONS = {"WX": 0, "WY": 90}


def hall_parts(
    length=30.0, width=20.0, eave=6.0, ridge=9.0, angle=0.0, over=0.0, north=None, at=(0.0, 0.0), prefix=""
):  # fmt: skip
    """Nodes, pieces, supports and surfaces of a hall with its ridge along its length, its corner at `at`, turned about the
    origin by `angle` [deg]; its roof reaches `over` [m] past its long walls; `north`: the height of the other eave."""
    c, s = math.cos(math.radians(angle)), math.sin(math.radians(angle))

    def put(x, y, z):
        x, y = x + at[0], y + at[1]
        return [c * x - s * y, s * x + c * y, z]

    b, fall = width, (ridge - eave) * over / (width / 2) if over else 0.0
    nodes, pieces, supports = {}, [], []
    for i, x in ((0, 0.0), (1, length)):
        for name, y, top in (("s", 0.0, eave), ("m", b / 2, ridge), ("n", b, eave if north is None else north)):
            nodes[f"{name}{i}"], nodes[f"{name}{i}t"] = put(x, y, 0.0), put(x, y, top)
            pieces.append((f"c{name}{i}", f"{name}{i}", f"{name}{i}t"))
            supports.append(f"{name}{i}")
        for name, y in (("s", -over), ("n", b + over)) if over else ():
            nodes[f"{name}{i}o"] = put(x, y, eave - fall)
            pieces.append((f"o{name}{i}", f"{name}{i}o", f"{name}{i}t"))
        pieces += [(f"r{name}{i}", f"{name}{i}t", f"m{i}t") for name in "sn"]
    pieces += [(f"e{name}", f"{name}0t", f"{name}1t") for name in "smn"]
    rim = "o" if over else "t"
    surfaces = {
        "wall-s": (["s0", "s1", "s1t", "s0t"], ["s0", "s1"]),
        "wall-n": (["n1", "n0", "n0t", "n1t"], ["s0", "s1"]),
        "wall-w": (["n0", "s0", "s0t", "m0t", "n0t"], ["s0", "n0"]),
        "wall-e": (["s1", "n1", "n1t", "m1t", "s1t"], ["s0", "n0"]),
        "roof-s": ([f"s0{rim}", f"s1{rim}", "m1t", "m0t"], ["s0", "s1"]),
        "roof-n": (["m0t", "m1t", f"n1{rim}", f"n0{rim}"], ["s0", "s1"]),
    }
    own = {f"{prefix}{k}": v for k, v in nodes.items()}
    rows = [f'{prefix}{n} = "{prefix}{a} > {prefix}{b}"' for n, a, b in pieces]
    decks = {f"{k}{prefix}": ([prefix + x for x in a], [prefix + x for x in d]) for k, (a, d) in surfaces.items()}
    return own, rows, [f'"{prefix}{n}"' for n in supports], decks


def halls(site, each, angle=0.0, wind="", directions=None, more="", exterior='["wall*", "roof*"]', order=None):
    """Several halls in one model, by what `hall_parts` takes; `order`: that of the surfaces, as a function of their list."""
    parts = [hall_parts(**{"angle": angle, "prefix": "abcd"[k] if k else "", **own}) for k, own in enumerate(each)]
    nodes = {k: v for p in parts for k, v in p[0].items()}
    text = ['[project]\nunits = "kN m"\n[nodes]', *(f"{k} = {v}" for k, v in nodes.items())]
    text += ['[members.frame]\nsection = "HEB 300"\nmaterial = "S355"\n[members.frame.pieces]']
    text += [row for p in parts for row in p[1]]
    text.append(f'[[supports]]\nat = [{", ".join(n for p in parts for n in p[2])}]\nfix = "fixed"')
    surfaces = [item for p in parts for item in p[3].items()]
    for name, (corners, deck) in order(surfaces) if order else surfaces:
        text.append(f"[surfaces.{name}]\ncorners = {corners}\ndeck = {deck}".replace("'", '"'))
    headings = ", ".join(f'{k} = "{v + angle} deg"' for k, v in (directions or DIRECTIONS).items())
    text.append(f"[wind]\n{SITE.get(site, site)}\nexterior = {exterior}\ndirections = {{ {headings} }}\n{wind}")
    return "\n".join([*text, more])


def hall(
    site, length=30.0, width=20.0, eave=6.0, ridge=9.0, angle=0.0, wind="", over=0.0, directions=None, more="",
    exterior='["wall*", "roof*"]', north=None,
):  # fmt: skip
    """One hall, as `hall_parts` says, with its directions turned too. ridge == eave is a flat roof."""
    own = {"length": length, "width": width, "eave": eave, "ridge": ridge, "over": over, "north": north}
    return halls(site, [own], angle, wind, directions, more, exterior)


def blown(text):
    """The wind of a model without errors."""
    return resolved(text).wind


def pieces(wind, case):
    """The zones of a case."""
    names = [c.name for c in wind.rule.cases]
    return list(wind.of_cases({names.index(case)}))


def by_zone(model, case):
    """Area, C and net pressure by (surface, zone): areas summed up, the others of the last."""
    out = {}
    for p in pieces(model.wind, case):
        key = model.project.surfaces[p.zone.surface].name, p.zone.stretch.name
        area = out.get(key, (0.0,))[0]
        out[key] = area + p.zone.area, p.C, p.net
    return out


def canopy(site, rises=0.0, width=20.0, depth=8.0, low=4.0, angle=0.0, wind="", ridge=None):
    """A roof without walls, 20 m along x and 8 m along y on four posts: level, rising by `rises` along y, or with a ridge
    (or a trough) of height `ridge` above the low edges in its middle; turned by `angle` [deg] with its directions."""
    c, s = math.cos(math.radians(angle)), math.sin(math.radians(angle))

    def at(x, y, z):
        return [c * x - s * y, s * x + c * y, z]

    rows = [("a", 0.0, low), ("b", depth, low + rises)]
    if ridge is not None:
        rows.insert(1, ("m", depth / 2, low + ridge))
    nodes, pieces, feet = {}, [], []
    for name, y, z in rows:
        for i, x in ((0, 0.0), (1, width)):
            nodes[f"{name}{i}"], nodes[f"{name}{i}t"] = at(x, y, 0.0), at(x, y, z)
            pieces.append(f'c{name}{i} = "{name}{i} > {name}{i}t"')
            feet.append(f'"{name}{i}"')
        pieces.append(f'e{name} = "{name}0t > {name}1t"')
    names = [r[0] for r in rows]
    text = ['[project]\nunits = "kN m"\n[nodes]', *(f"{k} = {v}" for k, v in nodes.items())]
    surfaces = []
    for one, other in pairwise(names):
        pieces += [f'r{one}{i} = "{one}{i}t > {other}{i}t"' for i in (0, 1)]
        corners = f'["{one}0t", "{one}1t", "{other}1t", "{other}0t"]'
        surfaces.append(f'[surfaces.sheet-{one}]\ncorners = {corners}\ndeck = ["{one}0", "{one}1"]')
    text += ['[members.frame]\nsection = "HEB 200"\nmaterial = "S355"\n[members.frame.pieces]', *pieces]
    text.append(f'[[supports]]\nat = [{", ".join(feet)}]\nfix = "fixed"')
    headings = ", ".join(f'{k} = "{v + angle} deg"' for k, v in (("WX", 0), ("WY", 90), ("WS", 270)))
    text += [*surfaces, f'[wind]\n{SITE[site]}\nfree_roofs = "sheet*"\ndirections = {{ {headings} }}\n{wind}']
    return "\n".join(text)
