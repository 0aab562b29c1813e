"""Quantities: numbers with units and plain arithmetic, to SI and back.

    >>> units = Units("kN", "m")
    >>> units.read("0.85*3.2 kN/m", "line"), units.read(2, "line"), round(units.read("250 lbf/ft", "line"))
    (2720.0, 2000.0, 3648)

A bare number has the project's units. Text can only be numbers, units, names of values, + - * / ^ and brackets;
nothing in it runs.
"""

from __future__ import annotations

import math
import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from functools import cache, lru_cache
from importlib.resources import files
from typing import Any, ClassVar

from ...core.model.findings import did_you_mean
from .feet import with_feet
from .known_units import NoQuantity, Powers, evaluated

Dimension = tuple[float, float, float, float]
"""Powers of length, mass, time and temperature."""

FORCE, LENGTH = (1.0, 1.0, -2.0, 0.0), (1.0, 0.0, 0.0, 0.0)
UNIT_WEIGHT: Dimension = (-2, 1, -2, 0)
KINDS: dict[str, tuple[Dimension, int | None, int, str]] = {
    # kind: dimension, powers of the project's force and length a bare number has, how to say it
    "number": ((0, 0, 0, 0), 0, 0, "a plain number"),
    "angle": ((0, 0, 0, 0), 0, 0, "an angle such as 30 or '0.5 rad'"),
    "length": (LENGTH, 0, 1, "a length such as '2.5 m'"),
    "area": ((2, 0, 0, 0), 0, 2, "an area such as '120 cm^2'"),
    "modulus": ((3, 0, 0, 0), 0, 3, "a section modulus such as '500 cm^3'"),
    "inertia": ((4, 0, 0, 0), 0, 4, "a second moment of area such as '8000 cm^4'"),
    "warping": ((6, 0, 0, 0), 0, 6, "a warping constant such as '1e5 cm^6'"),
    "force": (FORCE, 1, 0, "a force such as '12 kN'"),
    "moment": ((2, 1, -2, 0), 1, 1, "a moment such as '12 kN*m'"),
    "spring": ((0, 1, -2, 0), 1, -1, "a spring such as '12 MN/m'"),
    "turning spring": ((2, 1, -2, 0), 1, 1, "a rotational spring such as '8 MN*m/rad'"),
    "line spring": ((-1, 1, -2, 0), 1, -2, "a spring per length such as '12 MN/m2'"),
    "turning line spring": ((1, 1, -2, 0), 1, 0, "a rotational spring per length such as '8 MN*m/rad/m'"),
    "line moment": (FORCE, 1, 0, "a moment per length such as '50 kN*m/m'"),
    "bed": (UNIT_WEIGHT, 1, -3, "a stiffness of the ground such as '20 MN/m3'"),
    "line": ((0, 1, -2, 0), 1, -1, "a force per length such as '4 kN/m'"),
    "stress": ((-1, 1, -2, 0), 1, -2, "a stress such as '210 GPa'"),
    "unit weight": (UNIT_WEIGHT, 1, -3, "a weight per volume such as '3 kN/m3'"),
    "pressure": ((-1, 1, -2, 0), 1, -2, "a load per area such as '5 kN/m2'"),
    "density": ((-3, 1, 0, 0), None, 0, "a density such as '7850 kg/m^3' or '25 kN/m^3', with its unit"),
    "rotation": ((0, 0, 0, 0), None, 0, "a rotation with its unit, such as '2 mrad'"),
    "temperature": ((0, 0, 0, 1), 0, 0, "a change of temperature such as '30 K'"),
    "gradient": ((-1, 0, 0, 1), 0, -1, "a temperature gradient such as '20 K/m'"),
    "speed": ((1, 0, -1, 0), None, 0, "a speed with its unit, such as '51 m/s' or '115 mph'"),
    "frequency": ((0, 0, -1, 0), 0, 0, "a frequency such as '0.8 Hz'"),
    "time": ((0, 0, 1, 0), 0, 0, "a time such as '0.5 s'"),
    "expansion": ((0, 0, 0, -1), 0, 0, "a thermal expansion such as '12e-6 1/K'"),
}
LONGEST, LONGEST_IN_SI = 120, 4000
LARGEST = 1e18
"""No quantity of a building is larger in SI; beyond it products would overflow."""
ALLOWED = re.compile(r"[A-Za-z0-9_\s.+\-*/^()²³⁴µ·°'\"’′”″“]*")
NUMBER = re.compile(r"(?<![\w.])(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?")
SUPERSCRIPTS = str.maketrans({"²": "^2", "³": "^3", "⁴": "^4", "·": "*", "µ": "u"})
DEGREES = re.compile(r"°\s*(?=[CF]\b)")


class QuantityError(ValueError):
    """The text is no quantity, or not of the kind asked for."""


class ValueLost(QuantityError):
    """It uses a value that has no meaning, which is told where that is written."""


class UnknownUnit(QuantityError):
    """A word in it is no unit."""

    def __init__(self, word: str, values: Iterable[str] = ()) -> None:
        near = did_you_mean(word, [*values, *unit_names()])
        super().__init__(f"unknown {'value or ' if values else ''}unit {word}; {near}")
        self.word = word


@cache
def _registry() -> Any:
    import pint

    definitions = files(__package__).joinpath("units.txt").read_text(encoding="utf-8")
    return pint.UnitRegistry(definitions.splitlines())


@lru_cache(maxsize=20_000)
def parse(text: str) -> tuple[float, Dimension, bool]:
    """Value in SI, dimension, and whether any unit was written. Raises QuantityError."""
    if len(text) > LONGEST_IN_SI:
        raise QuantityError(f"longer than {LONGEST_IN_SI} characters with its values")
    if not ALLOWED.fullmatch(text):
        odd = next(c for c in text if not ALLOWED.fullmatch(c))
        raise QuantityError(f"cannot hold '{odd}'; write numbers with a point, units, + - * / ^ and brackets")
    plain = _plain(text)
    if not re.search(r"\d", plain):
        raise QuantityError("holds no number")
    try:
        number = float(plain)
    except ValueError:
        plain = _as_units_are_read(plain)
        try:
            value, dimension, with_unit = evaluated(plain, _of_registry)
        except NoQuantity as error:
            raise QuantityError(str(error)) from None
        return _finite(value), dimension, with_unit
    return _finite(number), (0, 0, 0, 0), False


def _plain(text: str) -> str:
    """The text in plain characters: powers, degrees, feet and inches. Raises QuantityError."""
    plain = DEGREES.sub("deg", text.translate(SUPERSCRIPTS)).replace("°", " deg ").strip()
    try:
        return with_feet(plain)
    except ValueError as error:
        raise QuantityError(str(error)) from None


def _as_units_are_read(plain: str) -> str:
    """The text as the registry takes it: m3 as m^3, kip-ft as kip*ft, numbers as floats. Raises QuantityError for
    powers and neighbours that it would read otherwise than meant."""
    plain = re.sub(r"(?<![0-9.][eE])(?<=[A-Za-z])([2-6])(?![\w.])", r"^\1", plain)  # m3 is m^3, 1e3 is not
    plain = re.sub(r"(?<=[A-Za-z])[-.](?=[A-Za-z])", "*", plain)  # kip-ft is kip*ft, kN.m is kN*m
    powers = re.findall(r"(?:\^|\*\*)\s*([^\s*/+)]*)", plain)
    if any(not re.fullmatch(r"\(?-?\d(\.\d)?", p) for p in powers):
        raise QuantityError("a power must be a single digit")
    # "12 500 N" must not become 12 times 500: blanks multiply units, never numbers. Only 1/K may follow a number.
    bare = NUMBER.sub("#", re.sub(r"(?<![\w.^*])1\s*/(?=\s*[A-Za-z(])", "/", plain))
    if re.search(r"[#)]\s*#|[A-Za-z]\s+#|\d|\.", bare):
        raise QuantityError("has two numbers side by side; write 12500, or put * between them")
    # Whole numbers would be raised to powers exactly, however many digits that takes; floats overflow instead.
    if any(math.isinf(float(n)) for n in NUMBER.findall(plain)):
        raise QuantityError("is not a finite number")
    return NUMBER.sub(lambda m: repr(float(m[0])), plain).replace("^", "**")


@cache
def _of_registry(word: str) -> tuple[float, Powers]:
    """The size in SI and the powers of a unit that is seldom written: one word, as the registry of units knows it, with
    its prefixes and long names. Raises UnknownUnit."""
    try:
        root = _registry().parse_expression(f"1.0*{word}").to_root_units()
        powers = dict(root.dimensionality)
        size = float(root.magnitude)
    except Exception:  # whatever a library may raise of any word
        raise UnknownUnit(word) from None
    if not math.isfinite(size):
        raise UnknownUnit(word)
    length, mass, time, temperature = (
        float(powers.get(f"[{k}]", 0)) for k in ("length", "mass", "time", "temperature")
    )
    # What has no dimension and is a unit is an angle.
    return size, (length, mass, time, temperature, float(not powers and not root.unitless))


def _finite(value: float) -> float:
    if isinstance(value, float) and not math.isfinite(value):
        raise QuantityError("is not a finite number")
    if abs(value) > LARGEST:
        raise QuantityError("is too large to be plausible")
    return float(value)


@dataclass(frozen=True)
class Units:
    """What a bare number means: the project's units of force and length; and what stands for the names of values
    (values.py), which of them were `used`, and which are `lost`, having no meaning."""

    force: str
    length: str
    values: Mapping[str, str] = field(default_factory=dict)
    used: set[str] = field(default_factory=set)
    lost: frozenset[str] = frozenset()
    WORD: ClassVar[re.Pattern[str]] = re.compile(r"(?<![\w.])[A-Za-z_]\w*")

    def with_values(self, text: str) -> str:
        """A text with what its values stand for. Raises QuantityError where one stands beside something without a sign
        between them."""
        if len(text) > LONGEST:
            raise QuantityError(f"longer than {LONGEST} characters")
        if not self.values and not self.lost:
            return text
        words = [w for w in self.WORD.finditer(text) if w[0] in self.values or w[0] in self.lost]
        self.used.update(w[0] for w in words)
        out, at = "", 0
        for word in words:
            name = word[0]
            if name in self.lost:
                raise ValueLost(f"uses {name}, which itself has no meaning")
            before, after = text[: word.start()].rstrip(), text[word.end() :].lstrip()
            if re.search(r"[\w.)]$", before) or re.match(r"[\w.(]", after):
                raise QuantityError(f"put * between {name} and what stands beside it")
            out += text[at : word.start()] + self.values[name]
            at = word.end()
        stuck = next((m for m in re.finditer(r"(?<![\w.])[\d.]+([A-Za-z_]\w*)", text) if m[1] in self.values), None)
        if stuck:
            raise QuantityError(f"put * before {stuck[1]} in {stuck[0]}")
        if at and re.search(r"\)\s*-\s*[A-Za-z]", out + text[at:]):
            raise QuantityError("takes a unit without a number away")
        return out + text[at:]

    def parse(self, text: str) -> tuple[float, Dimension, bool]:
        """As the function of that name, of a text that may name values. Raises QuantityError."""
        try:
            return parse(self.with_values(text))
        except QuantityError:
            known = {*self.values, *self.lost}
            strange = (w for w in self.WORD.findall(text) if known and w not in known and not is_a_unit(w))
            word = next(strange, None)
            if word is None:
                raise
            raise UnknownUnit(word, known) from None

    def read(self, value: object, kind: str) -> float:
        """A number or text as a quantity of `kind` in SI; angles in radians, bare ones in degrees.

        Raises QuantityError, which names both dimensions where they differ.
        """
        dimension, force, _, words = KINDS[kind]
        if isinstance(value, bool) or not isinstance(value, int | float | str):
            raise QuantityError(f"is not {words}")
        if isinstance(value, str):
            number, found, with_unit = self.parse(value)
        else:
            number, found, with_unit = _finite(value), (0, 0, 0, 0), False
        if not with_unit and kind == "angle":
            return math.radians(number)
        if not with_unit and found == (0, 0, 0, 0):
            if force is None:
                raise QuantityError(f"needs its unit: {words}")
            by_force, by_length = self.plain_factors(kind)
            return number * by_force * by_length
        if kind == "density" and found == UNIT_WEIGHT:
            return number / 9.80665
        if tuple(found) != tuple(dimension):
            raise QuantityError(f"is {said(found)}, not {words}")
        return number

    def plain_factors(self, kind: str) -> tuple[float, float]:
        """What makes SI of a bare number of a kind: by its force, and by its length."""
        _, force, length, _ = KINDS[kind]
        assert force is not None
        return unit_size(self.force) ** force, unit_size(self.length) ** length

    def has_own(self, kind: str) -> bool:
        """Whether a bare number of that kind means anything."""
        return KINDS[kind][1] is not None


@cache
def unit_names() -> tuple[str, ...]:
    """The units that quantities are most often written in."""
    return (
        "m", "mm", "cm", "km", "in", "ft", "N", "kN", "MN", "lbf", "kip", "kg", "t", "Pa", "kPa", "MPa", "GPa", "psi",
        "ksi", "psf", "ksf", "plf", "klf", "pcf", "Nm", "rad", "mrad", "deg", "K",
    )  # fmt: skip


@cache
def unit_size(unit: str) -> float:
    """One of the unit in SI."""
    return parse(f"1 {unit}")[0]


def said(dimension: Dimension) -> str:
    """A dimension in words."""
    for kind, (d, _, _, _) in KINDS.items():
        if tuple(d) == tuple(dimension) and kind not in ("angle", "spring", "rotation"):
            plain = {"number": "a plain number", "line": "a force per length", "inertia": "a length^4"}
            return plain.get(kind, f"{'an' if kind[0] in 'aei' else 'a'} {kind}")
    if dimension == UNIT_WEIGHT:
        return "a weight per volume"
    if dimension == (0, 1, 0, 0):
        return "a mass"
    parts = [f"{n}^{p:g}" for n, p in zip(("length", "mass", "time", "temperature"), dimension, strict=True) if p]
    return " ".join(parts)


def is_a_unit(text: str) -> bool:
    """Whether the text names a unit, with or without a prefix."""
    try:
        parse(f"1 {text}")
    except QuantityError:
        return False
    return True


def is_unit(text: str, kind: str) -> bool:
    """Whether the text names a single unit of that kind."""
    try:
        return bool(re.fullmatch(r"[A-Za-z]+", text)) and tuple(parse(f"1 {text}")[1]) == tuple(KINDS[kind][0])
    except QuantityError:
        return False
