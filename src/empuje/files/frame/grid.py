"""The grid: named lines whose crossings are nodes, and runs that lay members along them.

>>> lines = {"x": ["A", "B", "C"], "y": ["1"], "z": ["base", "top"]}
>>> [r.name for r in expand_run("A..B / 1 / base>>top", lines)]
['A1/base-top', 'B1/base-top']
>>> [(r.start, r.end) for r in expand_run("A>C / 1 / top", lines)]
[(('A', '1', 'top'), ('C', '1', 'top'))]
"""

from __future__ import annotations

import itertools
import math
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from ...core.model.findings import did_you_mean

Lines = Mapping[str, Sequence[str]]
Crossing = tuple[str, ...]
LINE_NAME = re.compile(r"[A-Za-z0-9_]+")
MOST_PIECES = 500_000


class RunError(ValueError):
    """The run cannot be read; `remedy` says what to write."""

    def __init__(self, message: str, remedy: str = "") -> None:
        super().__init__(message)
        self.remedy = remedy


@dataclass(frozen=True, slots=True)
class Laid:
    """One member of a run: its name within the family, and the crossings at its ends."""

    name: str
    start: Crossing
    end: Crossing


def crossing_name(lines: Mapping[str, str]) -> str:
    """The name of a crossing, or of a part of one: B2@mezz, A@eave, 2@mezz, A1."""
    plan = lines.get("x", "") + lines.get("y", "")
    return plan + (f"@{lines['z']}" if "z" in lines else "")


def expand_run(text: str, lines: Lines) -> list[Laid]:
    """The members of a run such as "A..C / 1>2 / eave>ridge". Raises RunError.

    `lines` has the line names of each axis of the grid, in order: x, y, z, or x, z in a plane model.
    """
    axes = list(lines)
    parts = [p.strip() for p in text.split("/")]
    if len(parts) != len(axes):
        raise RunError(f"has {len(parts)} parts", f"write one part for each of {' / '.join(axes)}")
    fixed: dict[str, list[str]] = {}
    going: dict[str, list[str]] = {}
    for axis, part in zip(axes, parts, strict=True):
        if ">" in part:
            going[axis] = steps(part, axis, lines[axis])
        else:
            fixed[axis] = several(part, axis, lines[axis])
    if not going:
        raise RunError("goes nowhere: no part has a '>'", "write the way the members run, such as A>B")
    counts = {axis: len(s) for axis, s in going.items()}
    if len(set(counts.values())) > 1:
        told = ", ".join(f"{axis} has {n - 1}" for axis, n in counts.items())
        raise RunError(f"its parts step differently: {told}", "give each part with '>' the same number of steps")
    if math.prod(len(f) for f in fixed.values()) * next(iter(counts.values())) > MOST_PIECES:
        raise RunError(f"makes more than {MOST_PIECES} members")
    out = []
    for chosen in itertools.product(*fixed.values()):
        at = dict(zip(fixed, chosen, strict=True))
        prefix = crossing_name(at)
        along = [dict(zip(going, step, strict=True)) for step in zip(*going.values(), strict=True)]
        for a, b in itertools.pairwise(along):
            name = f"{crossing_name(a).removeprefix('@')}-{crossing_name(b).removeprefix('@')}"
            start, end = (tuple((at | step)[axis] for axis in axes) for step in (a, b))
            out.append(Laid(f"{prefix}/{name}" if prefix else name, start, end))
    return out


def _find(name: str, axis: str, names: Sequence[str]) -> int:
    name = name.strip()
    if name not in names:
        raise RunError(f"there is no grid line {axis} '{name}'", did_you_mean(name, names))
    return names.index(name)


def _between(a: str, b: str, axis: str, names: Sequence[str]) -> list[str]:
    i, j = _find(a, axis, names), _find(b, axis, names)
    return list(names[i : j + 1]) if i <= j else list(names[j : i + 1])[::-1]


def several(part: str, axis: str, names: Sequence[str]) -> list[str]:
    """The lines that A, A,C and A..C name. Raises RunError."""
    out: list[str] = []
    for item in part.split(","):
        ends = item.split("..")
        if len(ends) > 2:
            raise RunError(f"cannot read '{item.strip()}'", "write A..C for every line from A to C")
        out += _between(ends[0], ends[1], axis, names) if len(ends) == 2 else [names[_find(item, axis, names)]]
    return list(dict.fromkeys(out))


def steps(part: str, axis: str, names: Sequence[str]) -> list[str]:
    """The lines that a part of a run goes over: A>C is one step, A>>C one for each interval; A>B>C goes on from B.
    Raises RunError."""
    words = re.split(r"(>>|>)", part)
    if "," in part or ".." in part:
        raise RunError(f"'{part}' mixes '>' with a list", "write one way through, such as A>B, or two runs")
    out = [names[_find(words[0], axis, names)]]
    for mark, word in zip(words[1::2], words[2::2], strict=True):
        way = _between(out[-1], word.strip(), axis, names)
        if len(way) == 1:
            raise RunError(f"goes from {word.strip()} to itself", "name two different lines")
        out += way[1:] if mark == ">>" else way[-1:]
    return out
