"""The page of known answers: every value within its error, and the page as it would be written today."""

import re

import pytest

from verification import PAGE, page, values


def test_known_answers():
    found = list(values())
    assert len(found) >= 60
    assert [(v.problem, v.quantity, v.error) for v in found if not v.error <= v.allowed] == []


def test_the_page_is_up_to_date():
    def cells(text):
        return [re.split(r" *\| *", line) for line in text.splitlines() if line.startswith("|")]

    written, today = cells(PAGE.read_text(encoding="utf-8")), cells(page())
    assert [row[:5] for row in written] == [row[:5] for row in today]
    for old, new in zip(written[2:], today[2:], strict=True):
        assert float(old[5]) == pytest.approx(float(new[5]), rel=2e-6, abs=1e-6), old
