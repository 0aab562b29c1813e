"""One word for one thing: what an engineer reads holds the trade's terms, and the glossary names what there is."""

import argparse
import ast
import re
from pathlib import Path

import pytest

from empuje.cli import parser
from empuje.files.every_form import every_form

ROOT = Path(__file__).parent.parent
FORBIDDEN = {
    r"lean|leans|leaning": "notional load",
    r"warm|warms|warmth": "temperature",
    r"misfits?": "lack of fit",
    r"bare members?": "unclad members",
    r"(?<!of )freedoms?": "degrees of freedom",
    r"told": "reported",
    r"astray": "unassigned",
    r"upright": "vertical",
    r"pressed|pulled": "in compression, in tension",
    r"held against": "compared with, restrained against",
    r"fast to": "rigidly connected to",
    r"slips?|slipping": "suspicious input, mistake",
    r"least and greatest|greatest and least": "minimum and maximum",
    r"is meant|are meant": "is intended",
    r"inside pressures?|pressures? inside": "internal pressure",
    r"share used|used share": "utilisation",
    r"limits? (?:that )?turned": "limits that changed verdict",
    r"stands? for": "means",
    r"most likely": "probably",
}
FOUND = {re.compile(rf"\b(?:{old})\b", re.IGNORECASE): new for old, new in FORBIDDEN.items()}


def amiss(text):
    return [f"{m[0]}: say {new}" for old, new in FOUND.items() for m in old.finditer(text)]


def messages(path):
    """Text in a module but docstrings, f-strings with blanks for what is put in, names of arrays left out."""
    tree = ast.parse(path.read_text(encoding="utf-8"))
    bodies = [body for node in ast.walk(tree) if isinstance(body := getattr(node, "body", None), list)]
    docs = {id(one.value) for body in bodies for one in body if isinstance(one, ast.Expr)}
    for node in ast.walk(tree):
        text = node.value if isinstance(node, ast.Constant) and id(node) not in docs else None
        if isinstance(text, str) and not re.fullmatch(r"[a-z_]+", text):  # such are keys or words of a vocabulary
            yield node.lineno, text


@pytest.mark.parametrize("room", ["cli", "core", "files", "report", "show", "study"])
def test_messages_are_in_the_trades_words(room):
    found = [
        f"{path.relative_to(ROOT)}:{line}: {wrong}"
        for path in sorted((ROOT / "src/empuje" / room).rglob("*.py"))
        for line, text in messages(path)
        for wrong in amiss(text)
    ]
    assert not found, "\n".join(found)


def options():
    """Every command with its options and their help."""
    commands = next(a for a in parser()._actions if isinstance(a, argparse._SubParsersAction))
    for name, command in commands.choices.items():
        for action in command._actions:
            yield name, action.option_strings, action.help or ""


def test_keys_options_and_pages_are_too():
    keys = [f"{form.name}.{key.name}" for form in every_form().values() for key in form.keys]
    named = [(f"{name} {' '.join(strings)}", " ".join(strings)) for name, strings, _ in options()]
    found = [f"{what}: {w}" for what in keys for w in amiss(what.rpartition(".")[2].replace("_", " "))]
    found += [f"{what}: {w}" for what, text in named for w in amiss(text.replace("-", " "))]
    for page in (ROOT / "README.md", *sorted((ROOT / "docs").glob("*.md"))):
        lines = page.read_text(encoding="utf-8").splitlines()
        found += [f"{page.name}:{i + 1}: {w}" for i, line in enumerate(lines) for w in amiss(line)]
    assert not found, "\n".join(found)


def test_the_glossary_names_what_there_is():
    """Every key, table, command and option that it points at is one; no term stands there twice."""
    forms = every_form()
    keys = {key.name for form in forms.values() for key in form.keys}
    tables = {re.sub(r"\.[A-Z]+$", "", name) for name in forms} | {key.name for key in forms["model"].keys}
    words = {string for _, strings, _ in options() for string in strings} | {name for name, *_ in options()}
    rows = [
        line for line in (ROOT / "docs/glossary.md").read_text(encoding="utf-8").splitlines() if line.startswith("| ")
    ]
    terms = [row.split("|")[1].strip() for row in rows]
    terms = [t for t in terms if t not in ("term", "---")]
    assert len(terms) == len(set(terms)) > 50
    for row in rows:
        where = row.rstrip(" |").rpartition("|")[2]
        for cited in re.findall(r"`([^`]+)`", where):
            table = re.match(r"\[+([\w.-]+?)(?:\.[A-Z]+(?:\.\w+)?)?\]+", cited)
            if table:
                assert table[1] in tables, row
            else:
                assert cited.split()[0] in keys | words | {"made by", "how", "deflection"} or cited.startswith("--"), (
                    row
                )
