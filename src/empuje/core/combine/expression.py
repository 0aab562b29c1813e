"""Combinations written as sums of factored cases.

>>> parse("1.2 (SW + G) + 1.6*0.5 Q - 1.0 W")
(('SW', 1.2), ('G', 1.2), ('Q', 0.8), ('W', -1.0))
"""

from __future__ import annotations

import re

TOKEN = re.compile(r"\s*(?:(?P<number>\d+(?:\.\d*)?(?:[eE][+-]?\d+)?|\.\d+)|(?P<name>[^\W\d]\w*)|(?P<mark>[-+*/()]))")
LONGEST = 2000
DEEPEST = 20
LARGEST = 1e6


class ExpressionError(ValueError):
    """The text is no sum of factored cases; the message says where it stops being one."""


def parse(text: str) -> tuple[tuple[str, float], ...]:
    """Case names and factors of a combination, in the order they first appear, each case once.

    The factors of a case named twice add up. Raises ExpressionError.
    """
    if len(text) > LONGEST:
        raise ExpressionError(f"longer than {LONGEST} characters")
    tokens = _tokens(text)
    terms, rest = _sum(tokens, 1.0, 0)
    if rest:
        raise ExpressionError(f"cannot read on at '{rest[0][1]}'")
    total: dict[str, float] = {}
    for name, factor in terms:
        if not abs(factor) <= LARGEST:
            raise ExpressionError(f"the factor of {name} is larger than {LARGEST:g}")
        total[name] = total.get(name, 0.0) + factor
    return tuple(total.items())


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


def _sum(tokens: list[Token], outer: float, depth: int) -> tuple[list[tuple[str, float]], list[Token]]:
    if depth > DEEPEST:
        raise ExpressionError(f"more than {DEEPEST} brackets inside each other")
    terms: list[tuple[str, float]] = []
    first = True
    while True:
        sign = 1.0
        if tokens and tokens[0] in (("mark", "+"), ("mark", "-")):
            sign = -1.0 if tokens[0][1] == "-" else 1.0
            tokens = tokens[1:]
        elif not first:
            return terms, tokens
        first = False
        found, tokens = _product(tokens, outer * sign, depth)
        terms += found


def _product(tokens: list[Token], factor: float, depth: int) -> tuple[list[tuple[str, float]], list[Token]]:
    """Numbers, joined by blanks, * or /, then one case or one bracket."""
    divide = False
    while tokens:
        (kind, word), tokens = tokens[0], tokens[1:]
        if kind == "number":
            value = float(word)
            if divide and value == 0:
                raise ExpressionError("division by zero")
            factor = factor / value if divide else factor * value
        elif divide:
            raise ExpressionError("only numbers can stand after '/'")
        elif kind == "name":
            return [(word, factor)], tokens
        elif word == "(":
            terms, tokens = _sum(tokens, factor, depth + 1)
            if not tokens or tokens[0][1] != ")":
                raise ExpressionError("a bracket is not closed")
            return terms, tokens[1:]
        else:
            raise ExpressionError(f"a case is missing before '{word}'")
        divide = bool(tokens) and tokens[0] == ("mark", "/")
        if tokens and tokens[0] in (("mark", "*"), ("mark", "/")):
            tokens = tokens[1:]
    raise ExpressionError("a case is missing at the end")
