"""Positions along a member: "2.5 m" from its start, or "40%" of its length; a bare number is a length."""

from __future__ import annotations

import re

from ...core.model.loads import Position
from .entry import Entry, shown
from .quantities import QuantityError, Units

PERCENT = re.compile(r"\s*(\d+\.?\d*|\.\d+)\s*%\s*")


def parse_position(value: object, units: Units) -> Position:
    """A position. Raises QuantityError."""
    if isinstance(value, str):
        match = PERCENT.fullmatch(value)
        if match:
            share = float(match[1]) / 100
            if share > 1:
                raise QuantityError("is beyond the end")
            return Position(share=share)
    offset = units.read(value, "length")
    if offset < 0:
        raise QuantityError("lies before the start")
    return Position(offset)


def read_position(entry: Entry, key: str) -> Position | None:
    """The position under a key; its default where absent, an error where there is none."""
    default = entry.form[key].default
    if not entry.has(key) and not isinstance(default, str):
        entry.missing(key)
        return None
    return as_position(entry, entry.data.get(key, default), key)


def as_position(entry: Entry, value: object, *inner: str | int) -> Position | None:
    """A position along a member; None where it is not one, which is reported."""
    try:
        return parse_position(value, entry.notes.units)
    except (QuantityError, ValueError) as error:
        entry.error("bad-position", f"{entry.what}.{inner[0]} = {shown(value)}: {error}",
                    'write a length such as "2.5 m" or a share such as "40%"', *inner)  # fmt: skip
        return None
