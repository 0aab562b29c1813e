"""Partial loads of continuous members (ASCE 7, 7.5.1): the balanced load full on some spans, half of it on others.

full on either end span, half elsewhere; half on either end span, full elsewhere; full on two beside each other
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace

import numpy as np
import shapely

from ...model.findings import Finding
from ...model.loads import Step
from ...model.snow import PartialSpans, SnowCase, SnowRule
from .roofs import band
from .shapes import Layer

BEYOND, BEYOND_FOUND = 0.05, 0.35
"""A roof may reach so far beyond the spans that are stated, or found, and belongs to the last of them [m]."""


def partial_layers(rule: SnowRule, case: SnowCase, balanced: Sequence[Layer]) -> list[Layer]:
    """The layers of a partial case: of its roofs span by span, of others the balanced load."""
    spans = rule.partial[case.direction]
    out = []
    for layer in balanced:
        if not layer.pitch.has(spans.roofs):
            out.append(layer)
            continue
        low, high = _reach(spans, layer)
        for a, b, share, where in _bands(spans, case, low, high):
            p = share * layer.start
            step = Step("p", f"{share:g} of the balanced load {where}", p, "N/m2", "7.5.1")
            name = f"{'half, ' if share < 1 else 'full, '}{where}"
            out.append(replace(layer, name=name, steps=(*layer.steps, step), start=p, end=p,
                               region=band(layer.pitch.plan, np.array(spans.way), a, b)))  # fmt: skip
    return out


def _bands(spans: PartialSpans, case: SnowCase, low: float, high: float) -> Iterator[tuple[float, float, float, str]]:
    """From where to where on a roof that reaches from low to high [m] which share of the balanced load lies, in words;
    in full beyond the spans of members that reach less far."""
    slack = BEYOND_FOUND if spans.found else BEYOND
    first, last = spans.lines[0], spans.lines[-1]
    bounds = [low if first - low < slack else first, *spans.lines[1:-1], high if high - last < slack else last]
    parts = [(a, b, share, f"on span {k} of {spans.name}")
             for k, (a, b, share) in enumerate(zip(bounds, bounds[1:], case.spans, strict=False), start=1)]  # fmt: skip
    beyond = f"beyond the spans of {spans.name}"
    for a, b, share, where in [(low, bounds[0], 1.0, beyond), *parts, (bounds[-1], high, 1.0, beyond)]:
        if b - a > 1e-9 and b > low and a < high:
            yield a, b, share, where


def beyond_lines(rule: SnowRule, balanced: Sequence[Layer]) -> list[Finding]:
    """An error where roofs reach beyond the spans that are stated of their members."""
    out = []
    for spans in (s for s in rule.partial if not s.found):
        for layer in balanced:
            if not layer.pitch.has(spans.roofs):
                continue
            low, high = _reach(spans, layer)
            if low < spans.lines[0] - BEYOND or high > spans.lines[-1] + BEYOND:
                message = (
                    f"{layer.pitch.name} reaches from {low:.4g} to {high:.4g} m, and the spans of {spans.name} from "
                    f"{spans.lines[0]:.4g} to {spans.lines[-1]:.4g} m"
                )
                remedy = "name its ends in `lines` too (a cantilever is a span), or leave it out of `on`"
                out.append(Finding("error", "snow-partial", message, remedy, spans.place))
    return out


def _reach(spans: PartialSpans, layer: Layer) -> tuple[float, float]:
    along = shapely.get_coordinates(layer.pitch.plan) @ np.array(spans.way)
    return float(along.min()), float(along.max())
