"""Keys of [tables]: which tables stand beside a model, and how they are laid out."""

from __future__ import annotations

from ..base.forms import ABSENT, REQUIRED, Form, Key, Names, Table, Text, Written

TABLE_KINDS = ("nodes", "members", "supports", "loads", "materials", "sections", "surfaces", "cases")
HEADS = Form("tables.KIND.columns", each=Text("key, with a unit in brackets where it has one"))
FOR_ALL = Form("tables.KIND.all_rows", each=Written("as in a cell"))
LAYOUT = Form("tables.KIND", (
    Key("file", Text("file, or `file.xlsx#Sheet`"), REQUIRED, "the table"),
    Key("head", Written("row, or rows one below another"), ABSENT, "where its heads are; words in several rows are "
        "joined, and the last may hold units alone", "the first row that holds anything"),
    Key("columns", Table(HEADS), ABSENT, "heads, or letters of columns, and the keys they mean", "heads are keys"),
    Key("remarks", Names("heads or letters of columns"), ABSENT, "columns that are not read", "none"),
    Key("remark_rows", Written('list of texts such as `"Sum*"`, or of rows'), ABSENT, "rows that are not read, which "
        "is reported: those with a cell of such a text (as selectors are written), also after rows are put in; or "
        "by their numbers", "none"),
    Key("all_rows", Table(FOR_ALL), ABSENT, "what holds for each of its rows, as further columns", "nothing"),
))  # fmt: skip
TABLE_FILES = Written("file, `file.xlsx#Sheet`, a table that describes its layout, or list of these")
TABLES = Form("tables", tuple(Key(kind, TABLE_FILES, ABSENT, kind) for kind in TABLE_KINDS))
