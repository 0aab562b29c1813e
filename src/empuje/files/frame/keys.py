"""The keys of the frame: grid, nodes, materials, sections, families of members, supports, floors rigid in plan,
surfaces."""

from __future__ import annotations

from ...core.catalogue.shapes import SHAPES
from ...core.model.frame import FREEDOMS
from ...core.model.words import Acts, Carry, Made, PlateActs, Stress
from ..base.forms import ABSENT, REQUIRED, Choice, Flag, Form, Key, Names, Quantity, Table, Tables, Text, Written

NODES, MEMBERS = "selector of nodes", "selector of members"
OWN_SHAPES = tuple(shape for shape in SHAPES if shape != "wide flange")

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
    Key("free", Text("degrees of freedom"), "", "what is free, in member axes"),
    *(Key(f, Quantity("spring" if f in "xyz" else "turning spring"), ABSENT, "the spring that ties it", "tied")
      for f in FREEDOMS),
))  # fmt: skip
STYLE = (
    Key("ends", Written('`"rigid"`, `"hinged"`, or a table; once or `[start, end]`'), "rigid", "what is free and "
        "what is on springs, in member axes: `{ free = \"ry\" }`, `{ ry = \"8 MN*m/rad\", free = \"x\" }`. "
        "`\"hinged\"` frees My and Mz; torsion stays tied"),
    Key("acts", Choice.of(Acts), Acts.BOTH, "`tension`: in tension only; `compression`: in compression only"),
    Key("shear", Flag(), False, "the members also deform in shear, by the section's shear areas Ay and Az"),
    Key("bar", Flag(), False, "axial force only, hinged at both ends, no torsion, not split by nodes on it"),
    Key("roll", Quantity("angle"), 0.0, "turns the section about the member's axis"),
    Key("offsets", Written("length, or `[start, end]`", "length"), 0.0, "rigid lengths at the member's ends, such "
        "as the half depth of a column. `ends` sit where they stop. Loads on them go into the node; positions and "
        "results still count from node to node"),
    Key("joined", Flag(), True, "structural surfaces in whose plane it lies hold it all along; `false`: they pass it "
        "by between its nodes"),
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
        "named members between two nodes; a piece may have its own `section`, `ends`, `bar`, `roll`, `shear`, `acts`, "
        "`offsets` and `joined`", "none"),
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
TURNED = Key("turn", Table(TURN), ABSENT, "the support's axes, turned about a global axis, right-handed: `{ y = \"12 "
        "deg\" }` turns z towards x; about several, one after another in the order x, y, z. `fix`, `spring`, `lift` "
        "and `settle` are in these axes; results stay in global axes", "global axes")  # fmt: skip
LINE_SPRING = Form("supports.spring along a line", tuple(
    Key(f, Quantity("line spring" if f in "xyz" else "turning line spring"), 0.0, "stiffness per length")
    for f in FREEDOMS
))  # fmt: skip
LINE_SUPPORT = Form("supports along a line", (
    Key("along", Written("points, an edge, or a surface", "length"), REQUIRED, "the line on a structural surface that "
        "is supported everywhere alike: two points or more, an edge (`\"slab/1\"`, from its first corner to its "
        "second), or all outer edges (`\"slab\"`)"),
    Key("fix", Text('`"fixed"`, `"pinned"`, or degrees of freedom'), REQUIRED, "what is fixed, in global axes",
        "nothing fixed"),
    Key("spring", Table(LINE_SPRING), ABSENT, "degrees of freedom on springs, for each length of the line", "none"),
    TURNED,
))  # fmt: skip
SUPPORT = Form("supports", (
    Key("at", Names(NODES), REQUIRED, "where it is", "required without `along`"),
    Key("fix", Text('`"fixed"`, `"pinned"`, or degrees of freedom'), REQUIRED, "what is fixed, in global axes (in a "
        "plane model of `x z ry`)", "nothing fixed"),
    Key("spring", Table(SPRING), ABSENT, "degrees of freedom on springs, instead of or beside `fix`: force per length, "
        "moment per rad", "none"),
    Key("lift", Flag(), False, "in z the support acts in compression only: the structure may lift off it"),
    TURNED,
    Key("settle", Tables(SETTLE), ABSENT, "how the ground moves, scaled with its case: `case`, and lengths or "
        "rotations (with their unit) of degrees of freedom that are restrained or on springs", "it does not"),
), beside=(LINE_SUPPORT,))  # fmt: skip

DIAPHRAGM = Form("diaphragms.NAME", (
    Key("nodes", Names(NODES), REQUIRED, "all at one level; they share the motions x, y and rz (in a plane model x)"),
))  # fmt: skip

STIFFNESS = Form("surfaces.NAME.stiffness", (
    Key("bending", Written("factor, or `[along x, along y]`"), 1.0, "on what it resists in bending"),
    Key("stretching", Written("factor, or `[along x, along y]`"), 1.0, "on what it resists in its plane"),
))  # fmt: skip
RIBS = Form("surfaces.NAME.ribs", (
    Key("depth", Quantity("length"), REQUIRED, "below the thickness of the surface"),
    Key("width", Quantity("length"), REQUIRED, "of each"),
    Key("spacing", Quantity("length"), REQUIRED, "from middle to middle"),
))  # fmt: skip
POINTS = "corners: nodes, crossings of the grid, or `[x, y, z]`"
SURFACE = Form("surfaces.NAME", (
    Key("corners", Written(POINTS, "length"), REQUIRED, "at least three, in order around the outline, flat within 1 "
        "mm. The `normal` of a surface is right-handed about them: counter-clockwise as seen from where it points "
        "to"),
    Key("openings", Written("lists of corners", "length"), ABSENT, "outlines of holes in it", "none"),
    Key("deck", Written('`"x"`, `"y"`, `"z"`, an angle, two places, `"short"`, `"two-way"`', "angle"), REQUIRED,
        "how it spans: along an axis, or at an angle from x (`\"30 deg\"`; all seen in plan, so a sloping deck may "
        "span down the slope), the shorter way of each bay, or both ways", "required without `carry` and `material`"),
    Key("bearing", Names(MEMBERS), ABSENT, "members that may support it; others in its plane are ignored", "all "
        "members in its plane but bars"),
    Key("carry", Choice.of(Carry), Carry.MEMBERS, "`nodes`: its corners and inner nodes share the loads of each bay, "
        "bilinear between four of them, as for a plate that is not modelled. It has no `deck` then"),
    Key("floor", Text("floor"), "", "a build-up of `[floors]`", "none"),
    Key("material", Text("name"), REQUIRED, "of the model's own or built in; with `thickness` it makes the surface "
        "structural: it bends and stretches, and is joined to what lies in its plane or passes through it",
        "it hands its loads on"),
    Key("thickness", Quantity("length"), REQUIRED, "of a structural surface; its plane is the middle of it",
        "it hands its loads on"),
    Key("acts", Choice.of(PlateActs), PlateActs.BOTH, "what a structural surface resists: `bending` of a floor whose "
        "plane others hold, `stretching` of a wall that is soft across"),
    Key("stiffness", Table(STIFFNESS), ABSENT, "factors on its stiffness, as of cracked concrete", "1"),
    Key("ribs", Table(RIBS), ABSENT, "ribs below it along its own x, of its material: it is stiffer along them, about "
        "the axis of the T that they make, and weighs more", "none"),
    Key("own_x", Written('`"x"`, `"y"`, `"z"`, an angle, two places', "angle"), ABSENT, "direction of its own x, for "
        "factors of stiffness and for results; its own z is its normal", "level, along global x where it is level "
        "itself"),
    Key("mesh", Quantity("length"), ABSENT, "length of its elements", "a 26th of its widest span; of a narrow "
        "surface an 80th of the side of a square of its area"),
    Key("bed", Quantity("bed"), 0.0, "stiffness of the ground under all of a level surface, vertical: force per area "
        "and way. What it does not hold are motions along the ground: support these"),
    Key("lift", Flag(), False, "the ground can only push: the surface may lift off it"),
    Key("raised", Quantity("length"), 0.0, "how far the middle of its thickness lies from its corners, along its "
        "normal: a slab on ribs whose axes are in the plane of the corners acts with them as a T. Loads and supports "
        "are in the plane of the corners"),
    Key("hinged", Written('numbers of edges, or `"all"`'), ABSENT, "edges along which a structural surface is hinged "
        "to what lies there, members, surfaces and supports: it turns freely about them; edge 1 goes from its first "
        "corner to its second", "none"),
    Key("footprints", Flag(), True, "columns hold it rigidly over the box around their section; `false`: at a point"),
))  # fmt: skip
