"""Model texts for tests."""

import numpy as np

from empuje.core.analysis.solve import solve
from empuje.core.model.findings import has_errors
from empuje.core.resolve.resolve import resolve
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
