"""Keys of [makers]: short entries that stand for many members."""

from __future__ import annotations

from ..base.forms import ABSENT, REQUIRED, Choice, Flag, Form, Key, Names, Quantity, Table, Text, Written

PLACE, FAMILY = Written("node, crossing, or `[x, y, z]`", "length"), Text("family")
LENGTHS = Written('length, list of lengths, or `{ times = 3, each = "6 m" }`', "length")
TOWARDS = Choice(("up", "down", "+x", "-x", "+y", "-y"), "`up`, `down`, `+x -x +y -y`")
EQUAL = Form("makers.NAME.LENGTHS", (
    Key("times", Written("whole number"), REQUIRED, "how many"), Key("each", Quantity("length"), REQUIRED, "how long"),
))  # fmt: skip


def _make(*words: str) -> Key:
    return Key("make", Choice(words), REQUIRED, "what it makes")


def _words(kind: Form) -> tuple[str, ...]:
    takes = kind["make"].takes
    assert isinstance(takes, Choice)
    return takes.words


OVER = Key("over_copies", Flag(), False, "it is made after the copies, and may meet their nodes and members; else "
           "before them, and may be copied")  # fmt: skip
TRUSS = Form("makers.NAME: truss", (
    _make("truss"),
    Key("from", PLACE, REQUIRED, "where it begins: one end of a chord"),
    Key("to", PLACE, REQUIRED, "where it ends"),
    Key("towards", TOWARDS, "up", "where its other chord lies; `down`: it hangs from the line; along a level line or "
        "a vertical one it has to be stated"),
    Key("panels", Written("whole number"), REQUIRED, "evenly from end to end"),
    Key("depth", LENGTHS, REQUIRED, "between the chords: straight one, or one at each end; else that of the middle, "
        "or `[end, middle, end]`"),
    Key("shape", Choice(("straight", "pitched", "bowed")), "straight", "of the other chord: `bowed` is a parabola"),
    Key("pattern", Choice(("pratt", "howe", "warren", "warren with posts", "K")), REQUIRED, "of the webs"),
    Key("chord", FAMILY, REQUIRED, "of the chord on the line"),
    Key("other_chord", FAMILY, ABSENT, "of the other one", "as `chord`"),
    Key("webs", FAMILY, REQUIRED, "of the diagonals"),
    Key("posts", FAMILY, ABSENT, "of the posts", "as `webs`"),
    Key("web_ends", Choice(("hinged", "rigid")), ABSENT, "of webs and posts", "as their families say"),
    Key("roll", Quantity("angle"), ABSENT, "of the chord on the line", "as its family says"),
    Key("other_roll", Quantity("angle"), ABSENT, "of the other chord", "as its family says"),
    Key("end_posts", Flag(), True, "whether there are posts at both ends"),
    OVER,
))  # fmt: skip
FRAME = Form("makers.NAME: frame", (
    _make("frame"),
    Key("at", PLACE, REQUIRED, "the foot of its first column"),
    Key("bays", LENGTHS, REQUIRED, "along x, from column to column"),
    Key("bays_across", LENGTHS, ABSENT, "along y", "a single row"),
    Key("storeys", LENGTHS, REQUIRED, "from floor to floor"),
    Key("columns", FAMILY, REQUIRED, "of the columns, one for each storey"),
    Key("beams", FAMILY, REQUIRED, "of the beams along x"),
    Key("beams_across", FAMILY, ABSENT, "of those along y", "as `beams`"),
    Key("turn", Quantity("angle"), 0.0, "turned about its first column, right-handed"),
    OVER,
))  # fmt: skip
HAUNCH = Form("makers.NAME.haunch", (
    Key("length", Quantity("length"), REQUIRED, "along the rafter"),
    Key("depth", Quantity("length"), REQUIRED, "of the section where it is deepest"),
    Key("steps", Written("whole number"), 4, "pieces of one section each"),
))  # fmt: skip
PORTAL = Form("makers.NAME: portal", (
    _make("portal"),
    Key("from", PLACE, REQUIRED, "the foot of its first column"),
    Key("to", PLACE, REQUIRED, "the foot of the other one"),
    Key("eaves", Quantity("length"), REQUIRED, "above the first foot"),
    Key("ridge", Quantity("length"), REQUIRED, "above the first foot, in the middle"),
    Key("columns", FAMILY, REQUIRED, "of the columns"),
    Key("rafters", FAMILY, REQUIRED, "of the rafters"),
    Key("haunch", Table(HAUNCH), ABSENT, "the rafters are deeper at the columns, in steps", "they are not"),
    Key("apex", Table(HAUNCH), ABSENT, "and at the ridge", "they are not"),
    OVER,
))  # fmt: skip
ARCH = Form("makers.NAME: arch", (
    _make("arch"),
    Key("from", PLACE, REQUIRED, "where it springs"),
    Key("to", PLACE, REQUIRED, "where it comes down"),
    Key("rise", Quantity("length"), REQUIRED, "in its middle, across the line from end to end"),
    Key("pieces", Written("whole number"), REQUIRED, "straight pieces; their ends are on the curve"),
    Key("curve", Choice(("circle", "parabola")), "circle", "a circle is divided evenly along itself, a parabola along "
        "its chord"),
    Key("towards", TOWARDS, "up", "where it rises to"),
    Key("family", FAMILY, REQUIRED, "of its pieces"),
    OVER,
))  # fmt: skip
STAIR = Form("makers.NAME: stair", (
    _make("stair"),
    Key("from", PLACE, REQUIRED, "its foot"),
    Key("to", PLACE, REQUIRED, "its head"),
    Key("landings", LENGTHS, ABSENT, "level lengths at foot and head: one for both, or `[foot, head]`", "none"),
    Key("stringers", FAMILY, REQUIRED, "of the stringers"),
    Key("width", Quantity("length"), ABSENT, "to a second stringer, on the left as one goes from foot to head",
        "a single one"),
    Key("treads", FAMILY, ABSENT, "of members between the stringers of the flight", "none"),
    Key("risers", Written("whole number"), REQUIRED, "of the flight; there is a tread less", "required with `treads`"),
    OVER,
))  # fmt: skip
BRACING = Form("makers.NAME: bracing", (
    _make("bracing"),
    Key("panels", Names("panel, or list of panels"), ABSENT, "as runs are written, with two parts that go on: "
        "`A>>C / 1,3 / base>eave`", "`corners`"),
    Key("rises", Choice(("x", "y")), ABSENT, "where all three parts of a panel go on: the one that does so together "
        "with z", "required there"),
    Key("corners", Written("four places around the panel", "length"), ABSENT, "of a single panel", "`panels`"),
    Key("pattern", Choice(("X", "V", "inverted V", "K", "diagonal")), REQUIRED, "in each panel: a V has its apex on "
        "the first side, an inverted V on the opposite one, a K on the second side; a diagonal goes from the first "
        "corner"),
    Key("family", FAMILY, REQUIRED, "of the diagonals"),
    OVER,
))  # fmt: skip
PURLINS = Form("makers.NAME: purlins, rails, joists", (
    _make("purlins", "rails", "joists"),
    Key("on", Names("selector of surfaces"), ABSENT, "what they lie on", "`corners`"),
    Key("corners", Written("corners of a bay: nodes, crossings, or `[x, y, z]`", "length"), ABSENT, "where there is no "
        "surface", "`on`"),
    Key("along", Written('`"x"`, `"y"`, `"z"`, or two places'), ABSENT, "the way they run", "level; a level bay has to "
        "say it"),
    Key("spacing", Quantity("length"), ABSENT, "in the surface, from the first on; a rest becomes a last space",
        "`spaces`"),
    Key("spaces", Written("whole number"), ABSENT, "so many equal ones", "`spacing`"),
    Key("first", Quantity("length"), 0.0, "how far the first is from the lower edge (on the level that of lesser y, "
        "or x)"),
    Key("last", Quantity("length"), 0.0, "how far the last is from the other edge"),
    Key("continuous", Flag(), False, "one member from edge to edge; else one from each member that carries it to the "
        "next"),
    Key("roll", Written('`"surface"`, or an angle', "angle"), ABSENT, "how they stand: `\"surface\"` turns their z "
        "to the normal of what they lie on", "as in their family: vertical; reported where the surface slopes"),
    Key("family", FAMILY, REQUIRED, "of them"),
    OVER,
))  # fmt: skip
KINDS = (TRUSS, FRAME, PORTAL, ARCH, STAIR, BRACING, PURLINS)
MAKER = Form("makers.NAME", (_make(*(w for kind in KINDS for w in _words(kind))),), beside=KINDS)
BY_WORD = {word: kind for kind in KINDS for word in _words(kind)}
"""The keys by the word under `make`."""
