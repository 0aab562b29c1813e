"""The frame's own lowest frequencies, against beams that vibrate, and the gust factor that follows from them."""

from __future__ import annotations

import math

import numpy as np
import pytest

from build import FIXED, SECTION, E, at_node, fine, line, point, project
from empuje.core.actions.wind.site.asce_site import gust_factor
from empuje.core.analysis.equations import build_equations
from empuje.core.analysis.frequency import masses, modes
from empuje.core.model.project import GRAVITY
from empuje.study.study import Study
from models import reading
from winds import hall

EI = E * SECTION.Iy
STIFF = 1e3


def found(xyz, members, loads, supports=None):
    model = fine(project(xyz, members, supports or {0: FIXED}, loads))
    equations = build_equations(model.project)
    mass = masses(model.project, equations.mesh, model.loads, np.ones(model.load_columns))
    return mass, modes(equations, mass)


def test_a_mass_on_a_cantilever_at_any_angle():
    """sqrt(3 EI / (m h^3)) / 2 pi about either axis of the section; a mast turned by 33 degrees sways along its own axes."""
    m, h = 2400.0, 7.0
    roll = math.radians(33)
    _, free = found([(0, 0, 0), (0, 0, h)], [(0, 1, {"roll": roll})], [at_node(1, m * GRAVITY)])
    c, s = math.cos(roll), math.sin(roll)
    weak, strong = (math.sqrt(3 * E * J / (m * h**3)) / (2 * math.pi) for J in (SECTION.Iz, SECTION.Iy))
    assert free.frequency == pytest.approx([weak, strong], rel=1e-9)
    # A vertical member has y along Y: bending about z moves along y, turned with the roll.
    assert free.share(np.array([-s, c])) == pytest.approx([1.0, 0.0], abs=1e-9)
    assert free.lowest(np.array([c, s])) == pytest.approx(strong, rel=1e-9)
    assert free.lowest(np.array([1.0, 0.0])) == pytest.approx(weak, rel=1e-9)  # sways along both, the lowest counts


def test_a_uniform_cantilever_in_many_pieces():
    """1.8751^2 / 2 pi sqrt(EI / (mu L^4)), the second mode 6.27 times as high; its masses are lumped."""
    n, L, mu = 60, 12.0, 300.0
    xyz = [(0, 0, L * k / n) for k in range(n + 1)]
    members = [(k, k + 1) for k in range(n)]
    mass, free = found(xyz, members, [line(list(range(n)), mu * GRAVITY)])
    assert mass.sum() == pytest.approx(mu * L, rel=1e-12) and mass[0] == pytest.approx(mu * L / n / 2)
    first = 1.875104**2 / (2 * math.pi) * math.sqrt(E * SECTION.Iz / (mu * L**4))
    along_y = free.share(np.array([0.0, 1.0])) > 1e-6
    assert free.frequency[along_y][:2] == pytest.approx([first, first * (4.694091 / 1.875104) ** 2], rel=2e-3)
    assert free.share(np.array([0.0, 1.0]))[along_y][0] == pytest.approx(0.613, abs=0.01)


def test_loads_become_masses_by_the_lever_rule():
    """A triangle over two elements, a force between nodes; what points up is no mass."""
    xyz = [(0, 0, 0), (6, 0, 0), (4, 0, 0)]
    loads = [line(0, 0.0, 6e3), point(0, 900.0, 1.0), at_node(1, -50.0)]
    model = project(xyz, [(0, 1)], {0: FIXED}, loads)
    equations = build_equations(model)
    resolved = fine(model)
    mass = masses(model, equations.mesh, resolved.loads, np.ones(resolved.load_columns)) * GRAVITY
    first = 4 * 4e3 / 2  # on the first element, its centre at 8/3 m
    rest, centre = 18e3 - first, (18e3 * 4 - first * 8 / 3) / (18e3 - first)
    right = rest * (centre - 4) / 2
    assert mass[0] == pytest.approx(first / 3 + 675.0) and mass[1] == pytest.approx(right - 50)
    assert mass[2] == pytest.approx(first * 2 / 3 + 225 + rest - right)


TOWER = hall(
    "ASCE 7-22", 15, 15, 45, 45, wind='G = "flexible"\nn_1 = "analysed"\nvariants = ["1ap"]',
    more='[cases]\nSW = { action = "dead", self_weight = 1 }\nF = { action = "dead" }\n[loads]\nF = [ { on = "roof*", area = 5 } ]',
).replace('units = "kN m"', 'units = "kN m"\nmass = "SW + F"')  # fmt: skip


def test_the_gust_factor_takes_the_frames_own_frequency(tmp_path):
    """Along each direction its own; the same as if that number had been stated; faster with a lighter roof."""
    (tmp_path / "m.toml").write_text(TOWER, encoding="utf-8")
    study = Study.read(tmp_path / "m.toml", cache=False)
    assert study.sound
    own = [b.heading.n_1 for b in study.resolved.wind.blown]
    assert own[0] != pytest.approx(own[1], rel=1e-3) and all(0.01 < n < 5 for n in own)
    (tmp_path / "s.toml").write_text(TOWER.replace('"analysed"', f'"{own[0]!r} Hz"'), encoding="utf-8")
    stated = Study.read(tmp_path / "s.toml", cache=False).resolved.wind
    G = {s.symbol: s.value for s in gust_factor(stated.rule, 45.0, 15.0, 15.0)[1]}["G_f"]
    told = {s.symbol: s for s in study.resolved.wind.blown[0].met[0].shared[0]}
    assert told["G_f"].value == pytest.approx(G, rel=1e-12) and "analysed" in told["n_1"].formula
    light = TOWER.replace("area = 5", "area = 1")
    (tmp_path / "l.toml").write_text(light, encoding="utf-8")
    assert Study.read(tmp_path / "l.toml", cache=False).resolved.wind.blown[0].heading.n_1 > own[0]


def test_what_has_no_frequency_is_told(tmp_path):
    found = reading(TOWER.replace('\nmass = "SW + F"', "")).findings
    assert [f.code for f in found if f.level == "error"] == ["missing-key"] and "needs the masses" in found[0].message
    idle = TOWER.replace("area = 5", "area = -5").replace("SW + F", "F")
    (tmp_path / "m.toml").write_text(idle, encoding="utf-8")
    found = Study.read(tmp_path / "m.toml", cache=False).findings
    assert {f.code for f in found if f.level == "error"} == {"wind-frequency"}
