"""Steel members as they were checked, as plain arrays under names, and back: what a store keeps of them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import fields
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..analysis.solution import Solution
from ..model.results import Results
from ..model.steel import SteelRule
from .checked import NOT_CHECKED, Checked, under_results
from .lengths import Lengths
from .lines import build_lines

Arrays = Mapping[str, NDArray[Any]]
PLAIN = ("members", "use", "x", "result", "stretch", "warps")


def pack(found: Checked) -> dict[str, NDArray[Any]]:
    """What a check came to; the results, their weights and the lines follow from the model."""
    out: dict[str, NDArray[Any]] = {name: getattr(found, name) for name in PLAIN}
    out |= {f"lengths.{f.name}": getattr(found.lengths, f.name) for f in fields(Lengths)}
    out["lost"] = np.array(found.lost, str)
    words = list(NOT_CHECKED.values())
    out["partly"] = np.array([[word in own for word in words] for own in found.partly], bool)
    return out


def unpack(solution: Solution, results: Results, rule: SteelRule, arrays: Arrays) -> Checked:
    """The check under these results from arrays that `pack` made of it. Raises KeyError, ValueError or IndexError where
    they are not what they should be."""
    every, weights, how, code = under_results(solution, results, rule)
    plain: dict[str, Any] = {name: arrays[name] for name in PLAIN}
    shape = len(plain["members"]), len(code.checks)
    if any(plain[name].shape != shape for name in ("use", "x", "result", "stretch")):
        raise ValueError("these arrays are of another check")
    if plain["result"].max(initial=0) >= max(len(every), 1):
        raise ValueError("these arrays are of other results")
    words = list(NOT_CHECKED.values())
    partly = [[w for w, flag in zip(words, row, strict=True) if flag] for row in arrays["partly"].tolist()]
    lengths = Lengths(*(arrays[f"lengths.{f.name}"] for f in fields(Lengths)))
    return Checked(
        rule=rule, code=code, lost=[str(w) for w in arrays["lost"]], partly=partly, results=every, how=how,
        weights=weights, lengths=lengths, lines=build_lines(solution.project), asked=results, **plain,
    )  # fmt: skip
