"""Every table that a model, a table beside it or a rule file may have: what the guide lists and tests go through."""

from __future__ import annotations

from . import keys
from .base.forms import Form, with_inner
from .checks import keys as keys_checks
from .checks import limit_keys as keys_limits
from .checks import report_keys as keys_report
from .checks import steel_keys as keys_steel
from .combos import keys as keys_combos
from .copies import keys as keys_copies
from .frame import keys as keys_frame
from .loads import keys as keys_loads
from .makers import keys as keys_makers
from .snow import keys as keys_snow
from .tables import keys as keys_tables
from .traffic import keys as keys_traffic
from .wind import keys as keys_wind

ROOMS = (
    keys,
    keys_frame,
    keys_loads,
    keys_combos,
    keys_wind,
    keys_snow,
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
