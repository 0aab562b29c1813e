"""Partial loads of continuous members (ASCE 7, 7.5.1): the balanced load full on some spans, half of it on others.

full on either end span, half elsewhere; half on either end span, full elsewhere; full on two beside each other
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
import shapely

from ...model.findings import Finding
from ...model.loads import Step
from ...model.snow import PartialSpans, SnowCase, SnowRule
from .roofs import band
from .shapes import Layer

BEYOND = 0.05
"""A roof may reach so far beyond the spans that are stated [m]."""


def partial_layers(rule: SnowRule, case: SnowCase, balanced: Sequence[Layer]) -> list[Layer]:
    """The layers of a partial case: of its roofs span by span, of others the balanced load."""
    spans = rule.partial[case.direction]
    out = []
    for layer in balanced:
        if not layer.pitch.has(spans.roofs):
            out.append(layer)
            continue
        low, high = _reach(spans, layer)
        bounds = [min(spans.lines[0], low), *spans.lines[1:-1], max(spans.lines[-1], high)]
        for k, share in enumerate(case.spans):
            a, b = bounds[k], bounds[k + 1]
            if b <= low or a >= high:
                continue
            p = share * layer.start
            step = Step("p", f"{share:g} of the balanced load on span {k + 1}", p, "N/m2", "7.5.1")
            name = f"{'half, ' if share < 1 else 'full, '}span {k + 1} of {spans.name}"
            out.append(replace(layer, name=name, steps=(*layer.steps, step), start=p, end=p,
                               region=band(layer.pitch.plan, np.array(spans.way), a, b)))  # fmt: skip
    return out


def beyond_lines(rule: SnowRule, balanced: Sequence[Layer]) -> list[Finding]:
    """An error where roofs reach beyond the spans that are stated of their members."""
    out = []
    for spans in rule.partial:
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
