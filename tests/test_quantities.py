"""Quantities: units, arithmetic, and what must not get through."""

import random
import re
import time
from importlib.resources import files

import pytest

from empuje.core.combine.expression import ExpressionError, parse
from empuje.files.base.known_units import UNITS
from empuje.files.base.quantities import QuantityError, Units, _of_registry, _registry
from empuje.files.base.quantities import parse as parse_quantity
from models import PATIENCE

KN = Units("kN", "m")
KIP = Units("kip", "ft")


@pytest.mark.parametrize(
    ("text", "kind", "value"),
    [
        ("0.85*3.2 kN/m", "line", 2720),
        (2, "line", 2000),
        ("250 lbf/ft", "line", 250 * 4.4482216152605 / 0.3048),
        ("1.2 kip/ft^2", "stress", 1200 * 4.4482216152605 / 0.3048**2),
        ("(1.2 + 0.8)*3 kN/m", "line", 6000),
        ("420 kg/m3", "density", 420),
        ("25 kN/m3", "density", 25_000 / 9.80665),
        ("5e-6 1/K", "expansion", 5e-6),
        ("8000 cm⁴", "inertia", 8e-5),
        ("8e3 cm4", "inertia", 8e-5),
        ("3 kip-ft", "moment", 3 * 1355.8179483314),
        ("3 kNm", "moment", 3000),
        ("29000 ksi", "stress", 29000 * 6894757.293168361),
        ("2*3", "line", 6000),
        ("3 kN + 200 N", "force", 3200),
        ("-2.5 m/2", "length", -1.25),
        (30, "angle", 0.5235987755982988),
        ("0.5 rad", "angle", 0.5),
        ("30 deg", "angle", 0.5235987755982988),
        ("0.3 t/m3", "density", 300),
        ("1/8*2 kN*4^2 m", "moment", 4000),
        ("3/4 in", "length", 0.01905),
        ("1.5 1/K*2e-6", "expansion", 3e-6),
        ("12 kN.m", "moment", 12_000),
        ("2 kN.m/rad", "turning spring", 2000),
        ("36 degF", "temperature", 20),
        ("20 °C/m", "gradient", 20),
        ("12e-6 1/degC", "expansion", 12e-6),
        ("5'-6 1/2\"", "length", 66.5 * 0.0254),
        ("5' 6.5\"", "length", 66.5 * 0.0254),
        ("5’-6-1/2”", "length", 66.5 * 0.0254),
        ("5 ft 6 1/2 in", "length", 66.5 * 0.0254),
        ("-3'-6\"", "length", -42 * 0.0254),
        ("(2*5' + 6\")/3", "length", 42 * 0.0254),
        ('6" - 1/2"', "length", 5.5 * 0.0254),
        ("(5 ft) - (6 in)", "length", 54 * 0.0254),
        ("1.5 kip/(5'-6\")", "line", 1500 * 4.4482216152605 / (66 * 0.0254)),
    ],
)
def test_quantities_in_si(text, kind, value):
    assert KN.read(text, kind) == pytest.approx(value, rel=1e-12)


def test_a_bare_number_has_the_projects_units():
    assert KIP.read(2, "moment") == pytest.approx(2 * 1355.8179483314, rel=1e-12)
    assert KIP.read("1.5*2", "stress") == pytest.approx(3 * 47880.25898033584, rel=1e-12)


@pytest.mark.parametrize(
    ("text", "kind", "says"),
    [
        ("12 kN", "line", "a force, not a force per length"),
        ("3 kM", "force", "unknown unit kM"),
        ("", "force", "no number"),
        ("kN", "force", "no number"),
        (True, "force", "is not a force"),
        (7850, "density", "needs its unit"),
        ("1,5 kN", "force", "write numbers with a point"),
        ("nan", "force", "no number"),
        ("1e999 kN", "force", "finite"),
        ("1/0 kN", "force", "division by zero"),
        ("3 kN + 2 m", "force", "different dimension"),
        ("((3 kN", "force", "not a"),
        ("__import__('os')", "force", "cannot hold"),
        ("sin(3)", "number", "unknown unit"),
        ([1], "force", "is not a force"),
        ("1" * 200, "force", "longer than"),
        ("12 500 N", "force", "side by side"),
        ("1.2.5 kN", "force", "side by side"),
        ("2 kN 3", "force", "side by side"),
        ("1.5e3 .5 kN", "force", "side by side"),
        ("5e3.5 kN", "force", "side by side"),
        ("3 kN (2) 5", "force", "side by side"),
        ("4 kN35", "force", "side by side"),
        ("12 1/2", "length", "side by side"),
        ("5'-6\" 1/2", "length", "side by side"),
        ("5'-13\"", "length", "more inches than a foot"),
        ("5 ft - 6 in", "length", "a sum or a difference"),
        ("5ft-6in", "length", "a sum or a difference"),
        ("5''", "length", "belongs to no number"),
        ("5'-6", "length", "different dimension"),
    ],
)
def test_what_is_no_quantity_is_refused_in_words(text, kind, says):
    with pytest.raises(QuantityError, match=says):
        KN.read(text, kind)


@pytest.mark.parametrize(
    "bomb", ["9**9**9**9 kN", "9^9^9^9 kN", "((9^9)^9)^9 kN", "((((9^9)^9)^9)^9)^9 kN", "9^99999999 kN"]
)
def test_towers_of_powers_cost_nothing(bomb):
    start = time.process_time()
    with pytest.raises(QuantityError):
        KN.read(bomb, "force")
    assert time.process_time() - start < PATIENCE


def test_combination_formulas():
    assert dict(parse("1.2 (SW + G) + 1.6*0.5 Q - 1.0 W + 1/2 Q")) == {"SW": 1.2, "G": 1.2, "Q": 1.3, "W": -1.0}
    assert dict(parse("-(2 (A - B) - 3A)")) == {"A": 1.0, "B": 2.0}
    for bad in (
        "",
        "1.2",
        "1.2 G +",
        "1.2 G 1.6 Q",
        "(G",
        "G)",
        "1.2 G ** Q",
        "1/0 G",
        "3 / G",
        "((" * 500 + "G",
        "G;W",
        "9e300 G",
    ):
        with pytest.raises(ExpressionError):
            parse(bad)


def test_known_units_are_those_of_the_registry():
    """Sizes and dimensions of the table are those of the definitions, and all of these have a word in it."""
    for name, (size, powers) in UNITS.items():
        assert _of_registry(name) == (pytest.approx(size, rel=1e-15), powers), name
    text = files("empuje.files.base").joinpath("units.txt").read_text(encoding="utf-8")
    lines = [line.split(" = ") for line in text.splitlines() if line and line[0] != "#" and "- =" not in line]
    for first, *rest in lines:
        assert {first, *(w.strip() for w in rest[1:])} & set(UNITS), first


@pytest.mark.parametrize("seed", range(3))
def test_expressions_mean_what_quantities_of_the_registry_make(seed):
    """Products from the left, written with signs or without, powers and sums in brackets: value, dimension and whether a
    unit is left are those of the same operations on the registry's quantities, never parsed as a whole."""
    r = random.Random(seed)
    registry, one = _registry(), _registry().Quantity
    names = [*UNITS, "mPa", "cN", "newton", "kilonewton", "mrad", "meter", "inch", "um"]

    def factor(depth):
        kind = r.random()
        if depth and kind < 0.3:
            text, value = product(depth - 1)
            if r.random() < 0.5:
                number = r.choice([2.0, 0.5, 3.0])
                sign = r.choice(["+", "-"])
                text, value = f"{text} {sign} {number:g}*{text}", value + (number if sign == "+" else -number) * value
            power = r.choice([1, 1, 2, -1])
            return f"({text})" + {1: "", 2: r.choice(["^2", "**2"]), -1: "^-1"}[power], value**power
        if kind < 0.6:
            number = r.choice(["2", "0.35", "1.5e3", "7.", "12"])
            return number, one(float(number), "")
        name, power = r.choice(names), r.choice([1, 1, 1, 2, -1])
        return name + {1: "", 2: r.choice(["2", "^2"]), -1: "^-1"}[power], one(1.0, name) ** power

    def product(depth):
        text, value = factor(depth)
        for _ in range(r.randint(0, 3)):
            more, of_more = factor(depth)
            sign = r.choice([" ", "*", "/"])
            if re.search(r"[\d.]$", text) and not re.search(r"[A-Za-z^]\S*$", text) and more[0].isalpha():
                sign = r.choice(["", sign])  # 4kN
            text, value = f"{text}{sign}{more}", value / of_more if sign == "/" else value * of_more
        return text, value

    done = 0
    for _ in range(1500):
        text, wanted = product(2)
        root = wanted.to_root_units()
        try:
            value, dimension, with_unit = parse_quantity(text)
        except QuantityError as error:
            assert re.search("side by side|no number|single digit|too large|division|unit kilonewton", str(error)), text
            continue
        assert value == pytest.approx(root.magnitude, rel=1e-9, abs=1e-30), text
        known = [float(root.dimensionality.get(f"[{k}]", 0)) for k in ("length", "mass", "time", "temperature")]
        assert (list(dimension), with_unit) == (pytest.approx(known, abs=1e-9), not root.unitless), text
        done += 1
    assert done > 300 and registry is _registry()


@pytest.mark.parametrize(
    ("text", "kind", "value"),
    [
        ("3 kN/m (2 m)", "force", 6000), ("12 kN (2)^-1", "force", 6000), ("5 kN/dam dam", "force", None),
        ("3 kilonewton/centimeter (2 cm)", "force", 6000), ("8 mN/mm (500 mm)", "force", 4),
        ("2 newton (3)^2", "force", 18), ("4kN", "force", 4e3), ("0.5kN/m*2m", "force", 1e3), ("5e-6kN", "force", 5e-3),
        ("3/4kN", "force", 750), ("2E2N", "force", 200), ("1.5e3kN", "force", 1.5e6), ("2kgf", "force", None),
        ("2dN", "force", None), ("12.kN", "force", 12e3), (".5kilonewton", "force", 500), ("1 kN 2 m", "moment", None), ("4 kN + 2 m", "force", None),
        ("2 + 3 deg", "angle", None), ("1 kN/(2 - 2)", "force", None), ("1 lambda", "length", None),
    ],
)  # fmt: skip
def test_what_is_not_written_multiplies_from_the_left(text, kind, value):
    """Also beside units that only the registry knows; by hand."""
    if value is None:
        with pytest.raises(QuantityError):
            KN.read(text, kind)
    else:
        assert KN.read(text, kind) == pytest.approx(value, rel=1e-12)
