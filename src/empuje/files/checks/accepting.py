"""[plausible] and [[accepted]]: beyond what a value is odd, and findings that the engineer takes as they are."""

from __future__ import annotations

from ...core.model.findings import Accepted
from ...core.model.plausible import Plausible
from ..base.entry import Entry


def read_plausible(model: Entry) -> Plausible:
    """The bounds of the model."""
    entry = model.child("plausible").known()
    found = {name: entry.quantity(name) for name in entry.data if name in entry.form.names}
    for name, value in found.items():
        if value is not None and value <= 0:
            entry.error("bad-quantity", f"plausible.{name} must be positive", "", name)
    return Plausible(**{name: value for name, value in found.items() if value is not None})


def read_accepted(model: Entry) -> tuple[Accepted, ...]:
    """What is accepted."""
    out = []
    for entry in model.entries("accepted"):
        entry.known()
        code, reason = entry.text("finding"), entry.text("reason")
        about = entry.texts("on") if entry.has("on") else []
        if reason is not None and not reason.strip():
            entry.error("missing-key", f"{entry.what} gives no reason", "say why it is right as it is", "reason")
        if code is not None and reason is not None and about is not None:
            out.append(Accepted(code, tuple(about), reason.strip(), entry.place))
    return tuple(out)
