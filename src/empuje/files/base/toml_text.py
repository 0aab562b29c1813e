"""TOML with line numbers: the standard library reads the values, a scan of the same text finds their lines.

>>> data, lines = parse('[cases]\\nG = { action = "dead" }\\n')
>>> lines[("cases", "G", "action")]
2
"""

from __future__ import annotations

import re
import tomllib
from typing import Any

Path = tuple[str | int, ...]
Lines = dict[Path, int]
BLANK = re.compile(r"(?:[ \t\r\n]|#[^\n]*)*")
BARE = re.compile(r"[A-Za-z0-9_-]+")
SCALAR = re.compile(r"[^,\]}\n#]+")
STRINGS = (
    re.compile(r'"""(?:\\.|[^\\])*?"{3,5}', re.S),
    re.compile(r"'''.*?'{3,5}", re.S),
    re.compile(r'"(?:\\.|[^"\\\n])*"'),
    re.compile(r"'[^'\n]*'"),
)


MOST_PARTS = 32
PART = r"""(?:[A-Za-z0-9_-]{1,99}|"[^"\n]{0,99}"|'[^'\n]{0,99}')[ \t]{0,9}"""
LONG_KEY = re.compile(rf"(?:^|[\[{{,])[ \t]{{0,99}}(?:{PART}\.[ \t]{{0,9}}){{{MOST_PARTS}}}", re.M)
"""Where a key begins that has too many parts."""


def parse(text: str) -> tuple[dict[str, Any], Lines]:
    """The document, and the line of every key and array element. Raises ValueError, and as its own kind
    tomllib.TOMLDecodeError, for what is no TOML or would cost far too much to read."""
    # A key of n parts costs the standard reader n^2.
    found = LONG_KEY.search(text)
    if found:
        line = text.count("\n", 0, found.start()) + 1
        raise tomllib.TOMLDecodeError(f"A key of more than {MOST_PARTS} parts (at line {line}, column 1)")
    data = tomllib.loads(text)
    return data, _Scan(text).lines


class _Scan:
    """A walk over TOML already known to be valid, that only keeps track of where things are."""

    def __init__(self, text: str) -> None:
        self.text = text.replace("\r\n", "\n")
        self.at = 0
        self.counted_to, self.line = 0, 1
        self.lines: Lines = {}
        self.tables: dict[Path, int] = {}
        here: Path = ()
        while self._skip() < len(self.text):
            if self.text[self.at] == "[":
                here = self._header()
            else:
                self._pair(here)

    def _skip(self) -> int:
        match = BLANK.match(self.text, self.at)
        assert match
        self.at = match.end()
        return self.at

    def _note(self, path: Path) -> None:
        self.line += self.text.count("\n", self.counted_to, self.at)
        self.counted_to = self.at
        self.lines.setdefault(path, self.line)

    def _string(self) -> str | None:
        for kind in STRINGS:
            match = kind.match(self.text, self.at)
            if match:
                self.at = match.end()
                return match[0]
        return None

    def _key(self) -> Path:
        parts: list[str] = []
        while True:
            self._skip()
            quoted = self._string()
            if quoted is not None:
                parts.append(tomllib.loads(f"k = {quoted}")["k"])
            else:
                match = BARE.match(self.text, self.at)
                assert match
                parts.append(match[0])
                self.at = match.end()
            self._skip()
            if self.text[self.at] != ".":
                return tuple(parts)
            self.at += 1

    def _inside(self, path: Path) -> Path:
        """A header's path with the index of the latest entry after each array of tables."""
        out: Path = ()
        for part in path:
            out = (*out, part)
            if out in self.tables:
                out = (*out, self.tables[out])
        return out

    def _header(self) -> Path:
        many = self.text.startswith("[[", self.at)
        start = self.at
        self.at += 2 if many else 1
        keys = self._key()
        if many:
            path = (*self._inside(keys[:-1]), keys[-1])
            self.tables[path] = self.tables.get(path, -1) + 1
        path = self._inside(keys)
        end, self.at = self.text.index("]", self.at) + (2 if many else 1), start
        self._note(path)
        self.at = end
        return path

    def _pair(self, here: Path) -> None:
        start = self.at
        keys = self._key()
        end, self.at = self.at, start
        for i in range(len(keys)):
            self._note((*here, *keys[: i + 1]))
        self.at = end + 1
        self._value((*here, *keys))

    def _value(self, path: Path) -> None:
        self._skip()
        mark = self.text[self.at]
        if mark == "[":
            self._group(path, "]")
        elif mark == "{":
            self._group(path, "}")
        elif self._string() is None:
            match = SCALAR.match(self.text, self.at)
            assert match
            self.at = match.end()

    def _group(self, path: Path, close: str) -> None:
        self.at += 1
        count = 0
        while True:
            self._skip()
            if self.text[self.at] == close:
                self.at += 1
                return
            if self.text[self.at] == ",":
                self.at += 1
            elif close == "}":
                self._pair(path)
            else:
                self._note((*path, count))
                self._value((*path, count))
                count += 1
