"""A model in several files: those that the model file names join it, and nothing in one replaces what another says.

    include = ["loads.toml", "wind.toml"]

Tables join key by key, and lists of tables follow one another; a key that two files give is an error that names both.
"""

from __future__ import annotations

import re
import tomllib
from pathlib import Path as FilePath
from typing import Any

from ...core.model.findings import Finding, Place
from .beside import inside
from .entry import Entry, Notes
from .toml_text import Lines, Path, parse

MOST = 100
"""Files that a model may name."""


class UnusableFile(ValueError):
    """The file cannot be read at all; `finding` says why."""

    def __init__(self, finding: Finding) -> None:
        super().__init__(str(finding))
        self.finding = finding


def parsed(text: str, file: str) -> tuple[dict[str, Any], Lines]:
    """The document in the text of a file, and the lines of its keys. Raises UnusableFile where it is no TOML."""
    try:
        return parse(text)
    except tomllib.TOMLDecodeError as error:
        where = re.search(r"\(at line (\d+), column (\d+)\)", str(error))
        line = int(where[1]) if where else 0
        message = re.sub(r"\s*\(at .*\)", "", str(error))
        remedy = "a table in { } stays on one line; text needs quotes; see docs/model-file.md"
        finding = Finding("error", "unusable-file", f"is not TOML: {message}", remedy, Place(file, line))
    except ValueError as error:  # numbers with thousands of digits
        finding = Finding("error", "unusable-file", f"cannot be read: {error}", "", Place(file))
    except RecursionError:
        finding = Finding("error", "unusable-file", "is nested too deeply", "", Place(file))
    raise UnusableFile(finding) from None


def join_included(model: Entry, folder: FilePath | None) -> None:
    """Puts into a model what the files say that it names. Raises UnusableFile where one is no TOML."""
    notes = model.notes
    names = (model.texts("include") or []) if model.has("include") else []
    if len(names) > MOST:
        model.error("unusable-file", f"include names {len(names)} files", f"at most {MOST}", "include")
    for i, name in enumerate(names[:MOST]):
        if name in names[:i] or name == notes.file:
            what = "the model file itself" if name == notes.file else f"{name} twice"
            model.error("unusable-file", f"include names {what}", "take one out", "include", i)
            continue
        path = inside(model, "include", name, folder, "file", "unusable-file")
        if path is None:
            continue
        try:
            text = notes.bytes_of(path).decode("utf-8-sig")
        except OSError as error:
            model.error("unusable-file", f"{name} cannot be read: {error}", "check it", "include", i)
            continue
        except UnicodeDecodeError as error:
            model.error("unusable-file", f"{name} is not UTF-8 text (byte {error.start})", "save it as UTF-8",
                        "include", i)  # fmt: skip
            continue
        data, lines = parsed(text, name)
        if "include" in data:
            message = "includes files itself"
            notes.say("error", "unusable-file", ("include", i), message, f"name them all in {notes.file}",
                      Place(name, lines[("include",)]))  # fmt: skip
            del data["include"]
        _Joining(notes, name, lines).join(model.data, data, (), ())


class _Joining:
    """One file on its way into the model: its name, and the lines of what it says."""

    def __init__(self, notes: Notes, name: str, lines: Lines) -> None:
        self.notes, self.name = notes, name
        self.lines = lines
        self.below: dict[Path, list[Path]] = {}
        for path in lines:
            for k in range(len(path)):
                self.below.setdefault(path[: k + 1], []).append(path)

    def join(self, into: dict[str, Any], more: dict[str, Any], at: Path, own: Path) -> None:
        """What a table says more; `at` and `own`: its path in the model and in the file."""
        for key, value in more.items():
            here, there = (*at, key), (*own, key)
            if key not in into:
                into[key] = value
                self._note(there, here)
            elif isinstance(value, dict) and isinstance(into[key], dict):
                self.join(into[key], value, here, there)
            elif _tables(value) and _tables(into[key]):
                first = len(into[key])
                into[key] = [*into[key], *value]
                for i in range(len(value)):
                    self._note((*there, i), (*here, first + i))
            else:
                before = self.notes.place(here)
                message = f"{'.'.join(map(str, here))} is given in {before} already"
                place = Place(self.name, self.lines.get(there, 0))
                self.notes.say("error", "given-twice", here, message, "take one of them out", place)

    def _note(self, there: Path, here: Path) -> None:
        """Where something of the file is written, and all in it."""
        for path in self.below.get(there, ()):
            self.notes.included[(*here, *path[len(there) :])] = Place(self.name, self.lines[path])


def _tables(value: object) -> bool:
    return isinstance(value, list) and len(value) > 0 and all(isinstance(v, dict) for v in value)
