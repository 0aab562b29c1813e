"""The keys of [snow] and [rain], as keys.py has those of all else."""

from __future__ import annotations

from ...core.model.words import RoofExposure, SnowCode
from ..base.forms import ABSENT, REQUIRED, Choice, Flag, Form, Key, Names, Quantity, Table, Written

SURFACES = "selector of surfaces"
ASCE, OF_16, OF_22, EN = "ASCE: ", "ASCE 7-16: ", "ASCE 7-22: ", "EN: "

BESIDE = Form("snow.beside.NAME", (
    Key("edge", Written("two places: nodes, or `[x, y, z]`", "length"), REQUIRED, "the upper edge of the face that is "
        "turned to the roof"),
    Key("behind", Quantity("length"), ABSENT, "length of a building behind that face: its snow drifts onto the roof",
        "a wall"),
    Key("projection", Flag(), False, "the face is a side of what stands on the roof (ASCE 7.8), not a parapet"),
))  # fmt: skip

PARTIAL = Form("snow.partial.NAME", (
    Key("along", Written('`"x"`, `"y"`, an angle', "angle"), REQUIRED, "the way the members run that are continuous"),
    Key("lines", Written("a list of lengths", "length"), REQUIRED, "where their spans begin and end along it; a "
        "cantilever is a span"),
    Key("on", Names(SURFACES), ABSENT, "the roofs that they carry", "all"),
))  # fmt: skip
COMMON = (
    Key("code", Choice.of(SnowCode), REQUIRED, "the code; EN with recommended values, persistent situations"),
    Key("roofs", Names(SURFACES), ABSENT, "the roofs it falls on", "all of `[wind]` `exterior` and `free_roofs` that "
        "are no walls"),
    Key("parapets", Written("true, false, or a selector of surfaces"), True, "walls on the edges of roofs, for drifts; "
        "`true`: those of `[wind]`, and vertical surfaces that rise above the edge of a roof they stand on"),
    Key("obstructions", Written("true, false, or a selector of surfaces"), True, "sides of what stands on roofs; those "
        "named have a `normal` that points out; `true`: vertical surfaces that rise above a roof within it"),
    Key("beside", Table(Form("snow.beside", each=Table(BESIDE))), ABSENT, "what stands taller by a roof or on it, and "
        "is not modelled, by name", "none"),
    Key("directions", Table(Form("snow.directions", each=Written('`"+x"`, an angle', "angle"))), ABSENT,
        "winds that drift it, by name: each step and ridge is of the one it is nearest to",
        "`{ SXp = \"+x\", SXn = \"-x\", SYp = \"+y\", SYn = \"-y\" }`"),
    Key("variants", Names("names of its cases, or globs"), ABSENT, "the cases that are kept: `[\"S\", \"*d\"]`", "all"),
    Key("C_e", Quantity("number"), ABSENT, "exposure factor", "ASCE: table 7.3-1 by `exposure`; EN: `1`"),
    Key("C_t", Written("a number, or a table by selector"), ABSENT, "thermal factor: `1.0`, "
        "`{ \"*\" = 1.0, canopy = 1.2 }` (later entries win); ASCE: required", "EN: `1`"),
    Key("W", Written("a length, or a table by selector", "length"), ABSENT, "level distance from ridge to eave of the "
        "pitches of these surfaces", "as drawn"),
    Key("l_u", Written("a length, or a table by selector", "length"), ABSENT, "length of roof that snow drifts off, or "
        "that it drifts along, over these surfaces (EN: b_1, b_2)", "as drawn"),
    Key("gamma", Quantity("unit weight"), ABSENT, "weight of drifted snow", "ASCE: (7.7-1); EN: `\"2 kN/m3\"`"),
    Key("guards", Written("true, or a selector of surfaces"), False, "roofs whose snow is held by guards, or cannot "
        "slide off: none slides onto lower roofs; EN: mu_1 is no less than 0.8"),
)  # fmt: skip
OF_ASCE = (
    Key("p_g", Quantity("pressure"), ABSENT, ASCE + "ground snow load", "required for ASCE"),
    Key("exposure", Choice(("B", "C", "D")), ABSENT, ASCE + "surface roughness, for C_e", "required unless `C_e` is"),
    Key("roof_exposure", Choice.of(RoofExposure), RoofExposure.PARTIAL.value, ASCE + "of the roofs, for C_e"),
    Key("slippery", Written("true, or a selector of surfaces"), False, ASCE + "unobstructed slippery roofs "
        "(7.4); with C_t <= 1 they need the thermal resistance of 7.4.1"),
    Key("partial", Table(Form("snow.partial", each=Table(PARTIAL))), ABSENT, ASCE + "spans of continuous members, for "
        "partial loads (7.5): cases by their name and a number", "those of `continuous`"),
    Key("continuous", Written("true, false, or a selector of members"), True, ASCE + "members under the roofs whose "
        "spans are found, for partial loads (7.5): cases `SPa1`, `SPa2`, ..., `SPb1`, ... for each set of spans",
        "`true`, and `false` where `partial` is stated"),
    Key("rafters", Flag(), False, ASCE + "simply supported prismatic members span from ridge to eave: narrow roofs, W "
        "up to 20 ft, then have I_s p_g on the leeward side alone (7.6.1)"),
    Key("I_s", Quantity("number"), ABSENT, OF_16 + "importance factor", "required for 7-16"),
    Key("W_2", Quantity("number"), ABSENT, OF_22 + "winter wind parameter", "required for 7-22"),
    Key("risk", Choice(("I", "II", "III", "IV")), ABSENT, OF_22 + "risk category, for p_m", "required for 7-22"),
)  # fmt: skip
OF_EN = (
    Key("s_k", Quantity("pressure"), ABSENT, EN + "characteristic snow load on the ground", "required for EN"),
    Key("C_esl", Quantity("number"), ABSENT, EN + "coefficient of exceptional snow (4.3, recommended: 2): "
        "every arrangement is a case of accidental action too, its name with `x`", "none"),
    Key("overhanging", Written("true, or a selector of surfaces"), False, EN + "roofs whose lower edges are "
        "cantilevered out, and overhung by snow in all cases (6.3; level roofs: all their edges)"),
    Key("annex_B", Flag(), False, EN + "exceptional drifts (annex B), cases of accidental action, `SXpe` ..."),
)  # fmt: skip
RAIN_ROOF = Form("rain.roofs.NAME", (
    Key("on", Names(SURFACES), REQUIRED, "surfaces that one body of water stands on"),
    Key("d_s", Quantity("length"), REQUIRED, "depth over their lowest point up to the inlet of the secondary drain"),
    Key("d_h", Quantity("length"), REQUIRED, "depth over that inlet at the design flow"),
    Key("d_p", Quantity("length"), ABSENT, "of ponding (ASCE 7-22, 8.2)", "required for 7-22"),
))  # fmt: skip
RAIN = Form("rain", (
    Key("code", Choice(("ASCE 7-16", "ASCE 7-22")), REQUIRED, "the code: chapter 8"),
    Key("roofs", Table(Form("rain.roofs", each=Table(RAIN_ROOF))), REQUIRED, "roofs that water stands on, by name"),
))  # fmt: skip
SNOW = Form("snow", (*COMMON, *OF_ASCE, *OF_EN))
