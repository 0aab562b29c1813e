"""What is known of the tables beside a model, kind by kind."""

from __future__ import annotations

from dataclasses import dataclass

from ..base.forms import Form


@dataclass(frozen=True)
class RowKind:
    """Tables of one kind: their columns, what is known of the entries that rows become, the columns that none does
    without; whether rows become tables of the model by their names, and values show as they stand in their cells."""

    kind: str
    columns: Form
    entry: Form
    needed: tuple[str, ...]
    named: bool = False
    as_in_cell: bool = False
