"""empuje new FILE"""

from __future__ import annotations

import argparse
from importlib.resources import files
from pathlib import Path

from . import FINE, Refusal, outputs, saying

STARTERS = {
    "portal": "a pitched portal frame, by ASCE 7",
    "truss": "a plane roof truss, checked by EN 1993",
    "floor": "beams and joists under a slab with an opening",
    "tower": "a tower with ties that that act in tension only, on pads that may lift off",
    "beam": "a beam over two bays, with snow on each by itself",
}
SHOWN = {"portal": "Q", "truss": "S", "floor": "Q", "tower": "W", "beam": "S1"}
"""The case whose loads are worth a picture."""


def options(command: argparse.ArgumentParser) -> None:
    command.add_argument("file", metavar="FILE", help="the model file to write, such as frame.toml")
    command.add_argument(
        "--like", choices=STARTERS, default="portal",
        help="; ".join(f"{name}: {about}" for name, about in STARTERS.items()) + " (default: portal)",
    )  # fmt: skip


def run(arguments: argparse.Namespace) -> int:
    path = Path(arguments.file)
    if path.suffix == "":
        path = path.with_suffix(".toml")
    if path.exists():
        raise Refusal(f"{path} is there already; name another file")
    text = files("empuje.samples").joinpath("starters", f"{arguments.like}.toml").read_text(encoding="utf-8")
    outputs.put_text(text, str(path))
    schema = path.with_name("empuje.schema.json")
    tries = [f"check {path}", f"draw {path} loads --under {SHOWN[arguments.like]} -o loads.png", f"reactions {path}",
             f"run {path}", f"schema -o {schema}"]  # fmt: skip
    about = {tries[-1]: "   (editors then complete and check while you type)"}
    saying.say("Try\n" + "\n".join(f"  empuje {words}{about.get(words, '')}" for words in tries))
    return FINE
