"""Writes the tables of keys into docs/model-file.md, from what src/empuje/files/keys.py says of them.

python tools/guide_tables.py            # between <!-- keys: NAME --> and <!-- end -->
"""

from __future__ import annotations

import re
from pathlib import Path

from empuje.files.base.forms import as_markdown
from empuje.files.every_form import every_form

GUIDE = Path(__file__).parents[1] / "docs" / "model-file.md"
MARKED = re.compile(r"(<!-- keys: (.+?) -->\n).*?(<!-- end -->)", re.S)
FORMS = every_form()


def with_tables(text: str) -> str:
    """The guide with every table as it should be. Raises KeyError where a marker names no table."""
    return MARKED.sub(lambda found: found[1] + as_markdown(FORMS[found[2]]) + found[3], text)


if __name__ == "__main__":
    GUIDE.write_text(with_tables(GUIDE.read_text(encoding="utf-8")), encoding="utf-8", newline="\n")
