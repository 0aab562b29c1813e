"""Empuje from Python: read a model, solve it, and ask for answers as pandas tables with units in their heads.

>>> import empuje
>>> model = empuje.read("packing-house.toml")                              # doctest: +SKIP
>>> results = model.solve()                                                # doctest: +SKIP
>>> results.envelope(on="rafters", under="strength", of="My")              # doctest: +SKIP
"""

from __future__ import annotations

import warnings
from collections.abc import Mapping
from pathlib import Path

from ..study.study import ModelError, NoSuchValue, NothingMeant, Study, UnusableFile
from .model import Model
from .results import Results

__all__ = ["Model", "ModelError", "NoSuchValue", "NothingMeant", "Results", "UnusableFile", "read"]


def read(path: str | Path, cache: bool = True, values: Mapping[str, str] | None = None) -> Model:
    """Read a model file. Warnings about it come as Python warnings.

    Parameters
    ----------
    path : str or Path
        The model file (TOML). Tables that it names are read from its own folder.
    cache : bool
        Keep solutions in the user's cache folder, and use them as long as nothing they came from has changed.
    values : mapping of str to str, optional
        Values in place of those in the table ``[values]`` of the file, by name: ``{"q": "7.5 kN/m2"}``.

    Returns
    -------
    Model

    Raises
    ------
    ModelError
        The file has errors; ``findings`` has all of them, each with its line and what to do.
    UnusableFile
        The file cannot be read at all (a ValueError).
    NoSuchValue
        A value to be set is not in the file (a ValueError).

    Examples
    --------
    >>> empuje.read("frame.toml").project.case_names
    ('SW', 'Q', 'W')
    """
    study = Study.read(path, cache, values or {})
    if not study.sound:
        raise ModelError([f for f in study.findings if f.level == "error"])
    for finding in study.findings:
        if finding.level == "warning":
            warnings.warn(str(finding), stacklevel=2)
    return Model(study)
