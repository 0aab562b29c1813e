"""The keys of steel checks."""

from __future__ import annotations

from ...core.model.words import Design, Lateral, SteelCode
from ..base.forms import ABSENT, REQUIRED, Choice, Form, Key, Names, Quantity, Tables, Written

FLANGES = ("top", "bottom", "both")

LENGTHS = Form("steel.lengths", (
    Key("on", Names("selector of members"), REQUIRED, "the members it is about; a later entry replaces an earlier one"),
    Key("L_y", Written('a length, or `"analysed"`', "length"), ABSENT, "buckling length about y; `analysed`: of the "
        "frame's own critical shapes, result by result", "as found"),
    Key("L_z", Written('a length, or `"analysed"`', "length"), ABSENT, "buckling length about z, likewise", "as found"),
    Key("L_T", Quantity("length"), ABSENT, "of torsional buckling", "as found"),
    Key("L_LT", Quantity("length"), ABSENT, "of lateral-torsional buckling", "as found"),
    Key("k_y", Quantity("number"), 1.0, "factor on the length found about y"),
    Key("k_z", Quantity("number"), 1.0, "about z"),
    Key("k_T", Quantity("number"), 1.0, "in torsion"),
    Key("k_LT", Quantity("number"), 1.0, "laterally"),
    Key("braced_at", Written("position, or a list of them; `[]`: nowhere", "length"), ABSENT, "where they are "
        "restrained laterally and against twist, besides their ends", "at joints with members across"),
    Key("C_m", Quantity("number"), ABSENT, "EN: equivalent uniform moment factors C_my, C_mz and C_mLT", "by the "
        "diagrams of each segment (table B.3)"),
    Key("C_1", Quantity("number"), ABSENT, "EN: of the critical moment, over that of an even one", "by the diagram"),
    Key("C_b", Quantity("number"), ABSENT, "AISC: lateral-torsional buckling modification factor", "by the diagram "
        "(F1-1)"),
    Key("flange", Choice(FLANGES), ABSENT, "restrained along its length, by a deck or sheeting", "neither"),
))  # fmt: skip

STEEL = Form("steel", (
    Key("code", Choice.of(SteelCode), REQUIRED, "the code that holds"),
    Key("on", Names("selector of members"), ABSENT, "the members that are checked", "all"),
    Key("under", Names("cases, combinations or sets"), ABSENT, "the results they are checked under", "`strength`"),
    Key("gamma_M0", Quantity("number"), 1.0, "EN: resistance of cross-sections"),
    Key("gamma_M1", Quantity("number"), 1.0, "EN: resistance of members to buckling"),
    Key("eta", Quantity("number"), 1.0, "EN: of shear areas (EN 1993-1-5, 5.1; up to 1.2 for S460 and below)"),
    Key("lateral", Choice.of(Lateral), Lateral.GENERAL, "EN: lateral-torsional buckling by the general case (6.3.2.2), "
        "or that of rolled sections (6.3.2.3) for I sections"),
    Key("design", Choice.of(Design), Design.LRFD, "AISC: `LRFD` under strength combinations, `ASD` under "
        "allowable ones"),
    Key("warn_at", Quantity("number"), 0.9, "from this utilisation on a member is reported as near"),
    Key("load_height", Choice(("shear centre",)), ABSENT, "where loads across members act, for lateral buckling: only "
        "`shear centre` is built in; where they act above it, shorter strengths are stated by `k_LT`",
        "taken so, with a warning"),
    Key("lengths", Tables(LENGTHS), ABSENT, "lengths and restraints of members, where they are stated"),
))  # fmt: skip
