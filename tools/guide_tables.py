"""Writes the tables of keys into docs/model-file.md, from what src/empuje/files/keys.py says of them.

python tools/guide_tables.py            # between <!-- keys: NAME --> and <!-- end -->
"""

from __future__ import annotations

import re
from pathlib import Path

from empuje.files import (
    keys,
    keys_checks,
    keys_copies,
    keys_limits,
    keys_makers,
    keys_report,
    keys_steel,
    keys_traffic,
    keys_wind,
)
from empuje.files.forms import Form, as_markdown, with_inner

GUIDE = Path(__file__).parents[1] / "docs" / "model-file.md"
MARKED = re.compile(r"(<!-- keys: (.+?) -->\n).*?(<!-- end -->)", re.S)
FORMS = with_inner(
    form
    for form in {
        **vars(keys),
        **vars(keys_wind),
        **vars(keys_traffic),
        **vars(keys_limits),
        **vars(keys_checks),
        **vars(keys_copies),
        **vars(keys_makers),
        **vars(keys_report),
        **vars(keys_steel),
    }.values()
    if isinstance(form, Form)
)


def with_tables(text: str) -> str:
    """The guide with every table as it should be. Raises KeyError where a marker names no table."""
    return MARKED.sub(lambda found: found[1] + as_markdown(FORMS[found[2]]) + found[3], text)


if __name__ == "__main__":
    GUIDE.write_text(with_tables(GUIDE.read_text(encoding="utf-8")), encoding="utf-8", newline="\n")
