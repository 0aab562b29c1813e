"""Decisions for eyes: each kind once, with what was taken how often; each by itself where they are asked for."""

from __future__ import annotations

from collections.abc import Sequence
from textwrap import wrap

from ..core.model.decisions import Decision, by_kind
from ..core.model.findings import listed, visible

MOST = 3


def decisions_for_eyes(found: Sequence[Decision], each: object, wide: int | None) -> str:
    """The weightiest first, in lines so wide; unless `each` is asked for, of many of a kind the first few, and how many
    there are."""
    lines: list[str] = []
    stance = ""
    for (side, what), own in by_kind(found).items():
        if side != stance:
            lines += ([""] if lines else []) + [side.upper()]
            stance = side
        keys = ", ".join(dict.fromkeys(d.key for d in own if d.key))
        lines.append(f"{what}" + (f"  (stated by {keys})" if keys else ""))
        alike: dict[tuple[str, str, str], list[str]] = {}
        for d in own:
            alike.setdefault((d.taken, d.why, d.instead), []).extend(d.about)
        shown = list(alike.items()) if each else list(alike.items())[:MOST]
        for (taken, why, instead), names in shown:
            about = f"{listed(tuple(dict.fromkeys(names)), 4)}: " if names else ""
            lines.append(f"    {about}{taken}; {why}" + (f"; else {instead}" if instead else ""))
        if len(alike) > len(shown):
            lines.append(f'    and {len(alike) - len(shown)} more; --about "{what}" lists them')
    if not lines:
        return "Nothing was decided by the program.\n"
    return "\n".join(_wrapped(visible(line), wide) for line in lines) + "\n"


def _wrapped(line: str, wide: int | None) -> str:
    """A line in several, those after the first further in."""
    if wide is None or len(line) <= wide:
        return line
    inward = " " * (len(line) - len(line.lstrip()) + 4)
    return "\n".join(wrap(line, wide, subsequent_indent=inward, break_long_words=False, break_on_hyphens=False))
