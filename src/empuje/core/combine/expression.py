"""Sums of factored names: a combination of cases, or a code's rule in the symbols of its actions.

>>> parse("1.2 (SW + G) + 1.6*0.5 Q - 1.0 W")
(('SW', 1.2), ('G', 1.2), ('Q', 0.8), ('W', -1.0))

A rule may also hold alternatives `(0.5 Lr | 0.3 S)`, values with a name `(1.2 + 0.2 S_DS) D`, factors that differ from
case to case `psi0 Q`, and factors of which each case takes either `{0.9, 1.1} G`.

>>> [[(t.name, t.factors, t.by_case) for t in option] for option in parse_rule("G + 1.5 (psi0 Q | W)", {}, ["psi0"])]
[[('G', (1.0,), ()), ('Q', (1.5,), ('psi0',))], [('G', (1.0,), ()), ('W', (1.5,), ())]]
"""

from __future__ import annotations

import re
from collections.abc import Collection, Mapping
from itertools import product

from ..model.rules import Options, Term

TOKEN = re.compile(
    r"\s*(?:(?P<number>\d+(?:\.\d*)?(?:[eE][+-]?\d+)?|\.\d+)|(?P<name>[^\W\d]\w*)|(?P<mark>[-+*/()|{},]))"
)
LONGEST = 2000
DEEPEST = 20
LARGEST = 1e6
MOST_OPTIONS = 200


class ExpressionError(ValueError):
    """The text is no sum of factored names; the message says where it stops being one."""


def parse(text: str) -> tuple[tuple[str, float], ...]:
    """Case names and factors of a combination, in the order they first appear, each case once.

    The factors of a case named twice add up. Raises ExpressionError.
    """
    for mark in "|{},":
        if mark in text:
            raise ExpressionError(f"cannot read on at '{text[text.index(mark) :].strip()[:12]}'")
    (terms,) = parse_rule(text)
    total: dict[str, float] = {}
    for term in terms:
        total[term.name] = total.get(term.name, 0.0) + term.factors[0]
    return tuple(total.items())


def parse_rule(text: str, values: Mapping[str, float] | None = None, by_case: Collection[str] = ()) -> Options:
    """The alternatives of a rule. Raises ExpressionError."""
    if len(text) > LONGEST:
        raise ExpressionError(f"longer than {LONGEST} characters")
    reader = _Reader(_tokens(text), values or {}, by_case)
    options = reader.options(0)
    if reader.tokens:
        raise ExpressionError(f"cannot read on at '{reader.tokens[0][1]}'")
    for option in options:
        for term in option:
            if not term.name and any(term.factors):
                raise ExpressionError(f"a case is missing after {term.factors[0]:g}")
            if any(not abs(f) <= LARGEST for f in term.factors):
                raise ExpressionError(f"the factor of {term.name} is larger than {LARGEST:g}")
    return [[term for term in option if term.name] for option in options]


Token = tuple[str, str]


def _tokens(text: str) -> list[Token]:
    out, at = [], 0
    text = text.rstrip()
    while at < len(text):
        match = TOKEN.match(text, at)
        if match is None:
            raise ExpressionError(f"cannot read on at '{text[at:].strip()[:12]}'")
        kind = match.lastgroup or ""
        out.append((kind, match[kind]))
        at = match.end()
    return out


class _Reader:
    """Reads tokens from the front; a name that is not a value or a factor of cases ends a product."""

    def __init__(self, tokens: list[Token], values: Mapping[str, float], by_case: Collection[str]) -> None:
        self.tokens, self.values, self.by_case = tokens, values, by_case

    def at(self, *marks: str) -> bool:
        return bool(self.tokens) and self.tokens[0][0] == "mark" and self.tokens[0][1] in marks

    def take(self) -> Token:
        token, self.tokens = self.tokens[0], self.tokens[1:]
        return token

    def options(self, depth: int) -> Options:
        """Sums with | between them."""
        if depth > DEEPEST:
            raise ExpressionError(f"more than {DEEPEST} brackets inside each other")
        out = self.sum(depth)
        while self.at("|"):
            self.take()
            out += self.sum(depth)
        if len(out) > MOST_OPTIONS:
            raise ExpressionError(f"more than {MOST_OPTIONS} alternatives")
        return out

    def sum(self, depth: int) -> Options:
        parts = [self.product(depth, -1.0 if self.at("-") else 1.0, signed=self.at("+", "-"))]
        while self.at("+", "-"):
            parts.append(self.product(depth, -1.0 if self.at("-") else 1.0, signed=True))
        if len(parts) > 1 and any(len(p) > 1 for p in parts):
            size = 1
            for p in parts:
                size *= len(p)
            if size > MOST_OPTIONS:
                raise ExpressionError(f"more than {MOST_OPTIONS} alternatives")
        return [[term for part in chosen for term in part] for chosen in product(*parts)]

    def product(self, depth: int, sign: float, signed: bool) -> Options:
        """Numbers, joined by blanks, * or /, then one name or one bracket; or numbers alone."""
        if signed:
            self.take()
        so_far = Term("", (sign,))
        divide, open_end = False, True
        while self.tokens and not (not open_end and self.at("+", "-", ")", "|")):
            kind, word = self.take()
            factor: Term | None = None
            if kind == "number" or word in self.values:
                value = float(word) if kind == "number" else self.values[word]
                if divide and value == 0:
                    raise ExpressionError("division by zero")
                factor = Term("", (1 / value if divide else value,))
            elif divide:
                raise ExpressionError("only numbers can follow '/'")
            elif word in self.by_case:
                factor = Term("", (1.0,), (word,))
            elif kind == "name":
                return [[Term(word, (1.0,)).scaled(so_far)]]
            elif word == "(":
                inner = self.options(depth + 1)
                if not self.at(")"):
                    raise ExpressionError("a bracket is not closed")
                self.take()
                if len(inner) > 1 or any(term.name or term.by_case or len(term.factors) > 1 for term in inner[0]):
                    return [[term.scaled(so_far) for term in option] for option in inner]
                factor = Term("", (sum(term.factors[0] for term in inner[0]),))
            elif word == "{":
                factor = Term("", self.either())
            else:
                raise ExpressionError(f"a case is missing before '{word}'")
            so_far = factor.scaled(so_far)
            divide, open_end = self.at("/"), self.at("*", "/")
            if open_end:
                self.take()
        if open_end:
            raise ExpressionError("a case is missing at the end")
        return [[so_far]]

    def either(self) -> tuple[float, ...]:
        """Numbers with commas between them, up to the brace that closes them."""
        out = []
        while True:
            kind, word = self.take() if self.tokens else ("", "")
            if kind != "number":
                raise ExpressionError("put numbers with commas between { and }")
            out.append(float(word))
            if not self.at(",", "}"):
                raise ExpressionError("put numbers with commas between { and }")
            if self.take()[1] == "}":
                return tuple(out)
