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
from ..faces import Face
from .roofs import band, closed, plan_with_holes
from .shapes import Layer
from .spans import spans_of

BEYOND, BEYOND_FOUND = 0.05, 0.35
"""A roof may reach so far beyond the spans that are stated, or found, and belongs to the last of them [m]."""


Known = dict[tuple[object, ...], Layer]
"""Layers by what made them, so that a span in full is one layer in all cases."""


def partial_layers(rule: SnowRule, case: SnowCase, balanced: Sequence[Layer], known: Known) -> list[Layer]:
    """The layers of a partial case: of its roofs span by span, of others the balanced load."""
    out: list[Layer] = []
    for layer in balanced:
        left = layer.pitch.faces
        for spans in (s for s in rule.partial if s.name == case.spans):
            own = tuple(f for f in left if f.surface in spans.roofs)
            patterns = spans_of(len(spans.lines) - 1)
            if own and case.direction < len(patterns):
                left = tuple(f for f in left if f.surface not in spans.roofs)
                part = _on(layer, own, known)
                out += _span_by_span(spans, patterns[case.direction], part, known)
        if left:
            out.append(_on(layer, left, known))
    return out


def _on(layer: Layer, faces: tuple[Face, ...], known: Known) -> Layer:
    """A layer on some of the faces of its pitch."""
    pitch, key = layer.pitch, (layer, *(f.surface for f in faces))
    if len(faces) == len(pitch.faces):
        return layer
    if key not in known:
        plan = closed([plan_with_holes(f) for f in faces])
        known[key] = replace(layer, pitch=replace(pitch, faces=faces, plan=plan))
    return known[key]


def _span_by_span(spans: PartialSpans, shares: Sequence[float], layer: Layer, known: Known) -> Iterator[Layer]:
    low, high = _reach(spans, layer)
    for a, b, share, where in _bands(spans, shares, low, high):
        key = layer, where, share
        if key in known:
            yield known[key]
            continue
        p = share * layer.start
        step = Step("p", f"{share:g} of the balanced load {where}", p, "N/m2", "7.5.1")
        name = f"{'half, ' if share < 1 else 'full, '}{where}"
        known[key] = replace(layer, name=name, steps=(*layer.steps, step), start=p, end=p,
                             region=band(layer.pitch.plan, np.array(spans.way), a, b))  # fmt: skip
        yield known[key]


def _bands(
    spans: PartialSpans, shares: Sequence[float], low: float, high: float
) -> Iterator[tuple[float, float, float, str]]:
    """From where to where on a roof that reaches from low to high [m] which share of the balanced load lies, in words;
    in full beyond the spans of members that reach less far."""
    slack = BEYOND_FOUND if spans.found else BEYOND
    first, last = spans.lines[0], spans.lines[-1]
    bounds = [low if first - low < slack else first, *spans.lines[1:-1], high if high - last < slack else last]
    parts = [(a, b, share, f"on span {k} of {spans.name}")
             for k, (a, b, share) in enumerate(zip(bounds, bounds[1:], shares, strict=False), start=1)]  # fmt: skip
    beyond = f"beyond the spans of {spans.name}"
    for a, b, share, where in [(low, bounds[0], 1.0, beyond), *parts, (bounds[-1], high, 1.0, beyond)]:
        if b - a > 1e-9 and b > low and a < high:
            yield a, b, share, where


def beyond_lines(rule: SnowRule, balanced: Sequence[Layer]) -> list[Finding]:
    """An error where roofs reach beyond the spans that are stated of their members."""
    out = []
    for spans in (s for s in rule.partial if not s.found):
        for layer in balanced:
            own = tuple(f for f in layer.pitch.faces if f.surface in spans.roofs)
            if not own:
                continue
            low, high = _reach(spans, _on(layer, own, {}))
            if low < spans.lines[0] - BEYOND or high > spans.lines[-1] + BEYOND:
                message = (
                    f"{own[0].name} reaches from {low:.4g} to {high:.4g} m, and the spans of {spans.name} from "
                    f"{spans.lines[0]:.4g} to {spans.lines[-1]:.4g} m"
                )
                remedy = "name its ends in `lines` too (a cantilever is a span), or leave it out of `on`"
                out.append(Finding("error", "snow-partial", message, remedy, spans.place))
    return out


def _reach(spans: PartialSpans, layer: Layer) -> tuple[float, float]:
    along = shapely.get_coordinates(layer.pitch.plan) @ np.array(spans.way)
    return float(along.min()), float(along.max())
