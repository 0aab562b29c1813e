"""Model texts for tests."""

import numpy as np

from empuje.core.analysis.solve import solve
from empuje.core.model.findings import has_errors
from empuje.core.resolve import resolve
from empuje.files.reader import read_text

PATIENCE = 15.0
"""Processor time [s] that no refusal takes: what is bounded takes a tenth of it, what is not, minutes."""
PORTAL = """
[project]
units = "kN m"
[grid]
x = { A = 0, B = 6, C = 12 }
y = { 1 = 0, 2 = 5 }
z = { base = 0, eave = 4, ridge = 5.5 }
[members.columns]
section = "HEB 200"
material = "S235"
runs = ["A,C / 1..2 / base>eave"]
[members.rafters]
section = "IPE 300"
material = "S235"
runs = ["A>B / 1,2 / eave>ridge", "C>B / 1,2 / eave>ridge"]
[members.ties]
section = "IPE 200"
material = "S235"
ends = "hinged"
runs = ["A..C / 1>2 / eave"]
[[supports]]
at = "*@base"
fix = "fixed"
[cases]
G = { action = "dead", self_weight = 1.0 }
Q = { action = "live" }
W = { action = "wind" }
[loads]
G = [ { on = "rafters", line = "0.35*6.0 kN/m" } ]
Q = [ { on = "rafters/*", line = "2 kN/m", from = "1 m", to = "60%", per = "projected" } ]
W = [ { on = "A*@eave", force = "5 kN", dir = "+x" }, { on = "rafters/1/*", moment = 3, dir = "+y", at = ["25%", 2] } ]
[combinations.custom]
U1 = { formula = "1.2 G + 1.6 Q", set = "strength" }
U2 = { formula = "1.2 G + 0.5 Q - 1.0 W", set = "strength" }
S1 = { formula = "G + Q", set = "service" }
""".replace("A..C / 1>2 / eave", "A,C / 1>2 / eave")
MADE = """
[project]
units = "kip ft"
[grid]
x = { A = 0, B = 20 }
y = { 1 = 0, 2 = 16 }
z = { base = 0, eave = 12 }
[values]
g_k = "20 psf"
half = "g_k/2"
idle = 3
[nodes]
true = [3, 3, 12]
[sections.taper]
shape = "I"
h = "12 in"
b = "6 in"
tw = "0.3 in"
tf = "0.4 in"
r = "0.5 in"
[members.columns]
section = "W10x33"
material = "A992"
runs = ["A,B / 1,2 / base>eave"]
[members.rafters]
section = "taper"
material = "A992"
[members.chords]
section = "HSS 4x4x1/4"
material = "A992"
[members.webs]
section = "L6x4x1/2"
material = "A36"
[members.joists]
section = "W8x18"
material = "A992"
ends = "hinged"
[members.props]
section = "W8x18"
material = "A992"
pieces = { a = "A1@base > true" }
[makers.T]
make = "truss"
from = "A1@eave"
to = "B1@eave"
panels = 6
depth = "3 ft"
pattern = "howe"
chord = "chords"
webs = "webs"
[makers.P]
make = "portal"
from = [40, 0, 0]
to = [70, 5, 0]
eaves = 12
ridge = 15
columns = "columns"
rafters = "rafters"
haunch = { length = 3, depth = "20 in", steps = 3 }
[makers.J]
make = "joists"
corners = ["A1@eave", "B1@eave", "B2@eave", "A2@eave"]
along = "y"
spaces = 4
family = "joists"
[[copies]]
name = "m"
of = ["*/T.*", "*/J.*", "columns/A*", "columns/B*"]
mirror = { through = [[30, -10], [33, 20]] }
[surfaces.floor]
corners = ["A1@eave", "B1@eave", "B2@eave", "A2@eave"]
deck = "x"
bearing = ["joists", "chords"]
[[supports]]
at = ["*@base", "P.foot*"]
fix = "fixed"
[[supports]]
at = "J.*-1"
fix = "x y z"
turn = { z = 33 }
settle = { case = "S", x = "0.2 in" }
[cases]
D = { action = "dead", self_weight = 1 }
Q = { action = "live", title = "joists, and what is on them" }
S = { action = "settlement" }
[loads]
D = { on = "floor", area = "g_k" }
Q = [ { on = "floor", area = ["half", "g_k"], along = ["A1@eave", "B2@eave"] }, { on = "P.ridge", force = 2, dir = [1, 2, -3] },
      { on = "chords/T.top", force = 1, every = "2 ft" }, { on = "rafters", line = [0.1, 0.3], per = "projected" },
      { on = "floor", area = "half", part = [[2, 2, 12], [8, 2, 12], [8, 9, 12]], dir = "-normal" } ]
[combinations]
custom = { U = "1.2 D + 1.6 Q" }
rule_files = []
""".replace("rule_files = []\n", "")
"""Makers, copies of what they lay, tables of none; loads of most kinds."""


class Reading:
    """A model text read and resolved, with all findings."""

    def __init__(self, text, file="model.toml", folder=None):
        read = read_text(text, file, folder)
        self.names, self.project = read.names, read.project
        self.resolved = resolve(read.project, read.findings)
        self.findings = read.with_more(self.resolved.findings)
        self.sound = not has_errors(self.findings)


def reading(text, folder=None):
    return Reading(text, folder=folder)


def resolved(text):
    found = reading(text)
    assert found.sound, "\n".join(map(str, found.findings))
    return found.resolved


def project(text):
    return resolved(text).project


def solved(frame):
    return solve(resolve(frame))


def solution(text):
    return solve(resolved(text))


def member(frame, name):
    return np.array([[m.name for m in frame.members].index(name)])
