"""EN 1991-1-4, 7.3: canopies. The whole force by c_f with its point of action, or net pressures by zones.

    monopitch: c_f q_p A at d/4 from the windward edge: 2 c_f on the windward half
    duopitch:  c_f on each slope, and on one slope alone (7.3 (6))

Along it friction acts on both faces beyond min(2b, 4h) from the windward edge, with a stated c_fr (7.3 (7), 7.5).

Alternatives: lower, upper; of ridged canopies then the windward slope alone with the lower and with the upper value.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from ....model.findings import Finding
from ....model.loads import Step
from ....model.wind import Heading, WindRule
from ....model.words import Flow, Side
from ...faces import FLAT, Face
from ..shape.roofs import Roof, lies_before
from ..shape.seen import axes_of
from ..shape.zones import Stretch, Zone, alternatives, cut
from ..site.en_site import structural_factor
from ..site.profile import Profile
from . import en_tables as table

Floats = NDArray[np.float64]
ACROSS = 1e-6
"""A slope that falls less than this along the wind (sine) lies along it."""
Pair = tuple[float, float]
RIDGED = ("gable", "trough")
EVERYWHERE = (-math.inf, math.inf)


def canopy_values(zone: str, form: str, alpha: float, flow: Flow) -> Pair:
    """The lower and the upper value of c_f, or of c_p,net of a zone A to D, tables 7.6 and 7.7; between blockages 0
    and 1 there is clear flow or obstructed flow here."""
    ridged = form in RIDGED
    places = table.DUO_CANOPY_SLOPES if ridged else table.CANOPY_SLOPES
    most, clear, blocked = (table.DUO_CANOPY if ridged else table.MONO_CANOPY)[zone]
    at = -alpha if form == "trough" else alpha
    return table.lookup(places, clear if flow == Flow.CLEAR else blocked, at), table.lookup(places, most, at)


def free_roof_zones(
    roof: Roof, heading: Heading, rule: WindRule, profile: Profile
) -> tuple[list[Zone], list[tuple[Step, ...]], list[Finding]]:
    """The zones of a canopy; steps that they share; where the tables' limits are passed."""
    along, left = axes_of(heading)
    corners = np.concatenate([f.corners for f in roof.faces])
    s, t = corners[:, :2] @ along, corners[:, :2] @ left
    c, of_c = structural_factor(rule, roof.ridge, float(np.ptp(t)))
    q = profile.one(roof.ridge)
    findings = _limits(roof, heading)
    if any(f.level == "error" for f in findings):
        return [], [of_c], findings
    rows: dict[int, list[Stretch]] = {}
    ridged = roof.form in RIDGED
    middle = (float(s.min()) + float(s.max())) / 2
    for face in roof.faces:
        if rule.by_zones:
            continue
        if ridged:
            rows[face.surface] = [_slope_row(roof, face, along, left, rule, (q, c))]
        else:
            values = canopy_values("c_f", roof.form, roof.slope, rule.flow)
            told = f"{roof.form}, {roof.slope:.3g} deg, {rule.flow} flow, acting at d/4: twice on the windward half"
            C = tuple(2 * v for v in (*values, *values))
            steps = alternatives("c_f", told, (*values, *values), "table 7.6")
            row = Stretch("canopy, windward half", C, (q, q), c, (-math.inf, middle), steps=steps, inside=False,
                          at=roof.ridge)  # fmt: skip
            rows[face.surface] = [row]
    rubbed = float(s.min()) + min(2 * float(np.ptp(t)), 4 * roof.ridge)
    friction = _friction(roof, heading, rule, rubbed, q) if "c_fr" in rule.stated else []
    if not friction and rubbed < float(s.max()) - 1e-9 and "c_fr" not in rule.stated:
        words = f"canopy with {roof.names[0]}: friction counts under the wind {heading.name} (EN 1991-1-4, 7.3 (7))"
        remedy = "state c_fr: 0.01 smooth, 0.02 rough, 0.04 very rough"
        findings.append(Finding("warning", "wind-friction", words, remedy, rule.place))
    if rule.by_zones:
        axes = _own_axes(roof, along)
        zones = [z for f in roof.faces for z in _by_zones(roof, f, rule, axes, (q, c))]
    else:
        zones = [z for f in roof.faces for z in cut(f, (along, left), rows[f.surface], Side.FREE_ROOF, False)]
    rubbing = [z for f in roof.faces for z in cut(f, (along, left), friction, Side.FREE_ROOF, False)]
    return [*zones, *rubbing], [of_c], findings


def _friction(roof: Roof, heading: Heading, rule: WindRule, start: float, q: float) -> list[Stretch]:
    """Along the wind on the upper and the lower face, from `start` on."""
    C = rule.stated["c_fr"]
    steps = (
        Step("c_fr", "stated; on both faces, from min(2b, 4h) behind the windward edge on", C, "", "7.3 (7), 7.5"),
    )
    way = (float(heading.vector[0]), float(heading.vector[1]), 0.0)
    return [Stretch("canopy friction", (2 * C,), (q, q), 1.0, (start, math.inf), steps=steps, inside=False, way=way,
                    at=roof.ridge, extra=True)]  # fmt: skip


def _slope_row(roof: Roof, face: Face, along: Floats, left: Floats, rule: WindRule, q_c: Pair) -> Stretch:
    """A slope of a ridged canopy: with the other, and alone where it lies to windward (to the left where neither
    does)."""
    low, high = canopy_values("c_f", roof.form, roof.slope, rule.flow)
    across = any(abs(float(f.normal[:2] @ along)) > ACROSS for f in roof.faces)
    way = along if across else -left
    first = lies_before(face, roof, way)
    C = (low, high, low if first else 0.0, high if first else 0.0)
    told = f"{roof.form}, {roof.slope:.3g} deg, {rule.flow} flow; of c and d one slope alone"
    steps = alternatives("c_f", told, C, "table 7.7, 7.3 (6)")
    name = "canopy, windward slope" if first else "canopy, other slope"
    return Stretch(name, C, (q_c[0], q_c[0]), q_c[1], steps=steps, inside=False, at=roof.ridge)


def _by_zones(roof: Roof, face: Face, rule: WindRule, axes: tuple[Floats, Floats], q_c: Pair) -> list[Zone]:
    """Net pressures: B along the edges down the slope, C along eaves and upper edges, D at the ridge, A between, by the
    roof's own sides: its first axis runs down the slope.

        +--+-----------------------+--+   b/10
        |B |           A           |B |
        |  +--- D: d/10 each side -+  |
        |  |           A           |  |
        +--+-----------C-----------+--+   d/10
    """
    corners = np.concatenate([f.corners for f in roof.faces])[:, :2]
    p, r = corners @ axes[0], corners @ axes[1]
    d, b = float(np.ptp(p)), float(np.ptp(r))
    inner = (float(r.min()) + b / 10, float(r.max()) - b / 10)
    low, high = float(p.min()) + d / 10, float(p.max()) - d / 10
    boxes = [("B", EVERYWHERE, (-math.inf, inner[0])), ("B", EVERYWHERE, (inner[1], math.inf)),
             ("C", (-math.inf, low), inner), ("C", (high, math.inf), inner)]  # fmt: skip
    if roof.form in RIDGED:
        ridge = (float(p.min()) + float(p.max())) / 2
        boxes += [("D", (ridge - d / 10, ridge + d / 10), inner), ("A", (low, ridge - d / 10), inner),
                  ("A", (ridge + d / 10, high), inner)]  # fmt: skip
    else:
        boxes.append(("A", (low, high), inner))
    rows = []
    source = "table 7.7" if roof.form in RIDGED else "table 7.6"
    for zone, reach, across in boxes:
        values = canopy_values(zone, roof.form, roof.slope, rule.flow)
        C = (*values, *values)
        told = f"{roof.form}, {roof.slope:.3g} deg, {rule.flow} flow, zone {zone}"
        steps = alternatives("c_p,net", told, C, source)
        rows.append(Stretch(f"canopy {zone}", C, (q_c[0], q_c[0]), q_c[1], reach, across, steps=steps, inside=False,
                            at=roof.ridge))  # fmt: skip
    return cut(face, axes, rows, Side.FREE_ROOF, False)


def _own_axes(roof: Roof, along: Floats) -> tuple[Floats, Floats]:
    """Down the slope of the first sloping face, or along the wind where all is level; and to the left of that."""
    slopes = [f.normal[:2] for f in roof.faces if f.slope > FLAT]
    down = slopes[0] / np.linalg.norm(slopes[0]) if slopes else along
    return down, np.array([-down[1], down[0]])


def _limits(roof: Roof, heading: Heading) -> list[Finding]:
    out = []
    where = f"canopy with {roof.names[0]}, wind {heading.name}"
    steepest = 20.0 if roof.form == "trough" else 30.0
    if roof.slope > steepest:
        out.append(Finding("error", "wind-limits", f"{where}: a slope of {roof.slope:.3g} degrees; the tables go to "
                           f"{steepest:g} (EN 1991-1-4, 7.3)", "put its loads in by hand", heading.place))  # fmt: skip
    if roof.falls_many_ways:
        out.append(Finding("error", "wind-limits", f"{where}: it is {roof.form}; the tables know monopitch "
                           "and duopitch canopies (EN 1991-1-4, 7.3)",
                           "put its loads in by hand", heading.place))  # fmt: skip
    return out
