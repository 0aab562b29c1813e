"""Arched roofs in the wind by ASCE 7 figure 27.3-3: coefficients, quarters of the span, and what is no arch."""

from __future__ import annotations

import math

import numpy as np
import pytest

from empuje.core.actions.wind.codes.asce_arched import arched
from empuje.core.resolve import resolve
from models import reading, resolved
from winds import SITE, by_zone, pieces

SPAN, LENGTH, EAVE = 20.0, 30.0, 6.0


def vault(rise=5.0, n=8, angle=0.0, wind="", directions=None, stretches=1, site="ASCE 7-22", heights=None):
    """A hall below a circular arch of `n` flat faces, axis along y, turned about the origin; each face in `stretches` along
    the axis; or with corners at `heights` over equal steps of the span."""
    c, s = math.cos(math.radians(angle)), math.sin(math.radians(angle))
    R = (SPAN**2 / 4 + rise**2) / (2 * rise)
    turn = np.linspace(-1, 1, n + 1) * math.atan2(SPAN / 2, R - rise)
    arc = np.column_stack([SPAN / 2 + R * np.sin(turn), EAVE + rise - R + R * np.cos(turn)])
    if heights:
        arc = np.column_stack([np.linspace(0, SPAN, len(heights)), heights])
        n = len(heights) - 1
    nodes, rows, surfaces = {}, [], {}
    for j, y in enumerate(np.linspace(0, LENGTH, stretches + 1)):
        for name, x, z in [(f"p{i}", *at) for i, at in enumerate(arc)] + [("l", 0, 0), ("r", SPAN, 0)]:
            nodes[f"{name}-{j}"] = [c * x - s * y, s * x + c * y, z]
        rows += [f'cl{j} = "l-{j} > p0-{j}"', f'cr{j} = "r-{j} > p{n}-{j}"']
        rows += [f'a{i}-{j} = "p{i}-{j} > p{i + 1}-{j}"' for i in range(n)]
        if j:
            rows += [f'e{i}-{j} = "p{i}-{j - 1} > p{i}-{j}"' for i in range(n + 1)]
            surfaces |= {
                f"roof-{i}-{j}": [f"p{i}-{j - 1}", f"p{i + 1}-{j - 1}", f"p{i + 1}-{j}", f"p{i}-{j}"] for i in range(n)
            }
            surfaces[f"wall-l-{j}"] = [f"l-{j}", f"l-{j - 1}", f"p0-{j - 1}", f"p0-{j}"]
            surfaces[f"wall-r-{j}"] = [f"r-{j - 1}", f"r-{j}", f"p{n}-{j}", f"p{n}-{j - 1}"]
    for end, j in (("f", 0), ("b", stretches)):
        ring = [f"l-{j}", *(f"p{i}-{j}" for i in range(n + 1)), f"r-{j}"]
        surfaces[f"wall-{end}"] = ring[::-1] if end == "f" else ring
    text = ['[project]\nunits = "kN m"\n[nodes]', *(f"{k} = {[float(x) for x in v]}" for k, v in nodes.items())]
    text += ['[members.frame]\nsection = "HEB 300"\nmaterial = "S355"\n[members.frame.pieces]', *rows]
    text.append('[[supports]]\nat = ["l-*", "r-*"]\nfix = "fixed"')
    for name, corners in surfaces.items():
        deck = '["l-0", "r-0"]' if name in ("wall-f", "wall-b") else f'["l-0", "l-{stretches}"]'
        text.append(f"[surfaces.{name}]\ncorners = {corners}\ndeck = {deck}".replace("'", '"'))
    headings = ", ".join(f'{k} = "{v + angle} deg"' for k, v in (directions or {"WX": 0, "WY": 90}).items())
    text.append(f'[wind]\n{SITE[site]}\nexterior = "*"\nenclosure = "enclosed"\ndirections = {{ {headings} }}\n{wind}')
    return "\n".join(text)


def test_coefficients_of_the_figure():
    """The rows of figure 27.3-3, read at both ends of each; from 0.2 to 0.3 the quarter has 6 r - 2.1 too."""
    assert arched(0.19, False) == ((-0.9,), -0.89, -0.5)
    assert arched(0.2, False) == ((-0.9, 0.0), -0.9, -0.5)
    assert arched(0.3, False)[0] == (-0.3, 0.125)
    assert arched(0.31, False)[0] == pytest.approx((0.1525,))
    assert arched(0.6, False)[0] == (0.95,)
    assert arched(0.6, True) == ((0.84,), -1.3, -0.5)


def forces(text, case):
    """Area and coefficient by quarter."""
    model = resolved(text)
    out: dict[str, list[float]] = {}
    for p in pieces(model.wind, case):
        row = out.setdefault(p.zone.stretch.name, [0.0, p.C])
        row[0] += p.zone.area
        assert row[1] == p.C
    return out


@pytest.mark.parametrize("change", [{}, {"angle": 33.0}, {"stretches": 3}, {"directions": {"WX": 180, "WY": 270}},
                                    {"directions": {"WX": 20, "WY": 110}}])  # fmt: skip
def test_quarters_of_the_span(change):
    """r = 0.25: -0.6 or 0.075, -0.95, -0.5 over the quarters, which reach 5 m from the springings whatever way the hall
    is turned, drawn or met; the wind along the axis has the zones of figure 27.3-1, flat faces or steep."""
    low, high = forces(vault(**change), "WX1ap"), forces(vault(**change), "WX1bp")
    arc = np.linspace(-1, 1, 9) * math.atan2(10, 12.5 - 5)
    x, z = 10 + 12.5 * np.sin(arc), 12.5 * np.cos(arc)
    cut = np.interp(5.0, x, z)
    quarter = 30 * sum(math.hypot(*np.diff([[a, c], [min(b, 5.0), d if b < 5 else cut]], axis=0)[0])
                       for a, b, c, d in zip(x, x[1:], z, z[1:], strict=False) if a < 5)  # fmt: skip
    whole = 30 * np.hypot(np.diff(x), np.diff(z)).sum()
    assert low["windward quarter"] == pytest.approx([quarter, -0.6], abs=1e-9)
    assert high["windward quarter"] == pytest.approx([quarter, 0.075], abs=1e-9)
    assert low["leeward quarter"] == pytest.approx([quarter, -0.5], abs=1e-9)
    assert low["centre half"] == pytest.approx([whole - 2 * quarter, -0.95], abs=1e-9)
    along = forces(vault(**change), "WY1ap")
    assert {k: v[1] for k, v in along.items() if k.startswith("roof")} == pytest.approx(
        {"roof to h/2": -0.9, "roof h/2 to h": -0.9, "roof h to 2h": -0.5, "roof beyond 2h": -0.3}, abs=0.02)  # fmt: skip


def test_what_is_no_arch():
    """Four planes (a mansard) and hollows are folded roofs, unless stated; six planes can be stated as folded; an arch above
    0.6 of its span, and a hollow that is stated, are errors. EN refuses arches."""

    def forms(text):
        return [r.form for b in resolved(text).wind.buildings for r in b.roofs]

    def found(text):
        return resolve(reading(text).project).findings

    mansard = [6.0, 9.0, 10.0, 9.0, 6.0]
    hollow = [6.0, 9.0, 10.0, 9.6, 10.0, 9.0, 6.0]
    assert forms(vault(n=6)) == ["arched"]
    assert forms(vault(heights=mansard)) == forms(vault(heights=hollow)) == ["folded"]
    assert forms(vault(n=6, wind='roof_form = "folded"')) == ["folded"]
    stated = by_zone(resolved(vault(heights=mansard, wind='roof_form = "arched"')), "WX1ap")
    assert stated["roof-0-1", "windward quarter"][1] == -0.9  # 6 r - 2.1 with r = 0.2
    for text, words in (
        (vault(heights=hollow, wind='roof_form = "arched"'), "do not bend one way"),
        (vault(rise=9.99, n=16, heights=[6, 12, 16, 18.5, 16, 12, 6]), "rises by 0.625 of its span"),
        (vault(site="EN").replace('enclosure = "enclosed"', ""), "is arched"),
    ):
        assert any(words in f.message and f.level == "error" for f in found(text)), words
