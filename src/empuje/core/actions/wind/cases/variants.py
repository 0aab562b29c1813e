"""The cases that a code wants of the wind's directions, and what they are called.

A name is that of its direction, or of two that act at once, then what sets it apart:

    1 2 3 4   load case of ASCE 7 figure 27.3-8      a b c d   alternative coefficients of roofs (a: the lower ones)
    p n       internal pressure positive, negative   l r       made eccentric to the left, to the right of the wind
    min       the minimum load                               C...p n   components: pushed, pulled

>>> [c.name for c in cases_of(Kinds("ab", False, (1, -1), (), False), [("WX", (1, 0))])]
['WXap', 'WXan', 'WXbp', 'WXbn']
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from fnmatch import fnmatchcase
from itertools import permutations, product

from ....model.wind import WindCase

SHARES = {1: 1.0, 2: 0.75, 3: 0.75, 4: 0.563}
SQUARE = 1e-3


@dataclass(frozen=True)
class Kinds:
    """What sets the cases of a model apart: letters of roofs' alternatives, whether they are numbered as load cases of
    ASCE 7, signs of the internal pressure, of eccentricity (EN), whether there is a minimum load, and for
    components "each" direction, "all" at once, or none."""

    letters: str
    numbered: bool
    signs: tuple[int, ...]
    twists: tuple[int, ...]
    least: bool
    components: str = ""


def cases_of(kinds: Kinds, headings: Sequence[tuple[str, tuple[float, float]]]) -> list[WindCase]:
    """All cases of the directions, each a name and a unit vector."""
    out: list[WindCase] = []
    inside = kinds.signs or (0,)
    roofs = range(len(kinds.letters)) if kinds.letters else (0,)
    alone = [((i,), name) for i, (name, _) in enumerate(headings)]
    pairs = [
        ((i, j), headings[i][0] + headings[j][0]) for i, j in permutations(range(len(headings)), 2)
        if abs(headings[i][1][0] * headings[j][1][0] + headings[i][1][1] * headings[j][1][1]) < SQUARE
    ]  # fmt: skip
    numbers = (1, 2, 3, 4) if kinds.numbered else (0,)
    for number in numbers:
        twists = ((-1, 1) if number in (2, 4) else (0,)) if kinds.numbered else (0, *kinds.twists)
        for (which, name), roof, sign, twist in product(pairs if number in (3, 4) else alone, roofs, inside, twists):
            word = str(number) if number else ""
            word += kinds.letters[roof] if kinds.letters else ""
            word += {0: "", 1: "p", -1: "n"}[sign] if len(inside) > 1 else ""
            word += {0: "", 1: "l", -1: "r"}[twist]
            out.append(WindCase(name + word, which, SHARES.get(number, 1.0), number, roof, sign, twist))
    if kinds.least:
        out += [WindCase(f"{name}min", which, least=True) for which, name in alone]
    if kinds.components:
        among = alone if kinds.components == "each" else [((0,), "W")]
        out += [WindCase(f"C{name}{'p' if way > 0 else 'n'}", which, component=way) for which, name in among
                for way in (1, -1)]  # fmt: skip
    return out


def suffix(case: WindCase, headings: Sequence[tuple[str, tuple[float, float]]]) -> str:
    """What a case's name says beyond its directions."""
    return case.name.removeprefix("".join(headings[i][0] for i in case.headings))


def kept(case: WindCase, word: str, patterns: Sequence[str]) -> bool:
    """Whether a case is meant: one of the patterns is its name's ending, or its whole name."""
    return any(fnmatchcase(word, p) or fnmatchcase(case.name, p) for p in patterns)


def title(case: WindCase, headings: Sequence[str], kinds: Kinds) -> str:
    """A case in words, of directions in words."""
    if case.component:
        where = f" {headings[0]}" if kinds.components == "each" else ""
        return f"Wind{where} on components, {'pushing' if case.component > 0 else 'pulling'}"
    out = f"Wind {' and '.join(headings)}"
    if case.least:
        return f"{out}, minimum load"
    if case.load_case:
        out += f", load case {case.load_case}"
    if kinds.letters:
        out += ", roof " + ("lower values", "upper values", "lower, I J upper", "upper, I J lower")[case.roof]
    if len(kinds.signs) > 1:
        out += f", internal {'+' if case.inside > 0 else '-'}"
    if case.twist:
        out += f", eccentric to the {'left' if case.twist > 0 else 'right'}"
    return out
