"""A model as it was read: what follows from it before any analysis, and its analysis."""

from __future__ import annotations

import warnings
from typing import TYPE_CHECKING, Any

import numpy as np

from ..core.answers import applied, combos, inventory, reactions, storeys, take_down
from ..core.answers import stability as buckling
from ..core.answers.surfaces import surface_balance
from ..core.answers.wind import sheet_of
from ..core.model.results import Result
from ..core.model.words import Picture, SnowPart, WindPart
from ..files.base.result_selectors import CASES, COMBINATIONS
from ..study.meant import parts_meant
from ..study.study import ModelError
from .asking import Asking, Words, few, words_of
from .results import Results

if TYPE_CHECKING:
    import pandas as pd

    from ..show.drawings.paper import Drawing, Strip


class Model(Asking):
    """A model as it was read. :func:`empuje.read` makes one.

    Words as on the command line. ``on`` names members or nodes: a name, a family, a glob (``"columns/A*"``), a list of
    these; ``!`` before one leaves it out. ``under`` names cases, combinations or sets: a name, a glob, ``"cases"``,
    ``"combinations"``, ``"strength"``, ``"service"``. A word that means nothing raises ``NothingMeant`` (a LookupError)
    with the nearest names. Tables are pandas DataFrames whose heads have units: ``"Fz [kN]"``.
    """

    def solve(self, allow_failed: bool = False) -> Results:
        """Analyse every case and combination. What there is to say about the results comes as Python warnings.

        Parameters
        ----------
        allow_failed : bool
            Whether results without a stable answer stand in tables without values, in place of raising ModelError.

        Returns
        -------
        Results

        Raises
        ------
        ModelError
            The frame is a mechanism; ``findings`` say what moves, and why.

        Examples
        --------
        >>> len(model.solve().reactions(under="Q"))
        2
        """
        solution = self._study.solution()
        for finding in reactions.result_findings(solution):
            warnings.warn(str(finding), stacklevel=2)
        return Results(self._study, solution, allow_failed)

    def expanded(self) -> str:
        """The text of one model file with runs, makers and copies written out. It reads back to the same model.

        Returns
        -------
        str
            TOML.

        Examples
        --------
        >>> 'A/base-top' in model.expanded()
        True
        """
        from ..files.plain.model import as_toml, plain_model

        return as_toml(plain_model(self._study.reading))

    def combinations(self, under: Words = COMBINATIONS) -> pd.DataFrame:
        """What each combination is made of, by which clause, and how it is analysed.

        Parameters
        ----------
        under : str or sequence of str
            Which; all by default.

        Returns
        -------
        pandas.DataFrame
            A row for each combination: name, set, formula, source (clause), how, and a column of factors for each case.

        Examples
        --------
        >>> model.combinations("610+Q")["formula"].item()
        '1.35 SW + 1.5 Q'
        """
        return self._frame(combos.combos(self.project, self._under(under)))

    def loads(self, on: Words = None, under: Words = None) -> pd.DataFrame:
        """Every load on members and nodes, with the line of the file it comes from.

        Parameters
        ----------
        on : str or sequence of str, optional
            Members and structural surfaces; all by default. Loads of nodes are always there.
        under : str or sequence of str, optional
            Cases; all by default.

        Returns
        -------
        pandas.DataFrame
            A row for each load, in global axes: intensities at both ends [kN/m], forces, moments, strains, settlements
            (in shown units), source and place.

        Examples
        --------
        >>> model.loads("beam", "Q")[["from [m]", "to [m]", "qz [kN/m]"]].values.tolist()
        [[0.0, 6.0, -20.0]]
        """
        nodes, members, surfaces = parts_meant(self.project, self._study.names, words_of(on))
        nodes = nodes if len(nodes) else np.arange(len(self.project.nodes))
        return self._frame(applied.applied_loads(self._study.resolved, self._under(under), members, nodes, surfaces))

    def surfaces(self, under: Words = CASES) -> pd.DataFrame:
        """What was put on every surface in each case, and what members and nodes received of it.

        Parameters
        ----------
        under : str or sequence of str
            Cases; all by default.

        Returns
        -------
        pandas.DataFrame
            A row for each surface and case: area, sums of forces put on and received, and the difference.

        Examples
        --------
        >>> len(model.surfaces())
        0
        """
        return self._frame(surface_balance(self._study.resolved, self._under(under)))

    def wind(self, under: Words = CASES, part: str = "zones") -> pd.DataFrame:
        """A table of how the wind's loads came about.

        Parameters
        ----------
        under : str or sequence of str
            Cases of the wind; all by default. Cases of components are named: ``"CW*"``.
        part : str
            Which table: ``zones``, ``unclad``, ``heights``, ``coefficients``, ``components``, ``totals``, ``sums`` or
            ``found``.

        Returns
        -------
        pandas.DataFrame

        Raises
        ------
        LookupError
            The model has no ``[wind]``.
        UnknownWord
            There is no such part (a ValueError).

        Examples
        --------
        >>> model.wind()
        Traceback (most recent call last):
        LookupError: frame.toml has no [wind]
        """
        wind = self._study.resolved.wind
        if wind is None:
            raise LookupError(f"{self.project.file} has no [wind]")
        names = [r.name for r in self._under(under) if r.is_case]
        return self._frame(sheet_of(WindPart.read(part), wind, self.project, names, self._display.value))

    def snow(self, part: str = "arrangements", under: Words = None) -> pd.DataFrame:
        """The sheet of the snow, one table of it.

        Parameters
        ----------
        part : str, optional
            ``found``, ``roofs``, ``drifts``, ``arrangements``, ``totals``.
        under : str or sequence of str, optional
            Cases of the snow for arrangements and totals; all by default.

        Returns
        -------
        pandas.DataFrame
            Units in the columns' names.

        Raises
        ------
        LookupError
            The model has no ``[snow]``.
        UnknownWord
            There is no such part (a ValueError).

        Examples
        --------
        >>> model.snow()
        Traceback (most recent call last):
        LookupError: frame.toml has no [snow]
        """
        from ..core.answers.snow import snow_sheet

        snow = self._study.resolved.snow
        if snow is None:
            raise LookupError(f"{self.project.file} has no [snow]")
        names = [r.name for r in self._under(under) if r.is_case]
        return self._frame(snow_sheet(SnowPart.read(part), snow, self.project, names, self._display.value))

    def changes_since(self, old: Model, under: Words = None, tolerance: float = 1e-3) -> pd.DataFrame:
        """What changed from an older model to this one.

        Parameters
        ----------
        old : Model
            The older one.
        under : str or sequence of str, optional
            Results that both models have; all combinations by default.
        tolerance : float
            Governing values that differ by no more than this ratio are left out.

        Returns
        -------
        pandas.DataFrame
            What is written, loads by case and family, governing values, and limits that changed from pass to fail or
            back.

        Raises
        ------
        ModelError
            One of the frames is a mechanism.

        Examples
        --------
        >>> len(model.changes_since(model))
        0
        """
        from ..show.changes_text import changes_table
        from ..study.differences import compared

        found = compared(old._study, self._study, words_of(under), tolerance)
        return self._frame(changes_table(found.changes, self._display))

    def members(self) -> pd.DataFrame:
        """Every member: family, section, material, nodes, length, roll and weight.

        Returns
        -------
        pandas.DataFrame

        Examples
        --------
        >>> model.members()["length [m]"].tolist()
        [4.0, 4.0, 6.0]
        """
        return self._frame(inventory.member_list(self.project))

    def sections(self) -> pd.DataFrame:
        """Every section in use, with its properties.

        Returns
        -------
        pandas.DataFrame

        Examples
        --------
        >>> model.sections()["section"].tolist()
        ['HEB 200', 'IPE 300']
        """
        return self._frame(inventory.section_list(self.project))

    def reductions(self, on: Words = None) -> pd.DataFrame:
        """The factor on each member's live loads by its area, and how it came about.

        Parameters
        ----------
        on : str or sequence of str, optional
            Members; all by default.

        Returns
        -------
        pandas.DataFrame
            A row for each member and case that is reduced.

        Examples
        --------
        >>> model.reductions("beam").empty
        True
        """
        return self._frame(take_down.reduction_table(self._study.resolved, self._members(on), self._display.said))

    def stability(self, under: Words = None, shapes: int = 1) -> pd.DataFrame:
        """Critical load factors, and the growth of sway from first to second order.

        Parameters
        ----------
        under : str or sequence of str, optional
            Cases and combinations; all combinations by default.
        shapes : int
            How many buckling shapes, the lowest first.

        Returns
        -------
        pandas.DataFrame
            A row for each result: critical factors, the node that sways most, its sway by first and second order,
            their ratio, and whether a code asks for second order.

        Raises
        ------
        ModelError
            The frame is a mechanism, or a result has no first-order answer.
        LookupError
            The model has structural surfaces, of which critical loads are not known.

        Examples
        --------
        >>> bool(model.stability("610+Q")["alpha_cr"].item() > 10)
        True
        """
        asked, _ = self._study.stand(self._study.under_combinations(words_of(under), mixes=True))
        prepared = self._study.prepared
        lost = prepared.solution.no_answer(asked)
        if lost:
            raise ModelError(lost)
        asked = self._study.with_worst_patterns(asked)
        solution = self._study.prepared.solution
        return self._frame(buckling.stability_table(self._study.stability(asked, shapes), solution))

    def storeys(self) -> pd.DataFrame:
        """Centres of mass and of rigidity, and stiffness, of rigid floors and of slabs.

        Returns
        -------
        pandas.DataFrame
            A row for each floor, from the lowest.

        Raises
        ------
        ValueError
            The model has no rigid floors and no slabs.
        ModelError
            The frame is a mechanism.

        Examples
        --------
        >>> model.storeys()
        Traceback (most recent call last):
        ValueError: the model has no rigid floors and no slabs
        """
        if not self.project.diaphragms and not storeys.slab_floors(self._study.resolved.analysed):
            raise ValueError("the model has no rigid floors and no slabs")
        found = storeys.storeys(self._study.prepared.equations, self._study.resolved.loads)
        return self._frame(storeys.storey_table(found))

    def draw(self, what: str = "frame", under: Words = None, **options: Any) -> Drawing | Strip:
        """A picture of the frame, or of one result or up to four.

        Parameters
        ----------
        what : str
            ``frame``, ``axes``, ``solid``, ``loads``, ``pressures``, ``deflected``, ``buckled``, ``reactions``, a force
            such as ``My``, ``band``, ``plates`` (of structural surfaces; ``on`` names them, ``force`` is ``m_x`` or
            another of their values, ``cut`` two points as of ``plate_cut``) or ``mesh``.
        under : str or sequence of str, optional
            Up to four results beside one another; of a band any number.
        **options
            ``on``, ``view``, ``elevation``, ``plan``, ``label``, ``shape``, ``times``, ``apart``, and ``force`` of a
            band: as the options of ``empuje draw``.

        Returns
        -------
        Drawing or Strip
            ``save(path)`` writes PNG, SVG or PDF. A notebook shows it.

        Raises
        ------
        ValueError
            There is no such picture, or it is of too many results.
        LookupError
            There is nothing to draw.

        Examples
        --------
        >>> model.draw("loads", "Q").svg().startswith("<svg")
        True
        """
        from ..show.drawings.picture import STILL

        kind = Picture.read(what)
        none: list[Result] = []
        results = none if kind in STILL else self._under(under)
        if kind not in STILL and kind != Picture.BAND:
            few(results)
        return self._sheet(what, results, lambda: self._study.solution(results), options)
