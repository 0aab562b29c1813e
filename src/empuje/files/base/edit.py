"""A model file changed in place: the section of a family, and nothing else; comments and layout stay."""

from __future__ import annotations

import re
import tomllib
from collections.abc import Mapping

from .toml_text import parse

SECTION = re.compile(r"""(\bsection\s*=\s*)("[^"]*"|'[^']*')""")


class CannotEdit(ValueError):
    """The text is not of a kind that can be changed without doubt."""


def with_sections(text: str, sections: Mapping[str, str]) -> str:
    """The text with other sections for families. Raises CannotEdit where their line is not plain, or where the result
    would not say just that.

    >>> print(with_sections('[members.a]\\nsection = "IPE 300"  # heavy\\n', {"a": "IPE 330"}), end="")
    [members.a]
    section = "IPE 330"  # heavy
    """
    data, lines = parse(text)
    rows = text.split("\n")
    for family, name in sections.items():
        line = lines.get(("members", family, "section"))
        if line is None:
            raise CannotEdit(f"the section of {family} is not written in the model file itself; change it by hand")
        row = rows[line - 1]
        if len(SECTION.findall(row)) != 1 or '"' in name:
            raise CannotEdit(f"line {line} names several sections; change it by hand")
        rows[line - 1] = SECTION.sub(lambda m, name=name: f'{m[1]}"{name}"', row)  # type: ignore[misc]
        data["members"][family]["section"] = name
    changed = "\n".join(rows)
    if tomllib.loads(changed) != data:
        raise CannotEdit("the change would alter more than the sections; change them by hand")
    return changed
