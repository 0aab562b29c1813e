"""What models and their results have in common: words for things, tables of answers, pictures."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from ..core.analysis.solution import Solution
from ..core.answers.table import Table
from ..core.model.findings import Finding
from ..core.model.loads import Position
from ..core.model.project import Project
from ..core.model.results import Result
from ..core.model.words import Label, Picture, UnknownWord
from ..files.base.positions import parse_position
from ..files.base.quantities import Units
from ..show.display import Display
from ..study.study import Study

if TYPE_CHECKING:
    import pandas as pd

    from ..show.drawings.paper import Drawing, Strip
    from ..show.drawings.view import View

Words = str | Sequence[str] | None
Places = Sequence[str | float]


class Asking:
    """What words on a model mean, and tables of answers."""

    def __init__(self, study: Study) -> None:
        self._study = study
        self._display = Display(study.project.display)

    @property
    def project(self) -> Project:
        """What is written in the file, as plain records."""
        return self._study.project

    @property
    def findings(self) -> list[Finding]:
        """All that ``empuje check`` says about the model, before any analysis."""
        return list(self._study.findings)

    def _under(self, under: Words) -> list[Result]:
        return self._study.under(words_of(under))

    def _members(self, on: Words) -> NDArray[np.intp]:
        return self._study.names.members_meant(words_of(on))

    def _nodes(self, on: Words) -> NDArray[np.intp]:
        return self._study.names.nodes_meant(words_of(on))

    def _positions(self, at: Places) -> list[Position]:
        units = Units(*self.project.units)
        return [parse_position(p, units) for p in at]

    def _points(self, points: Sequence[Places]) -> NDArray[np.float64]:
        """Points (n, 3) [m] of three lengths each. Raises ValueError."""
        out = []
        for point in points:
            places = self._positions(list(point))
            if len(places) != 3 or any(p.share for p in places):
                raise ValueError(f"{list(point)}: write three lengths x, y, z")
            out.append([p.offset for p in places])
        return np.array(out).reshape(-1, 3)

    def _frame(self, table: Table) -> pd.DataFrame:
        import pandas as pd

        return pd.DataFrame(self._display.convert(table))

    def _part(self, options: dict[str, Any]) -> tuple[NDArray[np.intp], View]:
        """The members drawn strongly and the view, of all or of an elevation or a plan."""
        from ..show.drawings.parts import elevation, plan
        from ..show.drawings.view import View

        none = not self.project.members and "on" not in options
        members = np.zeros(0, np.intp) if none else self._members(options.pop("on", None))
        view = options.pop("view", None)
        for name, part in (("elevation", elevation), ("plan", plan)):
            if name in options:
                lying, seen = part(self.project, options.pop(name))
                return np.intersect1d(members, lying), seen
        return members, View.named(view) if view else View.usual(self.project.plane)

    def _sheet(
        self, what: str, results: list[Result], solved: Callable[[], Solution], options: dict[str, Any]
    ) -> Drawing | Strip:
        from ..show.drawings.picture import Asked, picture

        kind = Picture.read(what)
        if kind in (Picture.PLATES, Picture.MESH):
            options["surfaces"] = tuple(self._study.structural(words_of(options.pop("on", None))))
        if options.get("cut") is not None:
            options["cut"] = tuple(self._points(options["cut"]))
        members, view = self._part(options)
        labels = tuple(Label.read(word) for word in words_of(options.pop("label", None)))
        asked = Asked(kind, members, view, labels, **options)
        model, prepared = self._study.resolved, lambda: self._study.prepared
        return picture(asked, model, results, self._display, solved, prepared)


def components(of: Words, known: Sequence[str]) -> tuple[str, ...]:
    """Those that are named, all for None. Raises UnknownWord for one there is not."""
    for word in words_of(of):
        if word not in known:
            raise UnknownWord(f"there is no {word}: write {', '.join(known)}")
    return tuple(words_of(of)) or tuple(known)


def few(results: list[Result]) -> None:
    """Raises ValueError where these are not as many results as a picture can show."""
    from ..show.drawings.picture import MOST_BESIDE

    if not 1 <= len(results) <= MOST_BESIDE:
        these = f"name them with `under` (these are {len(results)})"
        raise ValueError(f"a picture shows up to {MOST_BESIDE} results: {these}")


def words_of(words: Words) -> list[str]:
    """One word or several as a list; none for None."""
    return [] if words is None else [words] if isinstance(words, str) else list(words)
