"""Every key of a model file and of the tables beside it.

What a key takes, what it means and what leaving it out means is said once, beside the reader of its table: readers ask
for keys by name, and docs/model-file.md lists what stands there.
"""

from __future__ import annotations

from ..core.model.words import Order
from .base.forms import ABSENT, REQUIRED, Choice, Form, Key, Names, Quantity, Table, Tables, Text, Written
from .checks.keys import ACCEPTED, PLAUSIBLE
from .checks.limit_keys import LIMIT
from .checks.report_keys import REPORT
from .checks.steel_keys import STEEL
from .combos.keys import COMBINATIONS
from .copies.keys import COPY
from .frame.keys import DIAPHRAGM, GRID, MATERIAL, MEMBER, NODE_PLACES, OWN_SECTION, SECTION, STYLE, SUPPORT, SURFACE
from .loads.keys import CASE, FLOOR, LOAD, REDUCTION, SURFACE_LOAD
from .makers.keys import MAKER
from .snow.keys import RAIN, SNOW
from .tables.keys import TABLES
from .tables.row_kinds import RowKind
from .traffic.crane_keys import CRANES
from .traffic.keys import TRAFFICS, VEHICLES
from .wind.keys import WIND

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
        "the grid, are joined to it, and so is what makers and copies make; reported. Without it nodes are one within "
        "1 mm of a crossing or a copy only", "none"),
    Key("space", Choice(("3D", "plane")), "3D", '`"plane"`: the X-Z plane, nodes are `[x, z]`, degrees of freedom '
        "`x z ry`"),
    Key("analysis", Written('`"first-order"`, `"second-order"`, `"direct analysis"`, or a table'), Order.FIRST,
        "for every combination, or a table with a word for each set (`strength`, `service`, `stability`, "
        "`construction`, `custom`: those in no set). See [Second order](#second-order)"),
    Key("mass", Text("formula of cases"), ABSENT, "cases whose vertical loads are masses; `empuje storeys` finds "
        "the floors' centres of mass from it", "no masses"),
))  # fmt: skip

NAMED = Form("values of a model", each=Written("quantity"))

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
    Key("makers", Table(Form("makers", each=Table(MAKER))), ABSENT, "trusses, bracing, purlins, an entry each"),
    Key("supports", Tables(SUPPORT), REQUIRED, "supports"),
    Key("copies", Tables(COPY), ABSENT, "parts of the model shifted, turned or mirrored"),
    Key("diaphragms", Table(Form("diaphragms", each=Table(DIAPHRAGM))), ABSENT, "floors rigid in plan"),
    Key("surfaces", Table(Form("surfaces", each=Table(SURFACE))), ABSENT, "floors, roofs and walls"),
    Key("floors", Table(Form("floors", each=Table(FLOOR))), ABSENT, "build-ups: weights and live loads of floors"),
    Key("reduction", Table(REDUCTION), ABSENT, "of live loads"),
    Key("wind", Table(WIND), ABSENT, "wind by code, and the cases it makes"),
    Key("snow", Table(SNOW), ABSENT, "snow by code, and the cases it makes"),
    Key("rain", Table(RAIN), ABSENT, "rain that stands on roofs, by code, and the case it makes"),
    Key("vehicles", Table(VEHICLES), ABSENT, "vehicles of the model's own"),
    Key("cranes", Table(CRANES), ABSENT, "bridge cranes on two runways, each a moving case"),
    Key("traffic", Table(TRAFFICS), ABSENT, "moving loads, each a case by its name"),
    Key("cases", Table(Form("cases", each=Table(CASE))), REQUIRED, "load cases"),
    Key("loads", Table(Form("loads", each=Tables(LOAD))), ABSENT, "loads by case"),
    Key("combinations", Table(COMBINATIONS), ABSENT, "combinations of cases"),
    Key("steel", Table(STEEL), ABSENT, "checks of steel members by code"),
    Key("limits", Tables(LIMIT), ABSENT, "what results must satisfy"),
    Key("plausible", Table(PLAUSIBLE), ABSENT, "limits beyond which a value is reported as implausible"),
    Key("accepted", Tables(ACCEPTED), ABSENT, "findings that are taken as they are"),
    Key("report", Table(REPORT), ABSENT, "what the report shows"),
))  # fmt: skip

_COLUMNS = {
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
            "force", "moment", "dir", "per", "at", "every", "from", "to", "temperature", "gradient_y", "gradient_z",
            "lack_of_fit",
        )),
    )),
    **{kind: Form(f"table of {kind}", (Key("name", Text(), REQUIRED, ""), *form.keys)) for kind, form in (
        ("materials", MATERIAL), ("cases", CASE), ("sections", SECTION.without("fibres")),
        ("surfaces", SURFACE.without("openings")),
    )},
}  # fmt: skip
_NEEDED = {
    "nodes": ("name", "x", "z"), "members": ("family", "start", "end"), "supports": ("at", "fix"),
    "loads": ("case", "on"), "materials": ("name", "E"), "sections": ("name",), "surfaces": ("name", "corners"),
    "cases": ("name",),
}  # fmt: skip
ROWS = {
    kind: RowKind(
        kind, columns, {"supports": SUPPORT, "loads": LOAD}.get(kind, columns), _NEEDED[kind],
        named=columns.names[0] == "name" and kind != "nodes", as_in_cell=kind == "loads",
    )
    for kind, columns in _COLUMNS.items()
}  # fmt: skip
"""The tables beside a model."""
