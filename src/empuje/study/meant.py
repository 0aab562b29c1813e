"""What words mean of a model's surfaces, and of all that loads can be on."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from ..core.model.findings import did_you_mean
from ..files.base.selectors import Names, NothingMeant, pick

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    from ..core.model.project import Project

    Ints = NDArray[np.intp]


def structural(project: Project, words: Sequence[str]) -> list[int]:
    """The structural surfaces that words mean, all of them for none. Raises LookupError where there are none, and
    NothingMeant."""
    known = {s.name: i for i, s in enumerate(project.surfaces) if s.plate is not None}
    if not known:
        raise LookupError("the model has no structural surface")
    chosen, missed = pick(words, list(known), known) if words else (list(known.values()), [])
    if missed:
        raise NothingMeant(f"no structural surface is called {missed[0]}; {did_you_mean(missed[0], list(known))}")
    return list(chosen)


def parts_meant(project: Project, names: Names, words: Sequence[str]) -> tuple[Ints, Ints, Ints]:
    """The nodes, members and structural surfaces that words mean, all for none. Raises NothingMeant."""
    import numpy as np

    if not words:
        return np.arange(len(project.nodes)), np.arange(len(project.members)), np.arange(len(project.surfaces))
    known = {s.name: i for i, s in enumerate(project.surfaces) if s.plate is not None}
    on = [w for w in words if pick([w.removeprefix("!")], list(known), known)[0]]
    others = [w for w in words if w not in on or any(map(len, names.select([w.removeprefix("!")])[:2]))]
    nodes, members, missed = names.select(others) if others else ([], [], [])
    if missed:
        raise NothingMeant(f"nothing is called {missed[0]}; {names.like(missed[0])}")
    surfaces = pick(on, list(known), known)[0] if on else []
    return np.array(nodes, np.intp), np.array(members, np.intp), np.array(surfaces, np.intp)
