"""What governs: envelopes, schedules, limits and steel members."""

from __future__ import annotations

import warnings
from collections.abc import Sequence
from typing import TYPE_CHECKING

from ..core.analysis.pieces import FORCES
from ..core.analysis.solution import Solution
from ..core.answers import (
    bands,
    envelope,
    foundations,
    schedule,
    storey_cuts,
    stress,
    take_down,
)
from ..core.load_path.taken import astray, taken_down
from ..core.model.findings import did_you_mean
from ..core.model.words import Stress
from ..files.base.result_selectors import COMBINATIONS
from .answers import Answers
from .asking import Words, components, words_of

if TYPE_CHECKING:
    import pandas as pd

    from ..core.steel.checked import Checked


class Governing(Answers):
    """Answers over many results."""

    def envelope(self, on: Words = None, under: Words = COMBINATIONS, of: Words = None) -> pd.DataFrame:
        """Least and greatest internal forces of members, exactly, wherever they are along them.

        Parameters
        ----------
        on : str or sequence of str, optional
            Members; all by default.
        under : str or sequence of str, optional
            Cases, combinations or sets; all combinations by default.
        of : str or sequence of str, optional
            Forces: N, Vy, Vz, T, My, Mz; all by default.

        Returns
        -------
        pandas.DataFrame
            Two rows for each member and force: where, under what, and the other five forces there and then.

        Raises
        ------
        ModelError
            A result that is asked for has no stable answer (see ``solve``).
        UnknownWord
            There is no such force (a ValueError).

        Examples
        --------
        >>> results.envelope("beam", of="My")[["extreme", "x [m]", "case"]].round(6).values.tolist()
        [['min', 6.0, '610+W+Q'], ['max', 3.0, '610+Q']]
        """
        forces, members = components(of, FORCES), self._members(on)
        return self._answer(
            under,
            lambda s, results: envelope.envelope(
                s, results, members, forces, self._study.extremes(s, results, members)
            ),
            over_positions=True,
        )

    def bands(
        self, on: Words = None, under: Words = COMBINATIONS, of: Words = None, stations: int = 11
    ) -> pd.DataFrame:
        """Least and greatest internal forces at even stations along members.

        Parameters
        ----------
        on : str or sequence of str, optional
            Members; all by default.
        under : str or sequence of str, optional
            Cases, combinations or sets; all combinations by default.
        of : str or sequence of str, optional
            Forces: N, Vy, Vz, T, My, Mz; all by default.
        stations : int
            How many, two or more.

        Returns
        -------
        pandas.DataFrame
            A row for each member, force and station: least and greatest, and what makes them.

        Raises
        ------
        ModelError
            A result that is asked for has no stable answer (see ``solve``).
        UnknownWord
            There is no such force (a ValueError).

        Examples
        --------
        >>> results.bands("beam", of="My", stations=3)["x [m]"].tolist()
        [0.0, 3.0, 6.0]
        """
        forces, members = components(of, FORCES), self._members(on)
        return self._answer(
            under, lambda s, results: bands.band_table(s, results, members, forces, stations), over_positions=True
        )

    def stresses(self, led_by: str, on: Words = None, under: Words = COMBINATIONS, fibre: Words = None) -> pd.DataFrame:
        """Least and greatest stresses at the fibres of sections.

        Parameters
        ----------
        led_by : str
            Which stress: ``"normal"``, ``"shear"`` or ``"mises"``.
        on : str or sequence of str, optional
            Members; all by default.
        under : str or sequence of str, optional
            Cases, combinations or sets; all combinations by default.
        fibre : str or sequence of str, optional
            Fibres; all that a section has by default.

        Returns
        -------
        pandas.DataFrame
            A row for each member, fibre and extreme: where, under what, and the forces there and then. Shear from
            torsion and stress from warping are not in it.

        Raises
        ------
        ModelError
            A result that is asked for has no stable answer (see ``solve``).
        UnknownWord
            There is no such stress (a ValueError).
        NoFibre
            No chosen member has the fibre (a LookupError).

        Examples
        --------
        >>> sorted(set(results.stresses("normal", "beam")["extreme"]))
        ['max', 'min']
        """
        members, leads = self._members(on), Stress.read(led_by)
        return self._answer(
            under,
            lambda s, results: stress.stress_envelope(s, results, members, leads, words_of(fibre)),
            over_positions=True,
        )

    def reaction_envelope(self, on: Words = None, under: Words = COMBINATIONS, of: Words = None) -> pd.DataFrame:
        """Least and greatest reactions of supports.

        Parameters
        ----------
        on : str or sequence of str, optional
            Nodes with a support; all by default.
        under : str or sequence of str, optional
            Cases, combinations or sets; all combinations by default.
        of : str or sequence of str, optional
            Components: Fx, Fy, Fz, Mx, My, Mz; all by default.

        Returns
        -------
        pandas.DataFrame
            Two rows for each node and component: under what, and the other components then.

        Raises
        ------
        ModelError
            A result that is asked for has no stable answer (see ``solve``).
        UnknownWord
            There is no such component (a ValueError).

        Examples
        --------
        >>> results.reaction_envelope("A@base", of="Fz")["case"].tolist()
        ['610f+W', '610+Q']
        """
        nodes = self._nodes(on) if on is not None else None
        forces = components(of, foundations.FORCES)
        return self._answer(
            under, lambda s, results: foundations.reaction_envelope(s, results, nodes, forces), over_positions=True
        )

    def displacement_envelope(self, on: Words = None, under: Words = COMBINATIONS, of: Words = None) -> pd.DataFrame:
        """Least and greatest displacements of nodes.

        Parameters
        ----------
        on : str or sequence of str, optional
            Nodes; all by default.
        under : str or sequence of str, optional
            Cases, combinations or sets; all combinations by default.
        of : str or sequence of str, optional
            Components: ux, uy, uz, rx, ry, rz; all by default.

        Returns
        -------
        pandas.DataFrame
            Two rows for each node and component: under what, and the other components then.

        Raises
        ------
        ModelError
            A result that is asked for has no stable answer (see ``solve``).
        UnknownWord
            There is no such component (a ValueError).

        Examples
        --------
        >>> len(results.displacement_envelope("B@top", of="ux"))
        2
        """
        nodes, motions = self._nodes(on), components(of, foundations.MOTIONS)
        return self._answer(
            under, lambda s, results: foundations.displacement_envelope(s, results, nodes, motions), over_positions=True
        )

    def schedule(self, under: Words = COMBINATIONS) -> pd.DataFrame:
        """For foundations: supports by kind, with their unfactored cases and their governing reactions.

        Parameters
        ----------
        under : str or sequence of str, optional
            Cases, combinations or sets; all combinations by default.

        Returns
        -------
        pandas.DataFrame
            A row for each support and case or extreme.

        Raises
        ------
        ModelError
            A result that is asked for has no stable answer (see ``solve``).

        Examples
        --------
        >>> results.schedule()["support"].unique().tolist()
        ['pinned']
        """
        return self._answer(under, schedule.schedule, over_positions=True)

    def storey_cuts(self, levels: Sequence[tuple[str, float]], under: Words = None) -> pd.DataFrame:
        """Shear, overturning moment, drift and torsional ratio of the storeys between levels.

        Parameters
        ----------
        levels : sequence of (str, float)
            Names and heights [m].
        under : str or sequence of str, optional
            Cases, combinations or sets; every case and combination by default.

        Returns
        -------
        pandas.DataFrame
            A row for each storey and result.

        Raises
        ------
        ModelError
            A result that is asked for has no stable answer (see ``solve``).

        Examples
        --------
        >>> cuts = results.storey_cuts([("base", 0), ("top", 4)], "W")
        >>> cuts["Vx [kN]"].round(3).item()
        12.0
        """
        heights = sorted(levels, key=lambda level: level[1])
        return self._answer(under, lambda s, results: storey_cuts.storey_cut_table(s, results, heights))

    def take_down(self, on: Words = None) -> pd.DataFrame:
        """Loads taken down the columns, level by level, beside the reactions. What finds no column comes as a warning.

        Parameters
        ----------
        on : str or sequence of str, optional
            Columns; all by default.

        Returns
        -------
        pandas.DataFrame
            A row for each column and node: dead, live, roof live, snow and rain loads there and below.

        Examples
        --------
        >>> results.take_down("posts/A*")["live [kN]"].round(6).tolist()
        [60.0, 0.0]
        """
        if self._study.project.plates is not None:
            raise LookupError("a take-down is by hand's rules, and the model has structural surfaces")
        taken = taken_down(self._study.resolved)
        for finding in astray(self._study.resolved, taken):
            warnings.warn(str(finding), stacklevel=2)
        return self._frame(take_down.take_down_table(self.solution, taken, self._members(on)))

    def verdict(self, limits: Words = None, every: bool = False) -> pd.DataFrame:
        """The limits of the model: what each comes to, the worst first. A result without an answer fails them.

        Parameters
        ----------
        limits : str or sequence of str, optional
            Names of limits; all by default.
        every : bool
            Each place of each limit in place of the worst.

        Returns
        -------
        pandas.DataFrame
            A row for each limit (and place): verdict, utilisation, value, bound, where, under what.

        Raises
        ------
        LookupError
            There is no such limit.
        ModelError
            The frame is a mechanism.

        Examples
        --------
        >>> len(results.verdict())
        0
        """
        from ..show.verdict_text import as_table
        from ..study.verdicts import judged

        known = [limit.name for limit in self.project.limits]
        for name in words_of(limits):
            if name not in known:
                raise LookupError(f"there is no limit {name}; {did_you_mean(name, known)}")
        found = judged(self._study, words_of(limits) or None, every)
        return self._frame(as_table(found.outcomes, self._display))

    def steel(self, on: Words = None) -> pd.DataFrame:
        """How much of its resistance each steel member uses, by the code of ``[steel]``, the worst first.

        Parameters
        ----------
        on : str or sequence of str, optional
            Members; all by default.

        Returns
        -------
        pandas.DataFrame
            A row for each member: what governs, each check, what was not checked.

        Raises
        ------
        LookupError
            The model names no code.
        ModelError
            The frame is a mechanism.

        Examples
        --------
        >>> results.steel()
        Traceback (most recent call last):
        LookupError: frame.toml has no [steel]
        """
        from ..core.steel.table import members_table

        _, found = self._checked(on)
        return self._frame(members_table(self.project, found))

    def _checked(self, on: Words) -> tuple[Solution, Checked]:
        from ..study.verdicts import checked_members

        rule = self.project.steel
        if rule is None:
            raise LookupError(f"{self.project.file} has no [steel]")
        solution, found, _ = checked_members(self._study, list(rule.on) if on is None else self._members(on).tolist())
        return solution, found
