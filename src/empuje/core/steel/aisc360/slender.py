"""Width-to-thickness ratios and their limits (B4, tables B4.1a and B4.1b)."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..shapes import Shapes

Floats = NDArray[np.float64]


def root(E: Floats, F_y: Floats) -> Floats:
    """sqrt(E/F_y)."""
    return np.asarray(np.sqrt(E / F_y))


def flange(s: Shapes) -> Floats:
    """b/t of flanges: half of an I's or tee's, all of a channel's, the flat of a tube, an angle's longer leg."""
    if s.kind in ("I", "tee"):
        return np.asarray(s.b / (2 * s.tf))
    if s.kind == "channel":
        return np.asarray(s.b / s.tf)
    if s.kind == "angle":
        return np.asarray(np.maximum(s.h, s.b) / s.tw)
    return np.asarray(s.c_flange / s.tf)


def web(s: Shapes) -> Floats:
    """h/t_w of webs: the depth less flanges and fillets, the flat of a tube; d/t of a tee's stem."""
    return np.asarray(s.h / s.tw if s.kind == "tee" else s.c_web / s.tw)


def k_c(s: Shapes) -> Floats:
    """4/sqrt(h/t_w), from 0.35 to 0.76."""
    return np.asarray(np.clip(4 / np.sqrt(np.maximum(web(s), 1e-9)), 0.35, 0.76))


def limits_compression(s: Shapes, E: Floats, F_y: Floats) -> tuple[Floats, Floats]:
    """lambda_r of flange and web in compression."""
    r = root(E, F_y)
    built = np.sqrt(k_c(s)) * 0.64
    of_flange = {"I": np.where(s.welded > 0, built, 0.56), "channel": np.where(s.welded > 0, built, 0.56),
                 "tee": np.where(s.welded > 0, built, 0.56), "angle": 0.45 + 0 * s.A,
                 "hollow": np.where(s.welded > 0, 1.49, 1.40)}  # fmt: skip
    of_web = {"tee": 0.75, "angle": 0.45, "hollow": 1.40}.get(s.kind, 1.49)
    web_r = np.where(s.welded > 0, 1.49, of_web) if s.kind == "hollow" else of_web + 0 * s.A
    return np.asarray(of_flange[s.kind] * r), np.asarray(web_r * r)
