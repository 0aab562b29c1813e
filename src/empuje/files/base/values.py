"""Named values: numbers with or without units that every quantity of a model may use.

    [values]
    spacing = "2.5 m"
    q       = "1.35*3.2 kN/m2 * spacing"        # a value may use others, in any order

>>> from .entry import Entry, Notes
>>> from ..keys import MODEL
>>> notes = Notes("m.toml", {})
>>> read_values(Entry({"values": {"b": "2*a", "a": "1.5 m"}}, (), notes, MODEL), {})
>>> notes.units.read("b + 1 m", "length")
4.0
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import replace

from ...core.model.findings import Finding, did_you_mean
from .entry import Entry, shown
from .quantities import Dimension, QuantityError, Units, is_a_unit

NAME = re.compile(r"(?![eE]\d+$)[A-Za-z][A-Za-z0-9_]{0,39}")
DEEPEST = 40
"""So many values may follow one from another."""


class NoSuchValue(ValueError):
    """A value to be set is not among those of the model; `finding` says so."""

    def __init__(self, finding: Finding) -> None:
        super().__init__(str(finding))
        self.finding = finding


def read_values(model: Entry, given: Mapping[str, str]) -> None:
    """Hands the model's named values to its quantities; `given`: others in place of those written, by name. Raises
    NoSuchValue."""
    table = model.child("values")
    for name in given:
        if name not in table.data:
            message = f"there is no value {name} to be set"
            remedy = did_you_mean(name, table.data) if table.data else "name it in [values]"
            raise NoSuchValue(Finding("error", "unknown-value", message, remedy, table.place))
    texts: dict[str, str] = {}
    for name, written in table.data.items():
        value = given.get(name, written)
        if not NAME.fullmatch(name):
            table.error("bad-name", f"values.{name} is no name", "use letters, digits and _, a letter first", name)
        elif is_a_unit(name):
            table.error("bad-name", f"values.{name} reads as a unit", f"name it {name}_ and what it is of", name)
        elif isinstance(value, bool) or not isinstance(value, str | int | float):
            table.error("bad-quantity", f"values.{name} = {shown(value)} is no quantity", 'such as "3.2 kN/m2"', name)
        else:
            texts[name] = value if isinstance(value, str) else repr(value)
    found: dict[str, str] = {}
    failed: set[str] = set()
    used: set[str] = set()
    units = replace(model.notes.units, values=found, used=used)

    def find(name: str, above: tuple[str, ...]) -> None:
        if name in found or name in failed:
            return
        if name in above or len(above) > DEEPEST:
            circle = " > ".join((*above[above.index(name) :], name)) if name in above else f"{name} > ..."
            words = "use each other in a circle" if name in above else f"follow from more than {DEEPEST} others"
            table.error("value-circle", f"values {words}: {circle}", "give one of them a number", name)
            failed.update(above)
            return
        inner = [w for w in Units.WORD.findall(texts[name]) if w in table.data]
        used.update(inner)
        for other in (w for w in inner if w in texts):
            find(other, (*above, name))
        if name in failed or not all(w in found for w in inner):
            failed.add(name)
            return
        try:
            found[name] = standing_for(*units.parse(texts[name]))
        except QuantityError as error:
            failed.add(name)
            table.error("bad-quantity", f"values.{name} = {shown(texts[name])}: {error}", "", name)

    for name in texts:
        find(name, ())
    lost = frozenset(set(table.data) - set(found))
    model.notes.units = replace(units, lost=lost)
    for name, value in given.items():
        words = f"{name} = {value} is set for this run; the file says {shown(table.data[name])}"
        model.notes.say("note", "value-set", ("values", name), words)


def say_unused(model: Entry) -> None:
    """Values that nothing came to use, once everything is read."""
    units = model.notes.units
    for name in units.values:
        if name not in units.used:
            model.notes.say("warning", "unused-value", ("values", name), f"nothing uses the value {name}",
                            "use it, or take it out", about=(name,))  # fmt: skip


def standing_for(number: float, dimension: Dimension, with_unit: bool) -> str:
    """A quantity as text that reads as it, in SI."""
    units = "".join(f"*{u}^{p:g}" for u, p in zip(("m", "kg", "s", "K"), dimension, strict=True) if p)
    return f"({number!r}{units or ('*rad' if with_unit else '')})"
