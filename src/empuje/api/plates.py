"""Structural surfaces: what governs in them, and what passes through a cut."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from ..files.base.result_selectors import COMBINATIONS
from .answers import Answers
from .asking import Words, components, words_of

if TYPE_CHECKING:
    import pandas as pd

    from ..core.analysis.solution import Solution
    from ..core.answers.table import Table
    from ..core.model.results import Result


class OfPlates(Answers):
    """Answers about structural surfaces."""

    def plates(self, on: Words = None, under: Words = COMBINATIONS, of: Words = None) -> pd.DataFrame:
        """Minimum and maximum moments, shears, forces in the plane, displacements and pressures of structural surfaces.

        Parameters
        ----------
        on : str or sequence of str, optional
            Structural surfaces; all by default.
        under : str or sequence of str, optional
            Cases, combinations or sets; all combinations by default.
        of : str or sequence of str, optional
            ``n_x``, ``n_y``, ``n_xy``, ``m_x``, ``m_y``, ``m_xy``, ``v_x``, ``v_y``, ``w``, ``p``, and moments for
            reinforcement ``far_x``, ``far_y``, ``near_x``, ``near_y``; all by default.

        Returns
        -------
        pandas.DataFrame
            A row for each surface, value and extreme: where, under what, and all values there and then. ``peak`` rows
            are next to a point where the value is not finite; ``mean over`` is the length it is averaged over.

        Raises
        ------
        LookupError
            The model has no structural surface.
        ModelError
            A result that is asked for has no stable answer (see ``solve``).
        UnknownWord
            There is no such value (a ValueError).

        Examples
        --------
        >>> results.plates()
        Traceback (most recent call last):
            ...
        LookupError: the model has no structural surface
        """
        from ..core.answers.plates import ASKED, governing_plates, plate_extremes, plate_forces

        chosen, asked = self._study.structural(words_of(on)), components(of, ASKED)

        def make(solution: Solution, results: list[Result]) -> Table:
            forces = plate_forces(solution)
            return governing_plates(forces, results, plate_extremes(forces, results, chosen, asked))

        return self._answer(under, make, over_positions=True)

    def plates_at(self, points: Sequence[Sequence[float]], on: Words = None, under: Words = None) -> pd.DataFrame:
        """Moments, shears, forces in the plane and displacements at points of structural surfaces, result by result.

        Parameters
        ----------
        points : sequence of sequence of float
            Points x, y, z [in the model's unit of length].
        on : str or sequence of str, optional
            Structural surfaces; all by default.
        under : str or sequence of str, optional
            Cases, combinations or sets; every case and combination by default.

        Returns
        -------
        pandas.DataFrame
            A row for each point, surface that has it and result: all values of ``plates``, with principal values
            ``m_1``, ``m_2``, ``n_1``, ``n_2`` and the angle of the greatest from the surface's own x. NaN within the
            footprint of a column.

        Raises
        ------
        LookupError
            The model has no structural surface.
        NoPoint
            A point is on no surface (a ValueError).
        ModelError
            A result that is asked for has no stable answer (see ``solve``).

        Examples
        --------
        >>> results.plates_at([[0, 0, 0]])
        Traceback (most recent call last):
            ...
        LookupError: the model has no structural surface
        """
        from ..core.answers.plate_points import points_each, points_of
        from ..core.answers.plates import plate_forces

        chosen = self._study.structural(words_of(on))
        xyz = self._points(points)

        def make(solution: Solution, results: list[Result]) -> Table:
            forces = plate_forces(solution)
            return points_each(forces, results, points_of(forces, chosen, xyz))

        return self._answer(under, make)

    def plate_cut(
        self, begin: Sequence[float], end: Sequence[float], on: Words = None, under: Words = None
    ) -> pd.DataFrame:
        """What passes through a straight cut of structural surfaces, result by result.

        Parameters
        ----------
        begin : sequence of float
            A point x, y, z in the plane of a surface [in the model's unit of length].
        end : sequence of float
            The other end of the cut.
        on : str or sequence of str, optional
            Structural surfaces; all by default.
        under : str or sequence of str, optional
            Cases, combinations or sets; every case and combination by default.

        Returns
        -------
        pandas.DataFrame
            A row for each surface that is cut and result: ``N``, ``V``, ``Q``, ``M``, ``T``, ``M_in``.

        Raises
        ------
        LookupError
            The model has no structural surface.
        NoCut
            The line lies in no surface (a ValueError).
        ModelError
            A result that is asked for has no stable answer (see ``solve``).

        Examples
        --------
        >>> results.plate_cut([0, 0, 0], [1, 0, 0])
        Traceback (most recent call last):
            ...
        LookupError: the model has no structural surface
        """
        from ..core.answers.plate_cuts import cut_each
        from ..core.answers.plates import plate_forces

        chosen = self._study.structural(words_of(on))
        a, b = self._points([begin, end])
        return self._answer(under, lambda s, results: cut_each(plate_forces(s), results, chosen, a, b))
