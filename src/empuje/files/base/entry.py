"""Reading one table of a model file: typed values out, findings for everything that is wrong with it."""

from __future__ import annotations

import hashlib
from collections import Counter
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from pathlib import Path as FilePath
from typing import Any, TypeVar

from ...core.model.findings import CONTROL, Finding, Level, Place, did_you_mean, in_order, visible
from ...core.model.words import Word
from .forms import Choice, Form, Table, Tables
from .plain_file import bytes_in
from .quantities import QuantityError, Units, ValueLost
from .toml_text import Lines, Path

W = TypeVar("W", bound=Word)
LARGEST_TABLE = 100_000_000
"""Bytes of a file beside the model."""
MOST_KEPT = 500
"""Findings of a kind that are kept; of more their number."""


@dataclass
class Notes:
    """What one reading collects: findings, the lines to place them at, and a digest of all it read."""

    file: str
    lines: Lines
    units: Units = field(default_factory=lambda: Units("kN", "m"))
    findings: list[Finding] = field(default_factory=list)
    elsewhere: dict[Path, Place] = field(default_factory=dict)
    included: dict[Path, Place] = field(default_factory=dict)
    digest: bytes = b""
    files: list[FilePath] = field(default_factory=list)
    counted: Counter[tuple[Level, str, str]] = field(default_factory=Counter)

    def bytes_of(self, path: FilePath) -> bytes:
        """What a file beside the model holds; it counts among what the model came from. Raises OSError."""
        self.files.append(path)
        data = bytes_in(path, LARGEST_TABLE)
        self.came_from(data)
        return data

    def came_from(self, data: bytes) -> None:
        """Counts data among what was read."""
        self.digest = hashlib.sha256(self.digest + hashlib.sha256(data).digest()).digest()

    def place(self, path: Path) -> Place:
        """The line of a path, or of the nearest thing around it that has one; `elsewhere` holds rows of tables,
        `included` what other files say."""
        if path[:3] in self.elsewhere:
            return self.elsewhere[path[:3]]
        while path and path not in self.lines:
            if path in self.included:
                return self.included[path]
            path = path[:-1]
        return Place(self.file, self.lines.get(path, 0))

    def say(
        self, level: Level, code: str, path: Path, message: str, remedy: str = "", place: Place | None = None,
        about: tuple[str, ...] = (),
    ) -> None:  # fmt: skip
        """Adds a finding about what is written at a path."""
        place = place or self.place(path)
        kind = level, code, place.file
        self.counted[kind] += 1
        if self.counted[kind] <= MOST_KEPT:
            self.findings.append(Finding(level, code, message, remedy, place, about=about))

    @property
    def errors(self) -> int:
        """How many there are."""
        return sum(n for (level, *_), n in self.counted.items() if level == "error")

    def all_found(self) -> list[Finding]:
        """The findings in order; of kinds there are very many of, how many more."""
        more = [
            Finding(level, code, f"and {n - MOST_KEPT:,} more of this kind in {file}", "", Place(file),
                    n - MOST_KEPT)
            for (level, code, file), n in self.counted.items() if n > MOST_KEPT
        ]  # fmt: skip
        return in_order([*self.findings, *more])


@dataclass(frozen=True)
class Entry:
    """A table of the model file, with the path that leads to it, and what is known of its keys: what they take and what
    leaving them out means comes from there."""

    data: dict[str, Any]
    path: Path
    notes: Notes
    form: Form

    @property
    def place(self) -> Place:
        """Where the table is written."""
        return self.notes.place(self.path)

    def place_of(self, *inner: str | int) -> Place:
        """Where something inside is written."""
        return self.notes.place((*self.path, *inner))

    @property
    def what(self) -> str:
        """The entry as a reader would name it: loads.G[2], or row[7] of a table."""
        row = self.notes.elsewhere.get(self.path[:3])
        out = "" if row is None else f"row[{row.line}]"
        for part in self.path if row is None else self.path[3:]:
            out += f"[{part + 1}]" if isinstance(part, int) else (f".{part}" if out else part)
        return out

    def error(self, code: str, message: str, remedy: str = "", *inner: str | int) -> None:
        """Adds an error about the table, or about a key inside it."""
        self.notes.say("error", code, (*self.path, *inner), message, remedy)

    def known(self, only: Iterable[str] | None = None) -> Entry:
        """Report every key that the table cannot have; `only`: those of its keys that it can have here."""
        keys = list(self.form.names if only is None else only)
        for key in self.data:
            if key not in keys:
                self.error("unknown-key", f"{self.what} has an unknown key `{key}`", did_you_mean(key, keys), key)
        return self

    def has(self, key: str) -> bool:
        """Whether a key is written."""
        return key in self.data

    def seen_as(self, form: Form) -> Entry:
        """The same table, by what is known of another kind."""
        return Entry(self.data, self.path, self.notes, form)

    def inner(self, value: dict[str, Any], form: Form, *inner: str | int) -> Entry:
        """A table inside, where other things may stand too."""
        return Entry(value, (*self.path, *inner), self.notes, form)

    def child(self, key: str, form: Form | None = None) -> Entry:
        """The table under a key; an empty one, reported, where it is something else."""
        takes = self.form[key].takes
        if form is None:
            assert isinstance(takes, Table), f"{self.form.name}.{key} takes no table"
            form = takes.form
        value = self.data.get(key, {})
        if not isinstance(value, dict):
            self.error("not-a-table", f"{self.what + '.' if self.path else ''}{key} is not a table", "", key)
            value = {}
        return self.inner(value, form, key)

    def children(self, remedy: str = "write it as { key = value, ... }") -> Iterator[tuple[str, Entry]]:
        """The tables under names that the engineer gave; `remedy`: for what is no table."""
        assert isinstance(self.form.each, Table), f"{self.form.name} holds no tables"
        for key, value in self.data.items():
            if isinstance(value, dict):
                yield key, self.inner(value, self.form.each.form, key)
            else:
                self.error("not-a-table", f"{self.what}.{key} is not a table", remedy, key)

    def entries(self, key: str) -> list[Entry]:
        """The list of tables under a key; one table counts as a list of one."""
        value = self.data.get(key, [])
        takes = self.form[key].takes
        assert isinstance(takes, Tables), f"{self.form.name}.{key} takes no list of tables"
        if isinstance(value, dict):
            return [self.inner(value, takes.form, key)]
        if not isinstance(value, list):
            self.error("not-a-list", f"{self.what + '.' if self.path else ''}{key} is not a list of tables", "", key)
            return []
        out = []
        for i, item in enumerate(value):
            if isinstance(item, dict):
                out.append(self.inner(item, takes.form, key, i))
            else:
                self.error("not-a-table", f"{key}[{i + 1}] is not a table", "write it as { key = value, ... }", key, i)
        return out

    def quantity(self, key: str, default: float | None = None) -> float | None:
        """A quantity in SI; its default where the key is absent, an error where there is none."""
        if key not in self.data:
            if default is None:
                usual = self.form[key].default
                default = usual if isinstance(usual, float) else None
            if default is None:
                self.missing(key)
            return default
        return self.as_quantity(self.data[key], key)

    def as_quantity(self, value: object, key: str, *inner: str | int, kind: str = "") -> float | None:
        """A value found under a key as a quantity, or None and a finding."""
        try:
            return self.notes.units.read(value, kind or self.form[key].kind)
        except ValueLost:
            return None
        except QuantityError as error:
            self.error("bad-quantity", f"{self.what}.{key} = {shown(value)}: {error}", "", key, *inner)
            return None

    def text(self, key: str, choices: Iterable[str] = (), default: str | None = None) -> str | None:
        """Text, one of the words it may be; `choices`: those it may be here."""
        described = self.form[key]
        if key not in self.data:
            if default is None and isinstance(described.default, str):
                default = described.default
            if default is None:
                self.missing(key)
            return default
        value = self.data[key]
        choices = list(choices) or list(described.takes.words if isinstance(described.takes, Choice) else ())
        if not isinstance(value, str):
            self.error("not-text", f"{self.what}.{key} = {shown(value)} is not text", 'write it in "quotes"', key)
            return None
        if choices and value not in choices:
            self.error("unknown-word", f"{self.what}.{key} = {shown(value)}", did_you_mean(value, choices), key)
            return None
        return value

    def word(self, key: str, choices: type[W], default: W | None = None) -> W | None:
        """A word of a closed vocabulary."""
        found = self.text(key, [word for word in choices if word], default)
        return None if found is None else choices(found)

    def flag(self, key: str, default: bool | None = None) -> bool:
        """true or false; the default where it is not written or is neither, which is reported."""
        default = self.form[key].default is True if default is None else default
        value = self.data.get(key, default)
        if not isinstance(value, bool):
            self.error("not-a-flag", f"{self.what}.{key} = {shown(value)}", "write true or false", key)
            return default
        return value

    def texts(self, key: str) -> list[str] | None:
        """Text or a list of texts."""
        if key not in self.data:
            self.missing(key)
            return None
        value = self.data[key]
        values = value if isinstance(value, list) else [value]
        if not values or not all(isinstance(v, str) for v in values):
            self.error("not-text", f"{self.what}.{key} = {shown(value)} is not a name or a list of names", "", key)
            return None
        return values

    def flag_or_texts(self, key: str) -> bool | list[str]:
        """true, false, or names; the default where it is not written or is none of these, which is reported."""
        if isinstance(self.data.get(key), str | list):
            return self.texts(key) or []
        return self.flag(key)

    def missing(self, key: str) -> None:
        """Reports that a key is not written."""
        self.error("missing-key", f"{self.what} has no `{key}`", f"add {key} = ...")


def refuse_control_characters(data: object, notes: Notes, path: Path = ()) -> None:
    """Reports text and keys that would move a terminal's cursor or turn the direction of writing wherever they show."""
    if isinstance(data, str):
        if not data.isprintable() and CONTROL.search(data):
            message = f"{'.'.join(map(str, path))} holds a control character: {shown(visible(data))}"
            notes.say("error", "control-character", path, message, "write plain text")
    elif isinstance(data, dict):
        for key, value in data.items():
            if CONTROL.search(key):
                message = f"the key {shown(visible(key))} holds a control character"
                notes.say("error", "control-character", (*path, key), message, "write plain text")
            refuse_control_characters(value, notes, (*path, key))
    elif isinstance(data, list):
        for i, value in enumerate(data):
            refuse_control_characters(value, notes, (*path, i))


def shown(value: object) -> str:
    """A value of the file, short enough for a message."""
    text = f'"{value}"' if isinstance(value, str) else str(value).lower() if isinstance(value, bool) else str(value)
    return text if len(text) <= 60 else text[:57] + "..."
