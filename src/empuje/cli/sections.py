"""empuje sections [NAME ...]"""

from __future__ import annotations

import argparse
import re
from dataclasses import replace
from typing import TYPE_CHECKING

from . import FINE, NOT_MET, Refusal, flags, outputs, saying

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    import numpy as np

    from ..core.answers.table import Table
    from ..core.catalogue.catalogue import Rolled
    from ..show.display import Display

DISPLAY = "kN m mm MPa"


def options(command: argparse.ArgumentParser) -> None:
    command.add_argument("names", metavar="NAME", nargs="*", help='names or globs, such as "IPE*", "W12x*", "2L 80*"')
    command.add_argument("--series", action="append", default=[], metavar="NAME", help="only these: IPE, UB, HSS, ...")
    command.add_argument(
        "--least",
        action="append",
        default=[],
        metavar="KEY=VALUE",
        help='at least: Iy="8000 cm4", A=50 (in shown units)',
    )
    command.add_argument(
        "--most", action="append", default=[], metavar="KEY=VALUE", help='at most: h="300 mm", kg/m=40'
    )
    command.add_argument(
        "--display", default=DISPLAY, metavar="UNITS", help=f'units of the table (default: "{DISPLAY}")'
    )
    flags.add_output(command)


def run(arguments: argparse.Namespace) -> int:
    from ..core.answers.inventory import catalogue_table
    from ..core.catalogue.catalogue import catalogue, listed
    from ..core.model.findings import did_you_mean

    outputs.claim(arguments.output, arguments)
    display = replace(display_of(arguments.display), width=outputs.width(arguments))
    series = list(dict.fromkeys(one.series for one in catalogue().values()))
    for word in arguments.series:
        if word not in series:
            raise Refusal(f"--series: there is no {word}; {did_you_mean(word, series)}")
    chosen = [one for one in listed(arguments.names) if not arguments.series or one.series in arguments.series]
    if not chosen:
        known = [one.name for one in catalogue().values()]
        raise Refusal(f"no section is called {' or '.join(arguments.names)}; "
                             f"{did_you_mean((arguments.names or [''])[0], known)}")  # fmt: skip
    # What is asked is read before thousands of properties are computed.
    empty = catalogue_table([])
    limits = [
        (*_limit(text, option, empty, display), sign)
        for option, sign in (("least", 1.0), ("most", -1.0)) for text in getattr(arguments, option)
    ]  # fmt: skip
    table = catalogue_table(chosen, _known(chosen))
    for key, value, sign in limits:
        table = table.rows(sign * table[key].astype(float) >= sign * value * (1 - sign * 1e-9))
    table = table.rows(_as_in_books(table))
    unseen = [name for name in ("series", "Ay", "Az") if name != arguments.sort]
    outputs.put(table, outputs.Shown(display), arguments, unseen=unseen)
    saying.say(f"{len(table)} of {len(catalogue())} sections; names in a model: blanks and letter case do not matter")
    return FINE if len(table) else NOT_MET


MANY = 200
"""For so many sections all of the catalogue is worked out, once."""


def _known(chosen: Sequence[Rolled]) -> np.ndarray | None:
    """The properties of many sections (n, properties), kept as solutions are; None for a few, which take no time."""
    from ..core.answers.inventory import catalogue_values
    from ..core.catalogue.catalogue import catalogue
    from ..files.kept.store import kept_or_made, key_of

    if len(chosen) < MANY:
        return None
    every = list(catalogue().values())
    row = {one.name: i for i, one in enumerate(every)}
    own = [row[one.name] for one in chosen]

    def again(arrays: Mapping[str, np.ndarray]) -> np.ndarray:
        if len(arrays["values"]) != len(every):
            raise ValueError("these are of another catalogue")
        return arrays["values"]

    values = kept_or_made(key_of(b"catalogue"), again, lambda: catalogue_values(every), lambda v: {"values": v})
    return values[own]


def _as_in_books(table: Table) -> list[int]:
    """Rows by series, size and mass: W12x58 before W12x65, W14x22 after all of them."""
    each, names, mass = (table[name].tolist() for name in ("series", "section", "kg/m"))
    series = {name: i for i, name in enumerate(dict.fromkeys(each))}

    def rank(i: int) -> tuple[int, list[float], float]:
        sizes = re.findall(r"([\d.]+)(?:-(\d+))?(?:/(\d+))?", names[i].removeprefix("2L"))
        inches = [float(whole) + (float(part) / float(of) if part else 0.0) for whole, part, of in sizes]
        return series[each[i]], inches[:-1], mass[i]

    return sorted(range(len(table)), key=rank)


def display_of(words: str) -> Display:
    """Units of force, length, displacement and stress. Raises Refusal."""
    from ..files.base.quantities import is_unit
    from ..show.display import Display

    units = words.replace(",", " ").split()
    kinds = ["force", "length", "length", "stress"]
    if len(units) != 4 or not all(is_unit(u, k) for u, k in zip(units, kinds, strict=True)):
        raise Refusal(f'--display "{words}": write force, length, displacement and stress, such as "{DISPLAY}"')
    return Display((units[0], units[1], units[2], units[3]))


def _key(word: str, option: str, table: Table) -> str:
    from ..core.model.findings import did_you_mean

    known = [c.name for c in table.columns]
    if word not in known:
        raise Refusal(f"{option}: there is no column {word}; {did_you_mean(word, known)}")
    return word


def _limit(text: str, option: str, table: Table, display: Display) -> tuple[str, float]:
    """The column and the value in SI; a bare number has the column's shown unit."""
    from ..files.base.quantities import QuantityError, Units

    word, _, value = text.partition("=")
    key = _key(word.strip(), f"--{option}", table)
    column = next(c for c in table.columns if c.name == key)
    if column.kind == "text" or not value:
        raise Refusal(f'--{option} {text}: write a column of numbers and a value, such as Iy="8000 cm4"')
    try:
        return key, float(value) / display.factor(column.kind)
    except ValueError:
        pass
    kinds = {"displacement": "length"}
    try:
        return key, Units("N", "m").read(value, kinds.get(column.kind, column.kind))
    except (QuantityError, KeyError) as error:
        raise Refusal(f"--{option} {text}: {error}") from None
