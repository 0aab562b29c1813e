"""What a report of the model shows, as the engineer asks for it."""

from __future__ import annotations

from dataclasses import dataclass

from .words import ReportPart


@dataclass(frozen=True)
class TitleBlock:
    """What stands beside the title of the project, as it was given; a date is never made up."""

    number: str = ""
    author: str = ""
    revision: str = ""
    date: str = ""


@dataclass(frozen=True)
class Remark:
    """The engineer's own text, before a part of the report."""

    before: ReportPart
    title: str
    text: str


@dataclass(frozen=True)
class ReportRule:
    """The parts asked for, none for all of them; and the texts between them."""

    parts: tuple[ReportPart, ...] = ()
    remarks: tuple[Remark, ...] = ()
