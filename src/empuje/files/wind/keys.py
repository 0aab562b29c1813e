"""The keys of [wind], as keys.py has those of all else."""

from __future__ import annotations

from ...core.model.words import Chimney, Enclosure, Flow, Rise, RoofForm, Tower, Upward, WindCode
from ..base.forms import ABSENT, REQUIRED, Choice, Flag, Form, Key, Names, Quantity, Table, Written

SURFACES, MEMBERS = "selector of surfaces", "selector of members"
ASCE, EN = "ASCE: ", "EN: "

HILL = Form("wind.hill", (
    Key("shape", Choice.of(Rise), REQUIRED, "what the site lies on or near (ASCE 7, figure 26.8-1)"),
    Key("H", Quantity("length"), REQUIRED, "its height above the ground upwind"),
    Key("L_h", Quantity("length"), REQUIRED, "from the crest upwind to half its height"),
    Key("x", Quantity("length"), 0.0, "from the crest to the site; negative upwind of the crest"),
))  # fmt: skip
COMPONENT = Form("wind.components.SELECTOR", (
    Key("area", Quantity("area"), ABSENT, "effective area (ASCE 26.2), loaded area (EN)", "span times width"),
    Key("span", Quantity("length"), ABSENT, "of the member", "the shortest between its nodes"),
    Key("width", Quantity("length"), ABSENT, "that it carries", "by the surfaces it bears"),
    Key("GC_p", Written("two numbers"), ABSENT, ASCE + "coefficients, positive and negative: needed for roofs steeper "
        "than 7 degrees or above 60 ft", "figures 30.3-1, 30.3-2A and 30.4-1"),
))  # fmt: skip
ROOFTOP = Form("wind.rooftop.NAME", (
    Key("at", Names("selector of nodes"), REQUIRED, "the nodes that hold it; they share its forces alike"),
    Key("A_f", Written("an area, or a table by direction", "area"), REQUIRED, "what the wind sees of it: `\"3 m2\"`, "
        "`{ WX = 3, WY = 5 }`"),
    Key("A_r", Quantity("area"), 0.0, "its area in plan, for the uplift"),
))  # fmt: skip
SLICE = Form("wind.slice", (
    Key("length", Quantity("length"), REQUIRED, "of the building, across the plane"),
    Key("place", Quantity("length"), REQUIRED, "of the frame, from the end of the building at lower y"),
    Key("width", Quantity("length"), REQUIRED, "that the frame carries, half of it on each side"),
))  # fmt: skip
UNCLAD = Form("wind.unclad.SELECTOR", (
    Key("C_f", Quantity("number"), ABSENT, "force coefficient (c_f)", "found from the section's shape"),
    Key("width", Quantity("length"), ABSENT, "of the member as the wind sees it", "of its section, as it is turned"),
    Key("solidity", Written('a number, or `"found"`'), ABSENT, "of the frame these members form: they are then "
        "taken as one (ASCE 7, figure 29.4-2; EN 1991-1-4, 7.11, with C_f stated, or the solidity is reported and asks "
        "for it). `\"found\"`: their seen area over that of the outline around them, of one face across the wind",
        "members by themselves"),
    Key("tower", Choice.of(Tower), ABSENT, ASCE + "they are a trussed tower of this plan: C_f on the "
        "solid area of one face, shared by all that is seen (figure 29.4-3); needs `solidity`, of a face", "no tower"),
    Key("chimney", Choice.of(Chimney), ABSENT, ASCE +
        "they are a chimney, tank or pole that stands by itself, by h/D (figure 29.4-1): round with a surface, square "
        "with the wind across or along a diagonal, or hexagonal or octagonal", "members of a frame"),
    Key("shielding", Quantity("number"), 1.0, "factor for what stands before them"),
))  # fmt: skip
UNCLAD_MEMBERS = Form("wind.unclad", each=Table(UNCLAD))
DIRECTION = Form("wind.directions.NAME", (
    Key("towards", Written('`"+x"`, `"-y"`, an angle from x', "angle"), REQUIRED, "where the wind blows towards"),
    Key("variants", Names("endings of case names, or globs"), ABSENT, "the cases that are kept", "as `[wind]` says"),
    Key("unclad", Table(UNCLAD_MEMBERS), ABSENT, "unclad members of this direction", "those of `[wind]`"),
    Key("B", Quantity("length"), ABSENT, "the building's extent across the wind (b)", "found"),
    Key("L", Quantity("length"), ABSENT, "the building's extent along the wind (d)", "found"),
    Key("windward", Names(SURFACES), ABSENT, "walls and parapets on that side", "found"),
    Key("leeward", Names(SURFACES), ABSENT, "walls and parapets on that side", "found"),
    Key("side", Names(SURFACES), ABSENT, "walls and parapets along the wind", "found"),
    Key("exposure", Choice(("B", "C", "D")), ABSENT, ASCE + "exposure category upwind", "as `[wind]` says"),
    Key("terrain", Choice(("0", "I", "II", "III", "IV")), ABSENT, EN + "terrain category upwind", "as `[wind]` says"),
    Key("ground", Quantity("length"), ABSENT, "level of the ground on that side", "as `[wind]` says"),
    Key("hill", Table(HILL), ABSENT, ASCE + "hill, ridge or escarpment as this direction crosses it",
        "as `[wind]` says"),
    *(Key(name, Quantity("number"), ABSENT, words, "as `[wind]` says") for name, words in (
        ("K_zt", ASCE + "topographic factor"), ("K_d", ASCE + "directionality factor"),
        ("c_dir", EN + "directional factor"), ("c_o", EN + "orography factor"), ("k_r", EN + "terrain factor"),
    )),
    *(Key(name, Quantity("length"), ABSENT, words, "by terrain") for name, words in (
        ("z_0", EN + "roughness length"), ("z_min", EN + "minimum height"),
    )),
))  # fmt: skip
BUILDING = Form("wind.buildings.NAME", (
    Key("exterior", Names(SURFACES), REQUIRED, "its walls and roofs, of those in `[wind] exterior`"),
    Key("enclosure", Choice.of(Enclosure), ABSENT, "of this building", "as `[wind]` says, or from its openings"),
    Key("h", Quantity("length"), ABSENT, "mean roof height above the ground (ASCE), height (EN)", "found"),
    Key("theta", Quantity("angle"), ABSENT, "slope of its roofs", "found"),
    Key("roof_form", Choice.of(RoofForm), ABSENT, "what its roofs of many faces are", "as `[wind]` says, or found"),
    Key("GC_pi", Quantity("number"), ABSENT, ASCE + "internal pressure coefficient", "by `enclosure`"),
    Key("c_pi", Written("one number, or two"), ABSENT, EN + "internal pressure coefficients", "as `[wind]` says"),
    Key("h_p", Quantity("length"), ABSENT, EN + "height of parapets around its flat roofs", "as `[wind]` says"),
    Key("c_fr", Quantity("number"), ABSENT, EN + "friction coefficient", "as `[wind]` says"),
))  # fmt: skip

COMMON = (
    Key("code", Choice.of(WindCode), REQUIRED, "the code"),
    Key("directions", Table(Form("wind.directions", each=Written('`"+x"`, an angle, or a table', "angle"))), REQUIRED,
        "named directions the wind blows towards: `WX = \"+x\"`, `WD = \"30 deg\"`, or a table with `towards`"),
    Key("variants", Names("endings of case names, or globs"), ABSENT, "the cases that are kept: `[\"1*\", "
        "\"min\"]`", "all"),
    Key("exterior", Names(SURFACES), ABSENT, "the walls and roofs that face the wind; their `normal` points out",
        "no building"),
    Key("buildings", Table(Form("wind.buildings", each=Table(BUILDING))), ABSENT, "surfaces that are one building, "
        "and what is stated of it alone", "every loop of walls in plan, with the roofs on it"),
    Key("free_roofs", Names(SURFACES), ABSENT, "roofs without walls below", "none"),
    Key("flow", Choice.of(Flow), Flow.CLEAR, "below free roofs: obstructed where goods fill more than half of it"),
    Key("parapets", Names(SURFACES), ABSENT, "walls above the roof that have wind on both faces", "none"),
    Key("unclad", Table(UNCLAD_MEMBERS), ABSENT, "members outside exterior surfaces in the wind, by selector: "
        "`{ columns = {}, \"braces/*\" = { C_f = 1.6 } }`", "none"),
    Key("enclosure", Choice.of(Enclosure), ABSENT, "of the building", "from `openings`, else enclosed, "
        "partially where its walls do not close, with a note"),
    Key("openings", Table(Form("wind.openings", each=Quantity("area"))), ABSENT, "their area, by surface", "none "
        "stated"),
    Key("components", Table(Form("wind.components", each=Table(COMPONENT))), ABSENT, "components and cladding, by "
        "selector of members: purlins, rails, battens. Cases of their own load them alone (`CWp`, `CWn`; EN: of "
        "every direction), in the sets `components` and `components service`", "none"),
    Key("slice", Table(SLICE), ABSENT, "of a plane model: what the frame is of its building; `exterior` and "
        "`free_roofs` are selectors of members then", "required in a plane model"),
    Key("ground", Quantity("length"), ABSENT, "its level in the model", "the lowest support or exterior point"),
    Key("h", Quantity("length"), ABSENT, "mean roof height above the ground (ASCE), height (EN)", "found"),
    Key("theta", Quantity("angle"), ABSENT, "slope of the roofs", "found"),
    Key("roof_form", Choice.of(RoofForm), ABSENT, "what roofs of many faces are: arched, or each face by its own fall",
        "arched where five planes or more bend along one way, folded else"),
    Key("profile", Choice.of(Upward), Upward.LINEAR, "how pressures follow the height: in straight pieces within "
        "0.1 %, or in steps of the code's table"),
    Key("n_1", Written('a frequency, or `"analysed"`', "frequency"), ABSENT, "lowest natural frequency, for a flexible "
        "building; `\"analysed\"`: that of the frame along each direction, with the masses of `[project] mass`",
        "not known"),
    Key("eccentricity", Quantity("number"), ABSENT, "of loads in torsion, as a share of B: 0.15 in ASCE 7 (load "
        "cases 2 and 4). In EN it makes further cases (7.1.2)", "0.15, or none"),
)  # fmt: skip
OF_ASCE = (
    Key("V", Quantity("speed"), REQUIRED, ASCE + "basic wind speed", "required for ASCE"),
    Key("V_service", Quantity("speed"), ABSENT, ASCE + "wind speed of service: rules of service then take "
        "(V_service/V)^2 of the wind cases", "as their `values` say"),
    Key("exposure", Choice(("B", "C", "D")), REQUIRED, ASCE + "exposure category", "required for ASCE"),
    Key("elevation", Quantity("length"), 0.0, ASCE + "of the ground above sea level, for K_e"),
    Key("K_e", Quantity("number"), ABSENT, ASCE + "ground elevation factor", "from `elevation`"),
    Key("K_zt", Quantity("number"), ABSENT, ASCE + "topographic factor at all heights", "from `hill`, else 1"),
    Key("hill", Table(HILL), ABSENT, ASCE + "hill, ridge or escarpment", "none"),
    Key("K_d", Quantity("number"), ABSENT, ASCE + "directionality factor", "`0.85`"),
    Key("G", Written('a number, `"rigid"` or `"flexible"`'), ABSENT, ASCE + "gust factor; computed for a rigid "
        "building, or for a flexible one from `n_1`", "`0.85`"),
    Key("beta", Quantity("number"), ABSENT, ASCE + "damping ratio of a flexible building", "`0.01`"),
    Key("e_R", Quantity("length"), ABSENT, ASCE + "from the shear centre to the centre of mass of a flexible "
        "building's floors, the larger of its directions: load cases 2 and 4 by (27.3-4)",
        "as of rigid buildings, with a warning"),
    Key("GC_pi", Quantity("number"), ABSENT, ASCE + "internal pressure coefficient", "by `enclosure`"),
    Key("rooftop", Table(Form("wind.rooftop", each=Table(ROOFTOP))), ABSENT, ASCE + "equipment and structures on roofs "
        "(29.4.1): forces on the nodes that hold them", "none"),
    Key("reduce_by_area", Flag(), False, ASCE + "roof coefficients of -1.3 are reduced for the area they act on"),
    Key("minimum", Flag(), True, ASCE + "cases of the minimum load (27.1.5)"),
)  # fmt: skip
OF_EN = (
    Key("v_b0", Quantity("speed"), REQUIRED, EN + "fundamental basic wind velocity", "required for EN"),
    Key("terrain", Choice(("0", "I", "II", "III", "IV")), REQUIRED, EN + "terrain category", "required for EN"),
    *(Key(name, Quantity("number"), ABSENT, EN + words, usual) for name, words, usual in (
        ("c_dir", "directional factor", "`1`"), ("c_season", "season factor", "`1`"),
        ("c_o", "orography factor", "`1`"),
        ("k_r", "terrain factor", "by (4.5)"), ("k_I", "turbulence factor", "`1`"),
    )),
    Key("z_0", Quantity("length"), ABSENT, EN + "roughness length", "by terrain"),
    Key("z_min", Quantity("length"), ABSENT, EN + "minimum height", "by terrain"),
    Key("rho", Quantity("density"), ABSENT, EN + "density of air", "1.25 kg/m3"),
    Key("c_scd", Written('a number, or `"flexible"`'), ABSENT, EN + "structural factor; computed from `n_1` by annex B",
        "`1`"),
    Key("delta", Quantity("number"), ABSENT, EN + "logarithmic decrement", "`0.05`"),
    Key("c_pi", Written("one number, or two"), ABSENT, EN + "internal pressure coefficients: a positive one, a "
        "negative one",
        "from `openings`, else 0.2 and -0.3"),
    Key("h_p", Quantity("length"), 0.0, EN + "height of parapets around flat roofs, for their coefficients"),
    Key("returns", Flag(), True, EN + "parapets go round the corners"),
    Key("c_fr", Quantity("number"), ABSENT, EN + "friction coefficient: 0.01, 0.02 or 0.04 (table 7.10)", "none, "
        "with a warning where friction counts"),
    Key("correlation", Flag(), False, EN + "windward and leeward walls with the factor of 7.2.2 (3)"),
    Key("canopy", Choice(("whole", "zones")), "whole", EN + "free roofs by their overall force c_f, for frames, "
        "or by net pressures of zones, for sheets and purlins"),
    Key("psi_lambda", Quantity("number"), ABSENT, EN + "end-effect factor of unclad members", "`1`"),
    Key("k", Quantity("length"), ABSENT, EN + "roughness of round unclad members (table 7.13)", "0.2 mm"),
)  # fmt: skip
WIND = Form("wind", (*COMMON, *OF_ASCE, *OF_EN))
