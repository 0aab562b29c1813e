"""Notional loads: shares of the vertical loads of each combination."""

from dataclasses import replace

import numpy as np
import pytest

from build import FIXED, HERE, at_node, line, named, point, project, toward
from empuje.core.analysis.applied import applied
from empuje.core.analysis.solve import solve
from empuje.core.answers.reactions import closing_error
from empuje.core.model.cases import Case
from empuje.core.resolve import resolve
from models import PORTAL, reading

FLAT = toward((0, 0.6, 0.8))


def test_each_combination_leans_by_its_own_loads():
    """H = phi (sum of factored vertical loads), where they act: overturning moment phi W z as well."""
    xyz = [(0, 0, 0), (0, 0, 4), (6, 0, 4), (6, 0, 0)]
    loads = [
        line(1, 5e3, case="G"),
        at_node(2, 8e3, case="Q"),
        point(0, 3e3, 1.5, case="Q"),
        at_node(1, 2e3, way=FLAT, case="W"),
    ]
    frame = project(xyz, [(0, 1), (1, 2), (3, 2)], {0: FIXED, 3: FIXED}, loads)
    notional = [
        Case("LX", "notional", "", 0.0, HERE, 1 / 200, (1.0, 0.0, 0.0)),
        Case("LY", "notional", "", 0.0, HERE, 0.004, (0.0, -1.0, 0.0)),
    ]
    under = {
        "a": {"G": 1.2, "Q": 1.6, "LX": 1.0},
        "b": {"G": 0.9, "W": -1.0, "LY": 0.5, "LX": -1.0},
        "c": {"G": 1.2, "Q": 1.6},
    }
    frame = replace(
        frame,
        cases=frame.cases + tuple(notional),
        combining=project(xyz, [(0, 1)], {}, [], combinations=under).combining,
    )
    s = solve(resolve(frame))
    total = (s.reaction @ s.weights(named(s, ["a", "b", "c", "LX"]))).sum(axis=0)
    down = 1.2 * 30e3 + 1.6 * 11e3
    assert total[:3, 0] == pytest.approx([-down / 200, 0, down], rel=1e-10, abs=1e-6)
    down = 0.9 * 30e3 + 1.6e3
    assert total[:3, 1] == pytest.approx([down / 200, 0.5 * 0.004 * down + 1.2e3, down], rel=1e-10, abs=1e-6)
    assert total[0, 2] == pytest.approx(0, abs=1e-6) and np.abs(total[:, 3]).max() == 0
    # About y at the feet's centre: each share at its own height.
    turning = applied(s) @ s.weights(named(s, ["a"])) - applied(s) @ s.weights(named(s, ["c"]))
    assert turning[4, 0] == pytest.approx((1.2 * 30e3 * 4 + 1.6 * (8e3 * 4 + 3e3 * 1.5)) / 200, rel=1e-10)
    assert closing_error(s, named(s, ["a", "b"])).max() < 1e-11


def test_lean_in_a_model_file():
    text = PORTAL.replace("[loads]", 'LX = { notional = "1/200", dir = "+x" }\n[loads]')
    assert "LX" in text and not [f for f in reading(text).findings if f.level == "error"]
    for wrong, code in (('notional = "1/2", dir = "+x"', "bad-quantity"), ('notional = 0.005, dir = "up"', "unknown-word"),
                        ("notional = 0.005", "missing-key"), ('notional = 0.005, dir = "+x", action = "wind"', "wrong-key"),
                        ('action = "dead", dir = "+x"', "wrong-key")):  # fmt: skip
        assert code in {f.code for f in reading(text.replace('notional = "1/200", dir = "+x"', wrong)).findings}, wrong
