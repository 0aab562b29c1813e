"""The keys of vehicles and traffic."""

from __future__ import annotations

from ...core.model.rules import CRANE_USE, USES
from ...core.model.words import Beside, Entering, Heading
from ..base.forms import ABSENT, REQUIRED, Choice, Flag, Form, Key, Names, Quantity, Table, Text, Written

VEHICLE = Form("vehicles.NAME", (
    Key("like", Text("name of a vehicle"), ABSENT, "a built-in vehicle, or one written before it, which this one "
        "differs from", "its own"),
    Key("axles", Written("list of `[distance, load]` or `[distance, left, right]`", "length"), REQUIRED, "from the "
        "front: how far behind the axle before it, and the axle's load, or that of its left and right wheel. A "
        "distance may be a range, `\"4.3 m .. 9 m\"`: the worst in it is found", "with `like`: its"),
    Key("gauge", Quantity("length"), 0.0, "across, from wheel to wheel; 0: single wheels on the vehicle's middle"),
    Key("lane", Quantity("line"), 0.0, "lane load that goes with it, per metre of the way, along its middle"),
    Key("lane_on", Names("`adverse`, or of `before`, `under`, `behind`"), "adverse", "where the lane load stands: "
        "wherever it makes things worse, or parts of the way as seen from the vehicle"),
    Key("patch", Written("`[length, width]`", "length"), ABSENT, "of a wheel on a surface, taken as nine forces",
        "a point"),
    Key("along", Quantity("number"), 0.0, "horizontal force along the way, either way, as a share of the static wheel "
        "loads: braking and drive"),
    Key("across", Quantity("number"), 0.0, "horizontal force across the way, to either side: side thrust, surge"),
    Key("height", Quantity("length"), 0.0, "of these above the way"),
    Key("dynamic", Quantity("number"), 1.0, "factor on the vertical wheel loads; not on lane loads nor on what is "
        "horizontal"),
))  # fmt: skip

TRAFFIC = Form("traffic.NAME", (
    Key("vehicle", Names("name, or list of names"), REQUIRED, "of `[vehicles]` or built in; of several one is there "
        "at a time, the worst"),
    Key("way", Written("selector of members, or points"), ABSENT, "members that join end to end, or a line through "
        "nodes, crossings of the grid or `[x, y, z]`", "with `ways`"),
    Key("ways", Written("list of ways"), ABSENT, "several ways at once, a vehicle on each", "one `way`"),
    Key("surface", Names("selector of surfaces"), ABSENT, "the wheels act on these, through their decks; on "
        "structural ones where they stand, with a `step`", "on members"),
    Key("aside", Written("length, or one for each way", "length"), 0.0, "how far the vehicle's middle is to the left "
        "of the line"),
    Key("heading", Choice.of(Heading), Heading.FORWARD, "`backward`: the other way round; `both`: either"),
    Key("step", Written("length, or `\"exact\"`", "length"), "exact", "between positions; `exact`: the worst is found "
        "wherever it is"),
    Key("every_step", Flag(), False, "where results are no sums, every step is analysed by itself, not chosen ones"),
    Key("speed", Quantity("speed"), ABSENT, "with `every` instead of a step", "none"),
    Key("every", Quantity("time"), ABSENT, "time between positions", "none"),
    Key("enters", Choice.of(Entering), Entering.AXLES, "`wholly`: only positions with the whole vehicle on the way"),
    Key("off_member", Choice.of(Beside), Beside.LEVER, "wheels beside members: shared between the two next to them by "
        "the `lever` rule, or `twist` the member of the way (or a single one beside it)"),
    Key("dynamic", Quantity("number"), 1.0, "further factor on all vertical wheel loads (impact)"),
    Key("count", Quantity("number"), 1.0, "so many vehicles in a row"),
    Key("clear", Quantity("length"), ABSENT, "smallest distance from the last axle of one to the first of the next; "
        "more where that is worse", "required with `count`"),
    Key("presence", Written("list of factors"), ABSENT, "multiple presence: the factor on everything where one way, "
        "two, three, ... are loaded at once", "1"),
    Key("title", Text(), "", "free text"),
    Key("use", Choice((*USES, CRANE_USE)), ABSENT, "what the floor is for, as of a case; or a crane",
        "storage, with a warning"),
    Key("together", Text("a word"), "", "as of a case: always at once with cases of the same word", "by itself"),
    Key("one_of", Text("a word"), "", "as of a case: of those with the same word one acts at a time", "as moving "
        "loads do"),
))  # fmt: skip
VEHICLES = Form("vehicles", each=Table(VEHICLE))
TRAFFICS = Form("traffic", each=Table(TRAFFIC))
