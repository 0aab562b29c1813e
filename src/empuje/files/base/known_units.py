"""The units that models are written in, and arithmetic with units.

Arithmetic is ours alone: a multiplication that is not written counts as one that is, from the left, so that "3 kN/m
(2 m)" is 6 kN. Libraries of units differ in that, and from one version to the next.

>>> evaluated("0.35*5.0 kN/m", {}.__getitem__)
(1750.0, (0.0, 1.0, -2.0, 0.0), True)
"""

from __future__ import annotations

import ast
import operator
import re
from collections.abc import Callable

Powers = tuple[float, ...]
"""Powers of length, mass, time, temperature and angle."""
NONE: Powers = (0.0, 0.0, 0.0, 0.0, 0.0)
_L, _M, _T, _K, _A = (tuple(float(i == k) for i in range(5)) for k in range(5))
_FORCE, _PRESSURE, _LINE, _MOMENT = (
    (1.0, 1.0, -2.0, 0.0, 0.0), (-1.0, 1.0, -2.0, 0.0, 0.0), (0.0, 1.0, -2.0, 0.0, 0.0), (2.0, 1.0, -2.0, 0.0, 0.0),
)  # fmt: skip
_INCH, _FOOT, _LBF = 0.0254, 0.3048, 4.4482216152605
UNITS: dict[str, tuple[float, Powers]] = {
    "m": (1.0, _L), "mm": (1e-3, _L), "cm": (1e-2, _L), "km": (1e3, _L), "in": (_INCH, _L), "ft": (_FOOT, _L),
    "N": (1.0, _FORCE), "kN": (1e3, _FORCE), "MN": (1e6, _FORCE), "lbf": (_LBF, _FORCE), "kip": (1000 * _LBF, _FORCE),
    "kg": (1.0, _M), "t": (1e3, _M), "g": (1e-3, _M), "lb": (0.45359237, _M),
    "Pa": (1.0, _PRESSURE), "kPa": (1e3, _PRESSURE), "MPa": (1e6, _PRESSURE), "GPa": (1e9, _PRESSURE),
    "psi": (_LBF / _INCH**2, _PRESSURE), "ksi": (1000 * _LBF / _INCH**2, _PRESSURE),
    "psf": (_LBF / _FOOT**2, _PRESSURE), "ksf": (1000 * _LBF / _FOOT**2, _PRESSURE),
    "plf": (_LBF / _FOOT, _LINE), "klf": (1000 * _LBF / _FOOT, _LINE),
    "pcf": (_LBF / _FOOT**3, (-2.0, 1.0, -2.0, 0.0, 0.0)),
    "Nm": (1.0, _MOMENT), "kNm": (1e3, _MOMENT), "MNm": (1e6, _MOMENT), "kipft": (1000 * _LBF * _FOOT, _MOMENT),
    "rad": (1.0, _A), "mrad": (1e-3, _A), "deg": (0.017453292519943295, _A),
    "K": (1.0, _K), "degC": (1.0, _K), "degF": (5 / 9, _K),
    "s": (1.0, _T), "min": (60.0, _T), "h": (3600.0, _T), "Hz": (1.0, (0.0, 0.0, -1.0, 0.0, 0.0)),
    "mi": (5280 * _FOOT, _L), "mph": (5280 * _FOOT / 3600, (1.0, 0.0, -1.0, 0.0, 0.0)),
}  # fmt: skip
GLUED = re.compile(r"(?<![\w.])((?>\d+\.?\d*(?:e[+-]?\d+)?))(?=[A-Za-z_])")
"""A number with its unit right behind it."""
NAME = re.compile(r"(?<![\w.])([A-Za-z_]\w*)")
TIMES = re.compile(r"(?<=[\w.)])\s+(?=[\w(])|(?<=[\d.])(?=u_)|(?<=\))(?=[\w(])")
"""Where a multiplication is not written."""
ADDING: dict[type, Callable[[float, float], float]] = {ast.Add: operator.add, ast.Sub: operator.sub}


Other = Callable[[str], tuple[float, Powers]]
"""From a word that is none of these units to its size in SI and its powers."""


class NoQuantity(ValueError):
    """The text is no quantity; the message says why."""


def evaluated(plain: str, other: Other) -> tuple[float, tuple[float, float, float, float], bool]:
    """The value in SI of numbers, units and + - * / ** with brackets; its dimension; whether a unit is left. `other`
    says what words are that are none of UNITS, and its errors pass. Raises NoQuantity."""
    try:
        tree = ast.parse(TIMES.sub("*", NAME.sub(r"u_\1", GLUED.sub(r"\1*", plain))), mode="eval")
        value, powers = _value(tree.body, other)
    except OverflowError:
        raise NoQuantity("is too large") from None
    except ZeroDivisionError:
        raise NoQuantity("division by zero") from None
    except (SyntaxError, RecursionError, MemoryError):
        raise NoQuantity("is not a quantity") from None
    length, mass, time, temperature, _ = powers
    return value, (length, mass, time, temperature), any(powers)


def _value(node: ast.expr, other: Other) -> tuple[float, Powers]:
    if isinstance(node, ast.Constant) and isinstance(node.value, float):
        return node.value, NONE
    if isinstance(node, ast.Name):
        word = node.id.removeprefix("u_")
        return UNITS[word] if word in UNITS else other(word)
    if isinstance(node, ast.UnaryOp) and isinstance(node.op, ast.USub | ast.UAdd):
        value, powers = _value(node.operand, other)
        return -value if isinstance(node.op, ast.USub) else value, powers
    if isinstance(node, ast.Call):
        _value(node.func, other)
        raise NoQuantity("put * before a bracket")
    if not isinstance(node, ast.BinOp):
        raise NoQuantity("is not a quantity")
    a, of_a = _value(node.left, other)
    b, of_b = _value(node.right, other)
    if isinstance(node.op, ast.Mult):
        return a * b, tuple(map(operator.add, of_a, of_b))
    if isinstance(node.op, ast.Div):
        return a / b, tuple(map(operator.sub, of_a, of_b))
    if isinstance(node.op, ast.Pow) and of_b == NONE and (a > 0 or b == int(b)):
        return float(a**b), tuple(p * b for p in of_a)
    if type(node.op) not in ADDING:
        raise NoQuantity("is not a quantity")
    if of_a != of_b:
        raise NoQuantity("adds quantities of different dimension")
    return ADDING[type(node.op)](a, b), of_a
