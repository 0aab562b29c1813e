"""Findings about suspicious input, made short."""

from __future__ import annotations

from ..model.findings import Finding, Place


def warn(code: str, message: str, remedy: str, place: Place, *about: str) -> Finding:
    """A warning, and the names of what it is about."""
    return Finding("warning", code, message, remedy, place, about=about[:MOST])


def note(code: str, message: str, remedy: str, place: Place, *about: str) -> Finding:
    """A note, and the names of what it is about."""
    return Finding("note", code, message, remedy, place, about=about[:MOST])


MOST = 1000
"""Names that a finding keeps."""
