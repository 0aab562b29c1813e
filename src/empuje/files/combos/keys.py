"""The keys of combinations and of rule files."""

from __future__ import annotations

from ...core.model.cases import ACTIONS
from ...core.model.rules import CRANE_USE, USES
from ...core.model.words import Design, Expansion, Level, Set
from ..base.forms import ABSENT, REQUIRED, Choice, Flag, Form, Key, Names, Quantity, Table, Tables, Text, Written

FILES = Names("file, or list of files")
CUSTOM_COMBINATION = Form("combinations.custom.NAME", (
    Key("formula", Text("factored cases"), REQUIRED, "what it is made of"),
    Key("set", Choice.of(Set), ABSENT, "the set it belongs to", "in none"),
    Key("second_order_at", Quantity("number"), 1.0, "by second order, at so many times its loads"),
    Key("clause", Text("clause"), "", "where it is in the code; shown wherever combinations are listed", "none"),
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
    Key("notional", Flag(), False, "each combination includes notional loads: those along its directed case, or each "
        "direction in turn"),
    Key("rules", Tables(RULE), REQUIRED, "its rules"),
    Key("without", ACTIONS_OF, ABSENT, "left out on purpose: a note, no warning", "none"),
    Key("second_order_at", Quantity("number"), 1.0, "by second order, at so many times the loads"),
    Key("levels", Table(LEVELS), ABSENT, "where its loads are at another level than those of the code", "as there"),
    Key("design", Choice.of(Design), Design.LRFD, "whether members are checked by strength (`LRFD`) or by allowable "
        "strength (`ASD`)"),
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
