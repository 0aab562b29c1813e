"""Every key of a model file, of the tables beside it and of rule files.

What a key takes, what it means and what leaving it out means is said here once: the readers ask for keys by name, and
docs/model-file.md lists what stands here.
"""

from __future__ import annotations

from ..core.catalogue.shapes import SHAPES
from ..core.model.cases import ACTIONS
from ..core.model.frame import FREEDOMS
from ..core.model.reduction import CODES
from ..core.model.rules import CRANE_USE, USES
from ..core.model.words import Acts, Carry, Design, Expansion, Level, Made, Order, Set, Stage, Stress
from .directions import DIRECTIONS, NORMAL
from .forms import ABSENT, REQUIRED, Choice, Flag, Form, Key, Names, Quantity, Table, Tables, Text, Written
from .keys_checks import ACCEPTED, PLAUSIBLE
from .keys_copies import COPY
from .keys_cranes import CRANES
from .keys_limits import LIMIT
from .keys_makers import MAKER
from .keys_report import REPORT
from .keys_steel import STEEL
from .keys_tables import TABLES
from .keys_traffic import TRAFFICS, VEHICLES
from .keys_wind import WIND

NODES, MEMBERS, BOTH = "selector of nodes", "selector of members", "selector"
CASES = "names of cases"
GLOBAL = tuple(word for word, direction in DIRECTIONS.items() if not direction.local)
LEVEL_WAYS, WAYS = ("+x", "-x", "+y", "-y"), ("+x", "-x", "+y", "-y", "+z", "-z")
OWN_SHAPES = tuple(shape for shape in SHAPES if shape != "wide flange")

ANALYSIS = Form("project.analysis", each=Choice.of(Order))
PROJECT = Form("project", (
    Key("title", Text(), "", "free text, shown on drawings and in the summary"),
    Key("number", Text(), "", "of the project, for the title block of the report", "none"),
    Key("author", Text(), "", "who made the model, for the title block", "none"),
    Key("revision", Text(), "", "of the model, for the title block", "none"),
    Key("date", Text(), "", "of the revision, as text, for the title block: none is made up", "none"),
    Key("units", Text('`"kN m"`, `"kip ft"`, ...'), REQUIRED, "the force and the length a bare number has"),
    Key("display", Text('`"kN m mm MPa"`'), ABSENT, "units of the tables: force, length, displacement, stress. "
        "Rotations are in mrad", "that of `units`, with mm and MPa or in and ksi"),
    Key("snap", Quantity("length"), ABSENT, "written nodes within this distance of an earlier one, or of a crossing of "
        "the grid, are joined to it, and so is what makers and copies lay; told. Without it nodes are one within 1 mm "
        "of a crossing or a copy only", "none"),
    Key("space", Choice(("3D", "plane")), "3D", '`"plane"`: the X-Z plane, nodes are `[x, z]`, freedoms `x z ry`'),
    Key("analysis", Written('`"first-order"`, `"second-order"`, `"direct analysis"`, or a table'), Order.FIRST,
        "for every combination, or a table with a word for each set (`strength`, `service`, `stability`, "
        "`construction`, `custom`: those in no set). See [Second order](#second-order)"),
    Key("mass", Text("formula of cases"), ABSENT, "cases whose vertical loads are masses; `empuje storeys` finds "
        "the floors' centres of mass from it", "no masses"),
))  # fmt: skip

NAMED = Form("values of a model", each=Written("quantity"))

FILES = Names("file, or list of files")
GRID_LINES = Form("grid lines", each=Quantity("length"))
GRID = Form("grid", tuple(
    Key(axis, Table(GRID_LINES), REQUIRED, f"names and coordinates of the lines across {axis}") for axis in "xyz"
))  # fmt: skip

NODE_BETWEEN = Form("nodes.NAME", (
    Key("between", Names("two nodes"), REQUIRED, "the nodes it lies between"),
    Key("at", Written("length or share", "length"), REQUIRED, "how far from the first"),
))  # fmt: skip
NODE_PLACES = Form("nodes", each=Written("`[x, y, z]`, or a table", "length"))

MATERIAL = Form("materials.NAME", (
    Key("E", Quantity("stress"), REQUIRED, "modulus of elasticity"),
    Key("G", Quantity("stress"), ABSENT, "shear modulus", "`E/2.6`"),
    Key("density", Quantity("density"), 0.0, "mass or weight per volume"),
    Key("expansion", Quantity("expansion"), 0.0, "thermal expansion"),
    Key("fy", Quantity("stress"), ABSENT, "yield strength of a steel, at any thickness", "not checked"),
    Key("fu", Quantity("stress"), ABSENT, "its tensile strength", "`fy`"),
    Key("grade", Choice(("S235", "S460")), "S235", "whose buckling curves a steel of its own has: `S460` has better "
        "ones than all lower grades (EN 1993-1-1, table 6.2)"),
))  # fmt: skip

FIBRE = Form("sections.NAME.fibres.NAME", (
    Key("y", Quantity("length"), REQUIRED, "place from the centroid, in the section's own axes"),
    Key("z", Quantity("length"), REQUIRED, "place from the centroid, in the section's own axes"),
    Key("S_y", Quantity("modulus"), ABSENT, "first moment about y of the area beyond the point", "no shear stress"),
    Key("t_y", Quantity("length"), ABSENT, "width of the material there, across z", "no shear stress"),
    Key("S_z", Quantity("modulus"), ABSENT, "first moment about z of the area beyond the point", "no shear stress"),
    Key("t_z", Quantity("length"), ABSENT, "width of the material there, across y", "no shear stress"),
    Key("led_by", Choice.of(Stress), ABSENT, "the stress that leads its envelope, for `envelope --led-by own`", "none"),
))  # fmt: skip
DIMENSIONS = {
    "h": "height", "b": "breadth", "d": "diameter", "t": "thickness", "tw": "thickness of webs",
    "tf": "thickness of flanges", "r": "root or outer radius", "r2": "toe or inner radius",
}  # fmt: skip
PROPERTIES = {
    "A": ("area", "area"), "Iy": ("inertia", "second moment about y"), "Iz": ("inertia", "second moment about z"),
    "J": ("inertia", "torsion constant"), "Iw": ("warping", "warping constant"), "Ay": ("area", "shear area along y"),
    "Az": ("area", "shear area along z"), "Wel_y": ("modulus", "elastic modulus about y"),
    "Wel_z": ("modulus", "elastic modulus about z"), "Wpl_y": ("modulus", "plastic modulus about y"),
    "Wpl_z": ("modulus", "plastic modulus about z"),
}  # fmt: skip
SECTION = Form("sections.NAME", (
    Key("shape", Choice(OWN_SHAPES), REQUIRED, "see below", "properties are given"),
    *(Key(name, Quantity("length"), REQUIRED, words, "by shape") for name, words in DIMENSIONS.items()),
    *(Key(name, Quantity(kind), REQUIRED, words, "unknown") for name, (kind, words) in PROPERTIES.items()),
    Key("mirror_of", Text("section"), ABSENT, "it is the mirror image of that one, left for right, and says nothing "
        "else", "it is none"),
    Key("made", Choice.of(Made), ABSENT, "for checks: buckling curves and shear areas differ", "an I, tee or channel "
        "without `r`, and a box: `welded`; tubes: `cold formed`; others: `rolled`"),
    Key("fibres", Table(Form("sections.NAME.fibres", each=Table(FIBRE))), ABSENT, "named points for stresses",
        "corners and centroid"),
))  # fmt: skip

END = Form("members.NAME.ends", (
    Key("free", Text("freedoms"), "", "what is free, in member axes"),
    *(Key(f, Quantity("spring" if f in "xyz" else "turning spring"), ABSENT, "the spring that ties it", "tied")
      for f in FREEDOMS),
))  # fmt: skip
STYLE = (
    Key("ends", Written('`"rigid"`, `"hinged"`, or a table; once or `[start, end]`'), "rigid", "what is free and "
        "what is on springs, in member axes: `{ free = \"ry\" }`, `{ ry = \"8 MN*m/rad\", free = \"x\" }`. "
        "`\"hinged\"` frees My and Mz; torsion stays tied"),
    Key("acts", Choice.of(Acts), Acts.BOTH, "`tension`: can only pull; `compression`: can only push"),
    Key("shear", Flag(), False, "the members also deform in shear, by the section's shear areas Ay and Az"),
    Key("bar", Flag(), False, "axial force only, hinged at both ends, no torsion, not split by nodes on it"),
    Key("roll", Quantity("angle"), 0.0, "turns the section about the member's axis"),
    Key("offsets", Written("length, or `[start, end]`", "length"), 0.0, "rigid lengths at the member's ends, such "
        "as the half depth of a column. `ends` sit where they stop. Loads on them go into the node; positions and "
        "results still count from node to node"),
)  # fmt: skip
OWN_SECTION = Key("section", Text("name"), ABSENT, "its own, as of a haunch", "that of its family")
PIECE = Form("members.NAME.pieces.NAME", (
    Key("between", Written("two nodes"), REQUIRED, "the nodes it joins"), OWN_SECTION, *STYLE,
))  # fmt: skip
MEMBER = Form("members.NAME", (
    Key("section", Text("name"), REQUIRED, "of the model's own or built in"),
    Key("material", Text("name"), REQUIRED, "of the model's own or built in"),
    Key("runs", Names("run, or list of runs"), ABSENT, "rules over the grid: `x part / y part / z part` (in a plane "
        "model `x part / z part`)", "none"),
    Key("pieces", Table(Form("members.NAME.pieces", each=Written('`"A > B"`, or a table with `between`'))), ABSENT,
        "named members between two nodes; a piece may have its own `section`, `ends`, `bar`, `roll`, `shear`, `acts` "
        "and `offsets`", "none"),
    *STYLE,
))  # fmt: skip

TURN = Form("supports.turn", tuple(Key(a, Quantity("angle"), ABSENT, f"turned about {a}") for a in "xyz"))
SPRING = Form("supports.spring", tuple(
    Key(f, Quantity("spring" if f in "xyz" else "turning spring"), 0.0, "stiffness") for f in FREEDOMS
))  # fmt: skip
SETTLE = Form("supports.settle", (
    Key("case", Text("case"), REQUIRED, "the case it belongs to"),
    *(Key(f, Quantity("length" if f in "xyz" else "rotation"), 0.0, "motion of the ground") for f in FREEDOMS),
))  # fmt: skip
SUPPORT = Form("supports", (
    Key("at", Names(NODES), REQUIRED, "where it is"),
    Key("fix", Text('`"fixed"`, `"pinned"`, or freedoms'), REQUIRED, "what is held, in global axes (in a plane "
        "model of `x z ry`)", "nothing held"),
    Key("spring", Table(SPRING), ABSENT, "freedoms on springs, instead of or beside `fix`: force per length, moment "
        "per rad", "none"),
    Key("lift", Flag(), False, "in z the support can only push the structure up; it lets go of it where it would "
        "have to pull"),
    Key("turn", Table(TURN), ABSENT, "the support's axes, turned about a global axis, right-handed: `{ y = \"12 "
        "deg\" }` turns z towards x; about several, one after another in the order x, y, z. `fix`, `spring`, `lift` "
        "and `settle` are meant in them; results stay in global axes", "global axes"),
    Key("settle", Tables(SETTLE), ABSENT, "how the ground moves, scaled with its case: `case`, and lengths or "
        "rotations (with their unit) of freedoms that are held or on springs", "it does not"),
))  # fmt: skip

DIAPHRAGM = Form("diaphragms.NAME", (
    Key("nodes", Names(NODES), REQUIRED, "all at one level; they share the motions x, y and rz (in a plane model x)"),
))  # fmt: skip

POINTS = "corners: nodes, crossings of the grid, or `[x, y, z]`"
SURFACE = Form("surfaces.NAME", (
    Key("corners", Written(POINTS, "length"), REQUIRED, "at least three, in order around the outline, flat within 1 "
        "mm. The `normal` of a surface is right-handed about them: counter-clockwise as seen from where it points "
        "to"),
    Key("openings", Written("lists of corners", "length"), ABSENT, "outlines of holes in it", "none"),
    Key("deck", Written('`"x"`, `"y"`, `"z"`, an angle, two places, `"short"`, `"two-way"`', "angle"), REQUIRED,
        "how it spans: along an axis, or at an angle from x (`\"30 deg\"`; all seen in plan, so a sloping deck may "
        "span down the slope), the shorter way of each bay, or both ways", "required without `carry`"),
    Key("bearing", Names(MEMBERS), ABSENT, "what may carry it; the others in its plane are passed over", "all "
        "members in its plane but bars"),
    Key("carry", Choice.of(Carry), Carry.MEMBERS, "`nodes`: its corners and inner nodes share the loads of each bay, "
        "bilinear between four of them, as for a plate that is not modelled. It has no `deck` then"),
    Key("floor", Text("floor"), "", "a build-up of `[floors]`", "none"),
))  # fmt: skip

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
    Key("factor", Quantity("number"), 1.0, "on the members' weight"),
    Key("dir", Choice(GLOBAL, "a global direction"), "down", "the direction it acts in"),
    Key("without", Names(MEMBERS), ABSENT, "members without it", "none"),
))  # fmt: skip
A_X = Form("cases.NAME.A_x", each=Quantity("number"))
CASE = Form("cases.NAME", (
    Key("action", Choice(ACTIONS), REQUIRED, "what acts", "with `lean`"),
    Key("title", Text(), "", "free text"),
    Key("lean", Quantity("number"), ABSENT, "instead of an action: the case is a share of the vertical loads of "
        "each combination it is in, as an initial sway or a notional load, acting where they act (so that each "
        "level gets its share), towards `dir`. By itself it has no loads", "no lean"),
    Key("dir", Choice(LEVEL_WAYS), REQUIRED, "where a lean goes", "required with `lean`"),
    Key("use", Choice(USES), ABSENT, "what a floor with live load is for, which sets its factors in "
        "codes", "storage, with a warning"),
    Key("level", Choice.of(Level), ABSENT, "at which level loads of wind, snow or earthquakes are: `strength` as ASCE "
        "7 and AS/NZS 1170 give wind, `characteristic` as EN 1991 does; rules that take them at another are a warning",
        "that of [wind]"),
    Key("reversible", Flag(), False, "the case may also act the other way"),
    Key("along", Choice(WAYS), ABSENT, "the direction it acts in: a lean goes with it that way, and seismic cases "
        "along x and y go crosswise; a seismic case along `+z` or `-z` goes with both", "in none"),
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
    Key("dir", Choice((*GLOBAL, *NORMAL), 'a global direction, `"normal"`, `"-normal"`, or `[x, y, z]`', True), "down",
        "values are positive along it"),
    Key("per", Choice(("projected", "surface")), "surface", "of `area`; `projected`: per area seen along `dir`"),
    Key("part", Written(POINTS, "length"), ABSENT, "of `area`: its own corners", "the whole"),
    Key("along", Written("`+x -x +y -y +z -z`, or two nodes"), ABSENT, "of `area`: the way from the first value to "
        "the second, over the extent of the loaded part", "required with two values"),
    Key("at", Written(PLACE, "length"), REQUIRED, "of `force`", "required with `force`"),
    Key("from", Written(PLACE, "length"), REQUIRED, "of `line`", "required with `line`"),
    Key("to", Written(PLACE, "length"), REQUIRED, "of `line`", "required with `line`"),
))  # fmt: skip
LOAD = Form("loads.CASE", (
    Key("on", Names(BOTH), REQUIRED, "what it acts on"),
    Key("line", Written("one value, `[at start, at end]`, or `[[position, value], ...]`", "line"), ABSENT, "on "
        "members: force per length (zero outside)", "none"),
    Key("force", Quantity("force"), ABSENT, "on nodes, or on members with `at`", "none"),
    Key("moment", Quantity("moment"), ABSENT, "on nodes, or on members with `at`; it must say its `dir`, the axis "
        "it turns about, right-handed", "none"),
    Key("warm", Quantity("temperature"), 0.0, "on members: change of temperature at the centroid, T = warm + "
        "gradient_y y + gradient_z z"),
    Key("gradient_y", Quantity("gradient"), 0.0, "temperature per length along local y"),
    Key("gradient_z", Quantity("gradient"), 0.0, "temperature per length along local z"),
    Key("misfit", Quantity("length"), 0.0, "on members: made too long (positive) or too short by so much"),
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

CUSTOM_COMBINATION = Form("combinations.custom.NAME", (
    Key("formula", Text("factored cases"), REQUIRED, "what it is made of"),
    Key("set", Choice.of(Set), ABSENT, "the set it belongs to", "in none"),
    Key("second_order_at", Quantity("number"), 1.0, "by second order, at so many times its loads"),
    Key("clause", Text("clause"), "", "where it stands; told wherever combinations are listed", "none"),
))  # fmt: skip
NUMBERS = Form("numbers", each=Quantity("number"))
COMBINATIONS = Form("combinations", (
    Key("rules", Names("names of rules"), ABSENT, "sets of a code's rules. Which cases the model has decides what "
        "comes of them: add a snow case, and the list follows", "none"),
    Key("rule_files", FILES, ABSENT, "rule files of your own, beside the model", "none"),
    Key("expansion", Choice.of(Expansion), Expansion.COMPLETE, "`complete`: every variable action may also be "
        "absent, as codes ask where a load relieves; `as written`: every term of a rule present, once for each "
        "alternative"),
    Key("reduce", Flag(), True, "of the complete list, combinations that are a mix of others are dropped where "
        "results are sums; the envelope stays the same. Equal ones are always dropped"),
    Key("only", Names("names or globs"), ABSENT, "rules (`U3`) or combinations (`U4+W*`) that are kept", "all"),
    Key("leave_out", Names("names or globs"), ABSENT, "rules or combinations that are not", "none"),
    Key("values", Table(NUMBERS), ABSENT, "numbers of the rule files, such as national values: `values = { gamma_G "
        "= 1.2 }`", "the code's own"),
    Key("factors", Table(Form("combinations.factors", each=Table(NUMBERS))), ABSENT, "tables of the rule files: "
        "`[combinations.factors] psi0 = { snow = 0.7 }`", "the code's own"),
    Key("second_order_at", Table(NUMBERS), ABSENT, "by set of rules: how many times its loads a combination is "
        "analysed at by second order, the results then divided by it; `how` shows it", "1.6 for allowable-stress "
        "sets (AISC 360, C2.1), 1 for others"),
    Key("custom", Table(Form("combinations.custom", each=Written("formula, or a table"))), ABSENT, "formulas of "
        "factored cases, each of which may belong to a `set`: `strength`, `service`, `stability` or "
        "`construction`", "none"),
))  # fmt: skip

MODEL = Form("model", (
    Key("project", Table(PROJECT), REQUIRED, "title, units, kind of analysis"),
    Key("include", Names("file, or list of files"), ABSENT, "files beside the model that say more"),
    Key("values", Table(NAMED), ABSENT, "named values"),
    Key("tables", Table(TABLES), ABSENT, "tables beside the model"),
    Key("grid", Table(GRID), ABSENT, "named lines"),
    Key("nodes", Table(NODE_PLACES), ABSENT, "free nodes"),
    Key("materials", Table(Form("materials", each=Table(MATERIAL))), ABSENT, "the model's own materials"),
    Key("sections", Table(Form("sections", each=Table(SECTION))), ABSENT, "the model's own sections"),
    Key("members", Table(Form("members", each=Table(MEMBER))), REQUIRED, "families of members"),
    Key("makers", Table(Form("makers", each=Table(MAKER))), ABSENT, "members laid by kinds: trusses, bracing, purlins"),
    Key("supports", Tables(SUPPORT), REQUIRED, "supports"),
    Key("copies", Tables(COPY), ABSENT, "parts of the model shifted, turned or mirrored"),
    Key("diaphragms", Table(Form("diaphragms", each=Table(DIAPHRAGM))), ABSENT, "floors rigid in plan"),
    Key("surfaces", Table(Form("surfaces", each=Table(SURFACE))), ABSENT, "floors, roofs and walls"),
    Key("floors", Table(Form("floors", each=Table(FLOOR))), ABSENT, "what floors weigh and carry"),
    Key("reduction", Table(REDUCTION), ABSENT, "of live loads"),
    Key("wind", Table(WIND), ABSENT, "wind by code, and the cases it makes"),
    Key("vehicles", Table(VEHICLES), ABSENT, "vehicles of the model's own"),
    Key("cranes", Table(CRANES), ABSENT, "bridge cranes on two runways, each a moving case"),
    Key("traffic", Table(TRAFFICS), ABSENT, "moving loads, each a case by its name"),
    Key("cases", Table(Form("cases", each=Table(CASE))), REQUIRED, "load cases"),
    Key("loads", Table(Form("loads", each=Tables(LOAD))), ABSENT, "loads by case"),
    Key("combinations", Table(COMBINATIONS), ABSENT, "combinations of cases"),
    Key("steel", Table(STEEL), ABSENT, "checks of steel members by code"),
    Key("limits", Tables(LIMIT), ABSENT, "what results must satisfy"),
    Key("plausible", Table(PLAUSIBLE), ABSENT, "beyond what a value is told to be odd"),
    Key("accepted", Tables(ACCEPTED), ABSENT, "findings that are taken as they are"),
    Key("report", Table(REPORT), ABSENT, "what the report shows"),
))  # fmt: skip

ROWS = {
    "nodes": Form("table of nodes", (
        Key("name", Text(), REQUIRED, ""),
        *(Key(a, Quantity("length"), REQUIRED, "", "in a plane model" if a == "y" else "") for a in "xyz"),
    )),
    "members": Form("table of members", (
        Key("family", Text(), REQUIRED, ""), Key("name", Text(), ABSENT, "", "its nodes"),
        Key("start", Text(), REQUIRED, ""), Key("end", Text(), REQUIRED, ""), OWN_SECTION, *STYLE,
    )),
    "supports": SUPPORT.only(["at", "fix", "lift"]),
    "loads": Form("table of loads", (
        Key("case", Text(), REQUIRED, ""), LOAD["on"], SURFACE_LOAD["area"], LOAD["line"],
        Key("line end", Quantity("line"), ABSENT, ""), *(LOAD[name] for name in (
            "force", "moment", "dir", "per", "at", "every", "from", "to", "warm", "gradient_y", "gradient_z", "misfit",
        )),
    )),
    **{kind: Form(f"table of {kind}", (Key("name", Text(), REQUIRED, ""), *form.keys)) for kind, form in (
        ("materials", MATERIAL), ("cases", CASE), ("sections", SECTION.without("fibres")),
        ("surfaces", SURFACE.without("openings")),
    )},
}  # fmt: skip
"""The columns of tables beside a model."""
NEEDED_COLUMNS = {
    "nodes": ("name", "x", "z"), "members": ("family", "start", "end"), "supports": ("at", "fix"),
    "loads": ("case", "on"), "materials": ("name", "E"), "sections": ("name",), "surfaces": ("name", "corners"),
    "cases": ("name",),
}  # fmt: skip
NAMED_ROWS = ("materials", "sections", "surfaces", "cases")
"""Tables whose rows are tables of the model, by name."""

SYMBOLS, ACTIONS_OF = Names("symbols"), Names("actions")
SYMBOL = Form("symbols.NAME", (
    Key("actions", ACTIONS_OF, REQUIRED, "of which it stands"),
    Key("permanent", Flag(), False, "every such case, always; else variable: it may be absent"),
    Key("orthogonal", Quantity("number"), 0.0, "the share of a second direction that acts with the first"),
    Key("vertical", Quantity("number"), 0.0, "that of the vertical direction"),
    Key("one_at_a_time", Flag(), False, "its actions are alternatives"),
))  # fmt: skip
LEADING = Form("leading", (
    Key("first", Text("symbol"), REQUIRED, "each of the actions in turn"),
    Key("others", Text("symbol"), REQUIRED, "the others that go with it"),
    Key("actions", ACTIONS_OF, REQUIRED, "that may lead"),
    Key("apart", Written("lists of actions"), ABSENT, "those of a list never act at once", "none"),
    Key("partial", Text("name of a factor of cases"), "", "one that belongs to the partial factor, not to psi"),
))  # fmt: skip
VALUE = Form("values.NAME", (
    Key("value", Quantity("number"), REQUIRED, "the code's own"),
    Key("about", Text(), "", "what it is"),
    Key("ask", Flag(), False, "a warning where seismic loads meet it unstated"),
))  # fmt: skip
HEAVY = Form("heavy.NAME", (
    Key("above", Quantity("pressure"), REQUIRED, "live loads beyond this have another factor"),
    Key("factor", Quantity("number"), REQUIRED, "and that one"),
))  # fmt: skip
RULE = Form("sets.NAME.rules", (
    Key("id", Text("a word"), REQUIRED, "its name"),
    Key("clause", Text(), "", "where the code has it"),
    Key("formula", Text("formula of symbols"), REQUIRED, "see below"),
    Key("needs", SYMBOLS, ABSENT, "without such a case it is passed over", "none"),
    Key("always", SYMBOLS, ABSENT, "never left out of it", "none"),
))  # fmt: skip
LEVELS = Form("levels", tuple(
    Key(action, Choice.of(Level), ABSENT, f"of {action} loads") for action in ("wind", "snow", "seismic")
))  # fmt: skip
RULE_SET = Form("sets.NAME", (
    Key("set", Choice.of(Set), REQUIRED, "what it is for"),
    Key("lean", Flag(), False, "each combination goes with a lean: the one its directed case acts along, or each in "
        "turn"),
    Key("rules", Tables(RULE), REQUIRED, "its rules"),
    Key("without", ACTIONS_OF, ABSENT, "left out on purpose: a note, no warning", "none"),
    Key("second_order_at", Quantity("number"), 1.0, "by second order, at so many times the loads"),
    Key("levels", Table(LEVELS), ABSENT, "where its loads are at another level than those of the code", "as there"),
    Key("design", Choice.of(Design), Design.LRFD, "whether strengths are held against its combinations (`LRFD`), or "
        "allowable strengths (`ASD`)"),
))  # fmt: skip
BY_CASE = Form("factors.NAME", tuple(
    Key(word, Quantity("number"), ABSENT, "its factor") for word in dict.fromkeys((*USES, CRANE_USE, *ACTIONS))
))  # fmt: skip
RULE_FILE = Form("rule file", (
    Key("code", Text(), REQUIRED, "what the code is called"),
    Key("symbols", Table(Form("symbols", each=Table(SYMBOL))), ABSENT, "what rules are written in"),
    Key("leading", Table(LEADING), ABSENT, "how one variable action leads"),
    Key("values", Table(Form("values", each=Table(VALUE))), ABSENT, "numbers with a name"),
    Key("factors", Table(Form("factors", each=Table(BY_CASE))), ABSENT, "factors that differ by use or action"),
    Key("heavy", Table(Form("heavy", each=Table(HEAVY))), ABSENT, "factors for heavy live loads, by the name of a "
        "factor"),
    Key("levels", Table(LEVELS), ABSENT, "at which level it takes loads: a case at another one is a warning"),
    Key("sets", Table(Form("sets", each=Table(RULE_SET))), ABSENT, "sets of rules"),
))  # fmt: skip
