"""How the keys of a table are described: as data, from which reading, messages and the guide's tables come.

>>> beam = Form("beam", (Key("length", Quantity("length"), REQUIRED, "from axis to axis"),))
>>> beam.names, beam["length"].needed
(('length',), True)
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from enum import Enum

from ...core.model.words import Word


class Missing(Enum):
    """What a key that is left out means, where that is no value."""

    REQUIRED = "required"
    ABSENT = ""


REQUIRED, ABSENT = Missing.REQUIRED, Missing.ABSENT


@dataclass(frozen=True)
class Quantity:
    """A quantity of a kind (quantities.py); `written`: how, where it is not just one."""

    kind: str
    written: str = ""


@dataclass(frozen=True)
class Choice:
    """One of several words; `written`: how they are listed, where all of them would be too many; `or_list`: a list may
    stand in their place."""

    words: tuple[str, ...]
    written: str = ""
    or_list: bool = False

    @staticmethod
    def of(words: type[Word]) -> Choice:
        """One of the words of an enumeration."""
        return Choice(tuple(w for w in words if w))


@dataclass(frozen=True)
class Choices:
    """One of several words, or a list of them; `written`: how they are listed."""

    words: tuple[str, ...]
    written: str


@dataclass(frozen=True)
class Flag:
    """true or false."""


@dataclass(frozen=True)
class Text:
    """Free text, or text in a manner of its own."""

    written: str = "text"


@dataclass(frozen=True)
class Names:
    """One name or a list of names."""

    written: str


@dataclass(frozen=True)
class Written:
    """Values in a manner of their own; bare numbers in them are of `kind`."""

    written: str
    kind: str = "number"


@dataclass(frozen=True)
class Table:
    """A table."""

    form: Form


@dataclass(frozen=True)
class Tables:
    """A list of tables; one table counts as a list of one."""

    form: Form


Takes = Quantity | Choice | Choices | Flag | Text | Names | Written | Table | Tables


@dataclass(frozen=True)
class Key:
    """A key: its name, what it takes, the value where it is left out, what it means, and in words what leaving it out
    means where that is no fixed value."""

    name: str
    takes: Takes
    default: Missing | Word | float | bool | str
    meaning: str
    left_out: str = ""

    @property
    def needed(self) -> bool:
        """Whether a table without it is an error."""
        return self.default is REQUIRED and not self.left_out

    @property
    def kind(self) -> str:
        """The kind of quantity it takes. Raises TypeError where it takes none."""
        if isinstance(self.takes, Quantity | Written):
            return self.takes.kind
        raise TypeError(f"{self.name} takes no quantity")


@dataclass(frozen=True)
class Form:
    """The keys of a table; `each`: what it takes under names that the engineer gives; `beside`: what the same table may
    be instead."""

    name: str
    keys: tuple[Key, ...] = ()
    each: Takes | None = None
    beside: tuple[Form, ...] = ()

    @property
    def names(self) -> tuple[str, ...]:
        """Of its keys, in their order."""
        return tuple(k.name for k in self.keys)

    def __contains__(self, name: object) -> bool:
        return name in self.names

    def __getitem__(self, name: str) -> Key:
        """Raises KeyError."""
        for key in self.keys:
            if key.name == name:
                return key
        if self.each is not None:
            return Key(name, self.each, REQUIRED, "")
        raise KeyError(f"{self.name} has no key {name}")

    def without(self, name: str) -> Form:
        """With all of its keys but one."""
        return Form(self.name, tuple(key for key in self.keys if key.name != name))

    def only(self, names: Iterable[str]) -> Form:
        """With some of its keys."""
        return Form(self.name, tuple(self[name] for name in names))


def with_inner(forms: Iterable[Form]) -> dict[str, Form]:
    """Forms and those inside them, by name."""
    out: dict[str, Form] = {}
    todo = list(forms)
    while todo:
        form = todo.pop()
        out[form.name] = form
        inner = [*(k.takes for k in form.keys), form.each]
        forms_in = [*form.beside, *(t.form for t in inner if isinstance(t, Table | Tables))]
        todo += [one for one in forms_in if one.name not in out]
    return out


def as_markdown(form: Form) -> str:
    """The keys of a form as a table of the guide."""
    rows = [f"| `{k.name}` | {_takes(k.takes)} | {_left_out(k)} | {k.meaning} |\n" for k in form.keys]
    return "| key | takes | left out | meaning |\n| --- | --- | --- | --- |\n" + "".join(rows)


def _takes(takes: Takes) -> str:
    match takes:
        case Quantity(kind, written):
            return written or kind.replace("number", "a number")
        case Choices(_, written):
            return written
        case Choice(words, written, _):
            return written or ", ".join(f"`{_quoted(w)}`" for w in words)
        case Flag():
            return "`true` or `false`"
        case Table():
            return "table"
        case Tables():
            return "table, or list of tables"
        case Text(written) | Names(written) | Written(written):
            return written


def _left_out(key: Key) -> str:
    if key.left_out or isinstance(key.default, Missing):
        return key.left_out or ("required" if key.default is REQUIRED else "")
    if isinstance(key.default, bool):
        return f"`{str(key.default).lower()}`"
    if isinstance(key.default, str):
        return f"`{_quoted(key.default)}`" if key.default else ""
    return f"{key.default:g}"


def _quoted(word: str) -> str:
    return f'"{word}"'
