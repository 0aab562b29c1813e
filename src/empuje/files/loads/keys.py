"""The keys of cases and loads, of floors' build-ups, and of reduced live loads."""

from __future__ import annotations

from ...core.model.cases import ACTIONS
from ...core.model.reduction import CODES
from ...core.model.rules import USES
from ...core.model.words import Level, Stage
from ..base.directions import DIRECTIONS, NORMAL
from ..base.forms import ABSENT, REQUIRED, Choice, Flag, Form, Key, Names, Quantity, Table, Text, Written
from ..frame.keys import POINTS

MEMBERS, BOTH, CASES = "selector of members", "selector", "names of cases"
GLOBAL = tuple(word for word, direction in DIRECTIONS.items() if not direction.local)
LEVEL_WAYS, WAYS = ("+x", "-x", "+y", "-y"), ("+x", "-x", "+y", "-y", "+z", "-z")

LAYER = Form("floors.NAME.dead.layers.NAME", (
    Key("thickness", Quantity("length"), REQUIRED, "of the layer"),
    Key("density", Quantity("density"), REQUIRED, "of the layer"),
))  # fmt: skip
LAYERS = Form("floors.NAME.dead.layers", each=Written("load per area, or a table", "pressure"))
FLOOR_PART = Form("floors.NAME.PART", (
    Key("case", Text("case"), REQUIRED, "the case it goes to"),
    Key("area", Quantity("pressure"), REQUIRED, "the load per area", "required without `layers`"),
    Key("layers", Table(LAYERS), ABSENT, "of `dead`: each layer's weight per area, or `thickness` and `density`; "
        "`area` comes on top", "none"),
    Key("use", Choice(USES), ABSENT, "of `live`: becomes that of its case", "that of its case"),
))  # fmt: skip
NO_PART = "none"
FLOOR = Form("floors.NAME", (
    Key("dead", Table(FLOOR_PART), ABSENT, "per area of the surface itself", NO_PART),
    Key("live", Table(FLOOR_PART), ABSENT, "per area in plan", NO_PART),
    Key("partitions", Table(FLOOR_PART), ABSENT, "per area in plan", NO_PART),
    Key("roof_live", Table(FLOOR_PART), ABSENT, "per area in plan", NO_PART),
    Key("construction_dead", Table(FLOOR_PART), ABSENT, "what is there while it is built: never more than `dead`; "
        "its case needs `stage = \"construction\"`, and the case of that floor's `dead` needs `stage = \"final\"`, "
        "so that it is not there twice", NO_PART),
    Key("construction_live", Table(FLOOR_PART), ABSENT, "per area in plan, never more than `live`; its case needs "
        "`stage = \"construction\"`", NO_PART),
    Key("mass", Table(FLOOR_PART), ABSENT, "the weight of what moves with the floor, for `[project] mass`; its case "
        "needs `stage = \"mass\"` and joins no combination of codes", NO_PART),
))  # fmt: skip

NATIONAL = Form("reduction.values", (
    Key("psi_0", Quantity("number"), 0.7, "psi_0 in alpha_A"),
    Key("A_0", Quantity("area"), 10.0, "reference area [m2]"),
    Key("alpha_A_min", Quantity("number"), 0.6, "least alpha_A, categories C and D"),
))  # fmt: skip
REDUCTION = Form("reduction", (
    Key("code", Choice(CODES), REQUIRED, "models in feet or inches are reduced with ASCE's constants for these, "
        "others with its metric ones"),
    Key("cases", Names(CASES), ABSENT, "live and roof live cases; areas add up over those of the same action and use",
        "all of them"),
    Key("K_LL", Table(Form("reduction.K_LL", each=Quantity("number"))), ABSENT, "by selector, in place of 4 for "
        "columns, 2 for beams, and 1 for cantilevers and beams with an overhang; cantilever slabs are not seen: "
        "columns that carry them need a smaller one (table 4.7-1)", "these"),
    Key("without", Names(MEMBERS), ABSENT, "members left out", "none"),
    Key("values", Table(NATIONAL), ABSENT, "EN 1991-1-1: national values of `psi_0` (0.7), `A_0` (10 m2), "
        "`alpha_A_min` (0.6, categories C and D)", "these"),
))  # fmt: skip

SELF_WEIGHT = Form("cases.NAME.self_weight", (
    Key("factor", Quantity("number"), 1.0, "on the weight of members and structural surfaces"),
    Key("dir", Choice(GLOBAL, "a global direction"), "down", "the direction it acts in"),
    Key("without", Names(MEMBERS), ABSENT, "members and structural surfaces without it", "none"),
))  # fmt: skip
A_X = Form("cases.NAME.A_x", each=Quantity("number"))
CASE = Form("cases.NAME", (
    Key("action", Choice(ACTIONS), REQUIRED, "what acts", "with `notional`"),
    Key("title", Text(), "", "free text"),
    Key("notional", Quantity("number"), ABSENT, "instead of an action: the case is a share of the vertical loads of "
        "each combination it is in, as an initial sway or a notional load, acting where they act (so that each "
        "level gets its share), towards `dir`. By itself it has no loads", "no notional load"),
    Key("dir", Choice(LEVEL_WAYS), REQUIRED, "where a notional load acts", "required with `notional`"),
    Key("use", Choice(USES), ABSENT, "what a floor with live load is for, which sets its factors in "
        "codes", "storage, with a warning"),
    Key("level", Choice.of(Level), ABSENT, "at which level loads of wind, snow or earthquakes are: `strength` as ASCE "
        "7 and AS/NZS 1170 give wind, `characteristic` as EN 1991 does; rules that take them at another are a warning",
        "that of [wind]"),
    Key("reversible", Flag(), False, "the case may also act the other way"),
    Key("along", Choice(WAYS), ABSENT, "the direction it acts in: a notional load acts with it that way, and seismic "
        "cases along x and y go crosswise; a seismic case along `+z` or `-z` goes with both", "in none"),
    Key("together", Text("a word"), "", "cases with the same one always act at once", "by itself"),
    Key("one_of", Text("a word"), "", "of the cases with the same one a single one acts at a time. Wind, seismic, "
        "snow, rain, thermal and moving cases do so without one", "as its action does"),
    Key("pattern", Flag(), False, "the case is one part of a live load in patterns: it may be absent even in lists "
        "as codes write them. Where results are sums such cases stand in brackets (`1.2 G + [1.6 N1]`), and "
        "envelopes take the worst of all patterns; else the patterns are listed one by one. Custom combinations have "
        "them too: `C1.without.N1` is one of `C1`"),
    Key("accidental_torsion", Quantity("number"), ABSENT, "of a seismic case with `along`: its forces on each rigid "
        "floor act so much of the floor's extent across them beside their place, either way (ASCE 7, 12.8.4.2 and EN "
        "1998-1, 4.3.2: 0.05), as a case of its own, called `EXt`", "none"),
    Key("A_x", Table(A_X), ABSENT, "by rigid floor: what its accidental torsion is amplified by (ASCE 7, 12.8.4.3), 1 "
        "to 3; `storeys --torsion` and `check` say by how much it should be", "1"),
    Key("stage", Choice.of(Stage), ABSENT, "`construction`: it joins construction sets only; `final`: it joins all "
        "but these; `mass`: it joins no combination of codes", "in all"),
    Key("total", Quantity("force"), ABSENT, "what all its loads come to together, worked out by hand: `check` "
        "warns where the resultant is more than 1 % off", "not compared"),
    Key("self_weight", Written("factor, or a table of `factor`, `dir`, `without`"), 0.0, "on the weight of all "
        "members, acting down, along their true length (g = 9.80665 m/s2); or with its direction and the members "
        "`without`"),
))  # fmt: skip

PLACE = "node, `[x, y]` in plan, `[x, y, z]`, or shares of the surface along its first side and across it"
SURFACE_LOAD = Form("loads.CASE on surfaces", (
    Key("on", Names("selector of surfaces"), REQUIRED, "what it acts on"),
    Key("area", Written("one value, or two with `along`", "pressure"), ABSENT, "force per area", "none"),
    Key("force", Quantity("force"), ABSENT, "a force `at` a place: on a member directly, by the lever rule along a "
        "one-way deck, or shared by strips along and across a two-way bay", "none"),
    Key("line", Written("one value, or two", "line"), ABSENT, "force per length `from` one point `to` "
        "another", "none"),
    Key("moment", Quantity("moment"), ABSENT, "on structural surfaces: a moment `at` a place about its `dir`, "
        "right-handed", "none"),
    Key("temperature", Quantity("temperature"), 0.0, "on structural surfaces: change of temperature in the middle"),
    Key("gradient", Quantity("gradient"), 0.0, "on structural surfaces: temperature per length along the normal"),
    Key("dir", Choice((*GLOBAL, *NORMAL), 'a global direction, `"normal"`, `"-normal"`, or `[x, y, z]`', True), "down",
        "values are positive along it"),
    Key("per", Choice(("projected", "surface")), "surface", "of `area`; `projected`: per area seen along `dir`"),
    Key("part", Written(POINTS, "length"), ABSENT, "of `area`: its own corners", "the whole"),
    Key("along", Written("`+x -x +y -y +z -z`, or two nodes"), ABSENT, "of `area`: the way from the first value to "
        "the second, over the extent of the loaded part", "required with two values"),
    Key("at", Written(PLACE, "length"), REQUIRED, "of `force` and `moment`", "required with these"),
    Key("from", Written(PLACE, "length"), REQUIRED, "of `line`", "required without `edge`"),
    Key("to", Written(PLACE, "length"), REQUIRED, "of `line`", "required without `edge`"),
    Key("edge", Written("number of an edge"), ABSENT, "of `line`, in place of `from` and `to`: along this edge, 1 from "
        "the first corner to the second", "`from`, `to`"),
))  # fmt: skip
LOAD = Form("loads.CASE", (
    Key("on", Names(BOTH), REQUIRED, "what it acts on"),
    Key("line", Written("one value, `[at start, at end]`, or `[[position, value], ...]`", "line"), ABSENT, "on "
        "members: force per length (zero outside)", "none"),
    Key("force", Quantity("force"), ABSENT, "on nodes, or on members with `at`", "none"),
    Key("moment", Quantity("moment"), ABSENT, "on nodes, or on members with `at`; it must say its `dir`, the axis "
        "it turns about, right-handed", "none"),
    Key("temperature", Quantity("temperature"), 0.0, "on members: change of temperature at the centroid, T = "
        "temperature + gradient_y y + gradient_z z"),
    Key("gradient_y", Quantity("gradient"), 0.0, "temperature per length along local y"),
    Key("gradient_z", Quantity("gradient"), 0.0, "temperature per length along local z"),
    Key("lack_of_fit", Quantity("length"), 0.0, "on members: made too long (positive) or too short by so much"),
    Key("dir", Choice(tuple(DIRECTIONS), '`down`, `up`, `+x -x +y -y +z -z`, `"local x"`, `"-local z"`, ..., or '
        '`[x, y, z]`', True), "down",
        "values are positive along it"),
    Key("from", Written("position", "length"), "0%", "where a `line` of one or two values begins; its first value "
        "is there. Also where forces `every` so far begin"),
    Key("to", Written("position", "length"), "100%", "where these end; the second value is there"),
    Key("per", Choice(("projected", "member")), "member", "`projected`: per length seen along the load's direction, "
        "as snow on a slope; else per length of the member"),
    Key("at", Written('position, a list of them, `"panel points"`, `"ends"`', "length"), REQUIRED, "of a `force` or "
        "`moment` on a member; a `force` may be at the panel points of a chord (all members `on` names, end to end), "
        "or at its ends", "for loads on nodes"),
    Key("every", Quantity("length"), ABSENT, "of a `force` or `moment`, in place of `at`: so far from one another, "
        "from `from` to `to`", "`at`"),
), beside=(SURFACE_LOAD,))  # fmt: skip
