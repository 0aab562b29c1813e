"""Keys of [[copies]]."""

from __future__ import annotations

from ..base.forms import ABSENT, REQUIRED, Flag, Form, Key, Names, Quantity, Table, Text, Written

MIRROR = Form("copies.mirror", (
    Key("x", Written("grid line, node or coordinate", "length"), ABSENT, "the plane across x there", "no such plane"),
    Key("y", Written("grid line, node or coordinate", "length"), ABSENT, "the plane across y there", "no such plane"),
    Key("through", Written("two places"), ABSENT, "the vertical plane through two nodes, crossings or points", "none"),
))  # fmt: skip
COPY = Form("copies", (
    Key("name", Text("letters, digits and _"), REQUIRED, "what names of the copy end in, after a ~; of several "
        "followed by its number"),
    Key("of", Names("selector of members, nodes and surfaces"), REQUIRED, "what is copied"),
    Key("shift", Written("`[x, y, z]`", "length"), ABSENT, "it goes so far (in a plane model `[x, z]`)", "it does not"),
    Key("turn", Quantity("angle"), ABSENT, "it turns about a vertical axis, right-handed", "it does not"),
    Key("about", Written("node, crossing or `[x, y]`", "length"), ABSENT, "where that axis is", "required with `turn`"),
    Key("mirror", Table(MIRROR), ABSENT, "it is mirrored about a vertical plane", "it is not"),
    Key("times", Written("whole number"), 1, "so many copies, each as far from the one before"),
    Key("supports", Flag(), True, "its supports and settlements come with it"),
    Key("loads", Written("`true`, `false`, or names of cases"), True, "its loads on members, nodes and surfaces "
        "come with it, or those of these cases"),
))  # fmt: skip
