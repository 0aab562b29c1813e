"""The keys of bridge cranes."""

from __future__ import annotations

from ...core.model.words import CraneCode, Hoisting, Operated, RailSide
from ..base.forms import ABSENT, REQUIRED, Choice, Form, Key, Quantity, Table, Text, Written

BUFFERS = Form("cranes.NAME.buffers", (
    Key("speed", Quantity("speed"), REQUIRED, "of the crane along its runways; 0.7 of it counts"),
    Key("spring", Quantity("spring"), REQUIRED, "S_B, of one buffer"),
    Key("xi_b", Quantity("number"), 1.0, "of the buffers' curve: 0.5 straight, 1 even force (figure 2.10)"),
))  # fmt: skip
BOTH = (
    Key("code", Choice.of(CraneCode), REQUIRED, "the code of its loads"),
    Key("runways", Written("two selectors of members"), REQUIRED, "the beams of the first and of the second rail"),
    Key("bridge", Quantity("force"), REQUIRED, "weight of the bridge, half of it on each rail"),
    Key("crab", Quantity("force"), REQUIRED, "weight of the crab with its hoist"),
    Key("lifts", Quantity("force"), REQUIRED, "the load it lifts, with the gear below the hook"),
    Key("approach", Written("length, or one for each rail", "length"), REQUIRED, "how near the hook comes to a rail"),
    Key("base", Written("length, or list of lengths", "length"), REQUIRED, "between the wheels on a rail, from the "
        "front"),
    Key("height", Quantity("length"), REQUIRED, "of the rails' heads, where horizontal forces act, above the "
        "runways' axes"),
    Key("count", Quantity("number"), 1.0, "so many alike one behind the other"),
    Key("clear", Quantity("length"), ABSENT, "smallest distance between the wheels of two", "required with `count`"),
    Key("step", Written("length, or `\"exact\"`", "length"), "exact", "between positions, as of traffic"),
    Key("title", Text(), "", "free text"),
    Key("together", Text("a word"), "", "as of a case", "by itself"),
    Key("one_of", Text("a word"), "", "as of a case", "as moving loads do"),
)  # fmt: skip
OF_EN = (
    Key("hoisting", Choice.of(Hoisting), ABSENT, "EN: hoisting class, for phi_2", "required without `phi_2`"),
    Key("hoist_speed", Quantity("speed"), ABSENT, "EN: v_h, steady speed of hoisting", "required without `phi_2`"),
    Key("phi_2", Quantity("number"), ABSENT, "EN: instead of phi_2,min + beta_2 v_h", "table 2.5"),
    Key("phi_4", Quantity("number"), 1.0, "EN: of travelling; 1 for rails within EN 1993-6's tolerances"),
    Key("phi_5", Quantity("number"), ABSENT, "EN: of the drives: 1 to 1.5 smooth, to 2 sudden, 3 with much play "
        "(table 2.6)", "required by EN"),
    Key("driven", Quantity("number"), ABSENT, "EN: driven wheels of both rails, each by a drive of its own",
        "required by EN"),
    Key("mu", Quantity("number"), 0.2, "EN: friction of wheels on rails: steel 0.2, rubber 0.5"),
    Key("skew", Quantity("number"), 0.015, "EN: skewing angle in radians"),
    Key("guide", Quantity("length"), 0.0, "EN: means of guidance so far ahead of the first wheels; 0: their flanges"),
    Key("movable", Choice.of(RailSide), ABSENT, "EN: the rail on which wheels can move sideways", "neither"),
    Key("released", Quantity("number"), ABSENT, "EN: share of the load that a grab or magnet drops suddenly: group 2",
        "no group 2"),
    Key("beta_3", Quantity("number"), 1.0, "EN: 0.5 for grabs, 1 for magnets"),
    Key("eta", Quantity("number"), 0.0, "EN: the share of the load that stays on it out of service (group 7)"),
    Key("groups", Written("list of numbers"), ABSENT, "EN: groups of loads of table 2.2, of 1 to 7 and 9",
        "1, 3, 4, 5, 6, and 2 with `released`"),
    Key("buffers", Table(BUFFERS), ABSENT, "EN: what it runs into at the end of a runway: group 9", "none"),
)  # fmt: skip
OF_ASCE = (
    Key("operated", Choice.of(Operated), ABSENT, "ASCE: from a `cab` or from afar, by `pendant`, by `hand`: vertical "
        "impact of 25, 10, 0 %", "required by ASCE"),
    Key("thrust", Written("list of two numbers"), ABSENT, "ASCE: the rails' shares of the side thrust, by how stiff "
        "they are sideways", "[0.5, 0.5]"),
)  # fmt: skip
CRANE = Form("cranes.NAME", (*BOTH, *OF_EN, *OF_ASCE))
CRANES = Form("cranes", each=Table(CRANE))
OF_CODE = {
    code: tuple(k.name for k in (*BOTH, *(OF_EN if code == CraneCode.EN else OF_ASCE))) for code in CraneCode
}  # fmt: skip
