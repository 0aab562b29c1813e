"""Answers of a solved model, as pandas tables with units in their heads, and pictures."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from ..core.answers import (
    along,
    deflection,
    reactions,
    why,
)
from ..core.model.words import Label, Picture, Reference, Sense
from .asking import Places, Words, few, words_of
from .governing import Governing
from .plates import OfPlates

if TYPE_CHECKING:
    import pandas as pd

    from ..show.drawings.paper import Drawing, Strip


class Results(Governing, OfPlates):
    """A solved model. :meth:`empuje.Model.solve` makes one; words are those of :class:`empuje.Model`.

    Results without a stable answer raise ModelError wherever they are asked for; with `allow_failed` they stand first
    in each table instead, with no values, and `failed` names them.
    """

    def reactions(self, on: Words = None, under: Words = None) -> pd.DataFrame:
        """Reactions: forces and moments that act on the structure, in global axes.

        Parameters
        ----------
        on : str or sequence of str, optional
            Nodes with a support; all by default.
        under : str or sequence of str, optional
            Cases, combinations or sets; every case and combination by default.

        Returns
        -------
        pandas.DataFrame
            A row for each node and result: ``Fx [kN]`` to ``Mz [kN*m]``, NaN in what a plane model does not have, and
            how the result was analysed.

        Raises
        ------
        ModelError
            A result that is asked for has no stable answer (see ``solve``).

        Examples
        --------
        >>> results.reactions(under="Q")[["node", "Fz [kN]"]].round(6).values.tolist()
        [['A@base', 60.0], ['B@base', 60.0]]
        """
        nodes = self._nodes(on) if on is not None else None
        return self._answer(under, lambda s, results: reactions.reactions(s, results, nodes))

    def balance(self, under: Words = None) -> pd.DataFrame:
        """What is applied, what the supports give, and the difference.

        Parameters
        ----------
        under : str or sequence of str, optional
            Cases, combinations or sets; every case and combination by default.

        Returns
        -------
        pandas.DataFrame
            Three rows for each result; ``relative`` is the difference as a ratio of the largest load.

        Raises
        ------
        ModelError
            A result that is asked for has no stable answer (see ``solve``).

        Examples
        --------
        >>> bool(results.balance()["relative"].max() < 1e-9)
        True
        """
        return self._answer(under, reactions.balance)

    def forces(self, on: Words = None, under: Words = None, at: Places = ("0%", "50%", "100%")) -> pd.DataFrame:
        """Internal forces at positions along members, in member axes.

        Parameters
        ----------
        on : str or sequence of str, optional
            Members; all by default.
        under : str or sequence of str, optional
            Cases, combinations or sets; every case and combination by default.
        at : sequence of str or float
            Positions: ``"40%"``, ``"2.5 m"``, or numbers in the length unit of the project, from the start.

        Returns
        -------
        pandas.DataFrame
            A row for each member, result and position, two where a force jumps (left, then right): N (tension
            positive), Vy, Vz, T, My, Mz.

        Raises
        ------
        ModelError
            A result that is asked for has no stable answer (see ``solve``).

        Examples
        --------
        >>> results.forces("beam", "Q", at=["50%"])["Vz [kN]"].abs().round(6).item()
        0.0
        """
        positions, members = self._positions(at), self._members(on)
        return self._answer(
            under,
            lambda s, results: along.forces(s, results, members, positions),
            along=self._study.places_along(members, positions),
        )

    def displacements(self, on: Words = None, under: Words = None) -> pd.DataFrame:
        """Displacements of nodes, in global axes.

        Parameters
        ----------
        on : str or sequence of str, optional
            Nodes; all by default.
        under : str or sequence of str, optional
            Cases, combinations or sets; every case and combination by default.

        Returns
        -------
        pandas.DataFrame
            A row for each node and result: ux, uy, uz, rx, ry, rz; NaN for a rotation that nothing restrains.

        Raises
        ------
        ModelError
            A result that is asked for has no stable answer (see ``solve``).

        Examples
        --------
        >>> results.displacements("A@base", "W")["ux [mm]"].item()
        0.0
        """
        nodes = self._nodes(on)
        return self._answer(under, lambda s, results: along.node_displacements(s, results, nodes))

    def deflections(
        self, on: Words = None, under: Words = None, against: str = "chord", at: Places = ()
    ) -> pd.DataFrame:
        """Deflections of members.

        Parameters
        ----------
        on : str or sequence of str, optional
            Members; all by default.
        under : str or sequence of str, optional
            Cases, combinations or sets; every case and combination by default.
        against : str
            What they are measured from: the ``"chord"`` of each span between supports of the member, that of the
            ``"whole"`` member, or its ``"start"`` or ``"end"``.
        at : sequence of str or float
            Positions; by default where each is largest.

        Returns
        -------
        pandas.DataFrame
            A row for each member and result (and position): deflection along x, y and z of the member and across it,
            and its ratio to the span.

        Raises
        ------
        ModelError
            A result that is asked for has no stable answer (see ``solve``).
        UnknownWord
            There is no such reference (a ValueError).

        Examples
        --------
        >>> results.deflections("beam", "Q")["span"].item()
        'A@top to B@top'
        """
        members, positions, reference = self._members(on), self._positions(at), Reference.read(against)
        if not at:
            return self._answer(
                under,
                lambda s, results: deflection.largest_deflections(s, results, members, reference),
                along=self._study.furthest(self._under(under), members),
            )
        return self._answer(
            under,
            lambda s, results: deflection.deflections(s, results, members, reference, positions),
            along=self._study.places_along(members, positions),
        )

    def why(
        self, on: str, of: str, under: Words = None, sense: str = "largest", at: str | float | None = None
    ) -> pd.DataFrame:
        """What made a governing value of one member or node.

        Parameters
        ----------
        on : str
            One member or one node.
        of : str
            The component: of a member N to Mz, of a node with a support Fx to Mz, else ux to rz.
        under : str or sequence of str, optional
            Cases, combinations or sets; all combinations by default.
        sense : str
            ``"largest"`` in magnitude, ``"min"`` or ``"max"``.
        at : str or float, optional
            A position along the member; by default where the value is.

        Returns
        -------
        pandas.DataFrame
            A row for each case that takes part, with its factor and contribution, and below it the loads behind it.

        Raises
        ------
        LookupError
            There is no such value, or ``on`` is more than one thing.
        TooMany
            There are too many patterns of cases to look at (a ValueError).

        Examples
        --------
        >>> found = results.why("A@base", "Fz", sense="min")
        >>> found[found["row"] == "case"][["case", "factor"]].values.tolist()
        [['W', 1.5], ['SW', 1.0]]
        """
        study = self._study
        nodes, members, missed = study.names.select([on])
        if missed or len(nodes) + len(members) != 1:
            raise LookupError(f"{on} is {len(nodes) + len(members)} things; name one member or one node")
        target = why.target_of(int((members or nodes)[0]), bool(members), of)
        x = None if at is None else self._positions([at])[0].on(float(self.project.lengths[target.index]))
        asked = study.worst_stood(study.under_combinations(words_of(under)), target, Sense.read(sense), x)
        solution = self.solution
        standing = [r for r in asked if r not in solution.failed]
        found = why.why(study.prepared_as(solution), solution, standing, target, Sense.read(sense), x)
        return self._frame(why.why_table(found, self._display.said))

    def draw(self, what: str, under: Words = None, **options: Any) -> Drawing | Strip:
        """A picture of one result or up to four, a band over many, or utilisations.

        Parameters
        ----------
        what : str
            As of :meth:`Model.draw`; also ``utilisation`` and ``stress``.
        under : str or sequence of str, optional
            Results; a band and a stress are over all combinations by default.
        **options
            As of :meth:`Model.draw`.

        Returns
        -------
        Drawing or Strip

        Raises
        ------
        ValueError
            There is no such picture, or it is of too many results.
        LookupError
            There is nothing to draw.
        ModelError
            A result that is asked for has no stable answer.

        Examples
        --------
        >>> results.draw("My", "610+Q").svg().startswith("<svg")
        True
        """
        kind = Picture.read(what)
        if kind == Picture.UTILISATION:
            return self._utilisation(options)
        many = kind in (Picture.BAND, Picture.STRESS)
        if kind in (Picture.STRESS, Picture.PLATES):
            options.setdefault("force", "normal" if kind == Picture.STRESS else "m_x")
        results = self._study.under_combinations(words_of(under)) if many else self._under(under)
        self._standing(results, whole=many)
        if not many:
            few(results)
        return self._sheet(what, results, lambda: self.solution, options)

    def _utilisation(self, options: dict[str, Any]) -> Drawing | Strip:
        from ..show.drawings.draw_use import draw_utilisation
        from ..show.drawings.labels import write_labels
        from ..show.drawings.paper import Drawing

        members, view = self._part(options)
        _, found = self._checked([self.project.members[m].name for m in members.tolist()])
        sheet = draw_utilisation(self.project, found, view)
        write_labels(sheet, (Label.read(word) for word in words_of(options.pop("label", None))))
        return Drawing((sheet,))
