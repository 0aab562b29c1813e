"""empuje new FILE"""

from __future__ import annotations

import argparse
from importlib.resources import files
from pathlib import Path

from . import FINE, Refusal, outputs, saying


def options(command: argparse.ArgumentParser) -> None:
    command.add_argument("file", metavar="FILE", help="the model file to write, such as frame.toml")


def run(arguments: argparse.Namespace) -> int:
    path = Path(arguments.file)
    if path.suffix == "":
        path = path.with_suffix(".toml")
    if path.exists():
        raise Refusal(f"{path} is there already; name another file")
    text = files("empuje.files").joinpath("starter.toml").read_text(encoding="utf-8")
    outputs.put_text(text, str(path))
    tries = (f"check {path}", f"reactions {path}", f"draw {path} loads --under Q -o loads.png", f"run {path}")
    saying.say("Try\n" + "\n".join(f"  empuje {words}" for words in tries))
    return FINE
