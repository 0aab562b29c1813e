"""The options that commands share, and what their words come to."""

from __future__ import annotations

import argparse
from collections.abc import Iterable, Sequence
from typing import TYPE_CHECKING

from . import Refusal, saying

if TYPE_CHECKING:
    from ..core.model.results import Results

FORMATS = ("table", "csv", "json", "md", "xlsx")


def add_model(command: argparse.ArgumentParser) -> None:
    command.add_argument("model", metavar="MODEL", help="the model file (TOML)")
    command.add_argument(
        "--set", action="append", default=[], metavar="NAME=VALUE", help="a value of [values] for this run only"
    )


def values_given(arguments: argparse.Namespace) -> dict[str, str]:
    """The values that --set gives in place of the model's own, by name."""
    out: dict[str, str] = {}
    for word in getattr(arguments, "set", ()):
        name, sign, value = (part.strip() for part in word.partition("="))
        if not (name and sign and value):
            raise Refusal(f"--set {word}: write a name and a quantity, such as --set q='3 kN/m2'")
        if out.setdefault(name, value) != value:
            raise Refusal(f"--set gives {name} twice: {out[name]} and {value}")
    return out


def add_on(command: argparse.ArgumentParser, what: str) -> None:
    command.add_argument(
        "--on", action="append", default=[], metavar="SELECTOR",
        help=f"{what}: a name, a family, a glob; several with commas or by repeating; !X leaves X out",
    )  # fmt: skip


def add_under(command: argparse.ArgumentParser, default: str = "every case and combination") -> None:
    command.add_argument(
        "--under", action="append", default=[], metavar="NAME",
        help="cases, combinations or sets: a name, a glob, cases, combinations, strength, service, ... "
        f"(default: {default})",
    )  # fmt: skip


def add_of(command: argparse.ArgumentParser, known: str) -> None:
    command.add_argument("--of", action="append", default=[], metavar="VALUE", help=f"{known} (default: all)")


def components(words: Iterable[str], known: Sequence[str], option: str = "--of") -> tuple[str, ...]:
    """Those of the known components that an option names; all of them for no words."""
    from ..core.model.findings import did_you_mean

    chosen = tuple(split(words)) or tuple(known)
    for word in chosen:
        if word not in known:
            raise Refusal(f"{option}: there is no {word}; {did_you_mean(word, known)}")
    return chosen


def add_output(command: argparse.ArgumentParser, more: Sequence[str] = ()) -> None:
    command.add_argument(
        "--format", choices=(*FORMATS, *more), help="table is for eyes; csv, json and xlsx carry full precision"
    )
    command.add_argument("-o", dest="output", metavar="FILE", help="write to a file; its ending sets the format")
    add_force(command)
    command.add_argument("--sort", metavar="COLUMN", help="sort by a column: numbers by size, largest first")
    command.add_argument("--rising", action="store_true", help="with --sort: from the least value up, signs counted")
    command.add_argument("--rows", type=int, metavar="N", help="no more than N rows")


def add_force(command: argparse.ArgumentParser) -> None:
    """The option that lets a file be replaced which this tool did not write."""
    command.add_argument("--force", action="store_true", help="replace the file even if it is not one of ours")


FEW = 3
"""Up to so many results are shown each; of more what governs, unless --each."""


def add_each(command: argparse.ArgumentParser, what: str) -> None:
    command.add_argument("--each", action="store_true", help=f"every result; otherwise of more than {FEW} {what}")


def each_of(arguments: argparse.Namespace, results: Results) -> bool:
    """Whether every result is shown: a few, those named one by one, and all on request; else it is said that what
    governs is."""
    named = set(split(arguments.under))
    if arguments.each or len(results) <= FEW or named == {r.name for r in results}:
        return True
    saying.say(f"what governs of {len(results)} results; --each lists every one")
    return False


MOST_SHAPES = 12


def refuse_shapes(number: int, option: str) -> None:
    """So many buckling shapes, or the shape of that number, can be asked for."""
    if not 1 <= number <= MOST_SHAPES:
        raise Refusal(f"{option}: give a number from 1 to {MOST_SHAPES}")


def split(words: Iterable[str]) -> list[str]:
    """--on a,b --on c as [a, b, c]."""
    return [w.strip() for word in words for w in word.split(",") if w.strip()]


def add_cache(command: argparse.ArgumentParser) -> None:
    command.add_argument("--no-cache", action="store_true", help="solve anew, and keep nothing for the next question")
    command.add_argument("--anyway", action="store_true", help="solve even what may need more memory than there is")
