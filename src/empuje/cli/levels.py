"""Levels of a building, as commands are asked for them."""

from __future__ import annotations

import argparse
from itertools import pairwise

from . import Refusal, common, flags


def add(command: argparse.ArgumentParser, goes_with: str) -> None:
    command.add_argument(
        "--levels", action="append", default=[], metavar="NAME",
        help=f"with {goes_with}: levels from the lowest, as grid lines or heights (default: every z line of the grid)",
    )  # fmt: skip


def levels(model: common.Model, asked: list[str]) -> list[tuple[str, float]]:
    """Names and heights of the levels asked for, from the lowest; every z line of the grid for none."""
    from .places import positions

    words = flags.split(asked)
    project = model.project
    lines = project.grid.get("z", {})
    if not words and len(lines) < 2:
        raise Refusal("the grid has no z lines to take for levels: give them with --levels 0,3.8,7.2")
    found = []
    for word in words or lines:
        if word in lines:
            found.append((word, lines[word]))
            continue
        place = positions(word, project.units, "--levels")[0]
        if place.share:
            raise Refusal(f"--levels {word}: write a grid line or a height")
        found.append((word, place.offset))
    found.sort(key=lambda level: level[1])
    if len(found) < 2 or any(b[1] - a[1] < 1e-3 for a, b in pairwise(found)):
        raise Refusal("--levels: storeys need at least two different levels")
    return found
