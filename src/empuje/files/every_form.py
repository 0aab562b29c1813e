"""Every table that a model, a table beside it or a rule file may have: what the guide lists and tests go through."""

from __future__ import annotations

from . import (
    keys,
    keys_checks,
    keys_combos,
    keys_copies,
    keys_frame,
    keys_limits,
    keys_loads,
    keys_makers,
    keys_report,
    keys_steel,
    keys_tables,
    keys_traffic,
    keys_wind,
)
from .forms import Form, with_inner

ROOMS = (
    keys,
    keys_frame,
    keys_loads,
    keys_combos,
    keys_wind,
    keys_traffic,
    keys_limits,
    keys_checks,
    keys_copies,
    keys_makers,
    keys_report,
    keys_steel,
    keys_tables,
)


def every_form() -> dict[str, Form]:
    """By name, with those inside others."""
    named = {name: one for room in ROOMS for name, one in vars(room).items()}
    return with_inner(form for form in named.values() if isinstance(form, Form))
