"""Roofs under snow, as model files: blocks of any footprint, slope and height, with members on every edge."""

from __future__ import annotations

import math

ASCE_16 = 'code = "ASCE 7-16"\np_g = "1.5 kN/m2"\nexposure = "C"\nC_t = 1.0\nI_s = 1.1\n'
ASCE_22 = 'code = "ASCE 7-22"\np_g = "2.4 kN/m2"\nexposure = "C"\nC_t = 1.0\nW_2 = 0.45\nrisk = "III"\n'
EN = 'code = "EN 1991-1-3"\ns_k = "1.2 kN/m2"\n'


def roofs(snow: str, faces: dict[str, list[tuple[float, float, float]]], angle: float = 0.0, units: str = "kN m",
          more: str = "", per: float = 1.0, at: tuple[float, float] = (0.0, 0.0)) -> str:  # fmt: skip
    """A model of roof surfaces by their corners, each bordered by members on supported nodes: nothing else stands."""
    c, s = math.cos(math.radians(angle)), math.sin(math.radians(angle))
    nodes: dict[tuple[float, float, float], str] = {}
    pieces: dict[tuple[str, str], str] = {}
    surfaces = []
    for name, corners in faces.items():
        own = [nodes.setdefault(p, f"N{len(nodes)}") for p in corners]
        for a, b in zip(own, own[1:] + own[:1], strict=True):
            if (b, a) not in pieces:
                pieces.setdefault((a, b), f"m{len(pieces)}")
        surfaces.append(
            f'[surfaces.{name}]\ncorners = [{", ".join(map(repr, own))}]\ndeck = "two-way"'.replace("'", '"')
        )
    lines = [
        f"{n} = [{per * (x * c - y * s + at[0]):.9f}, {per * (x * s + y * c + at[1]):.9f}, {per * z:.9f}]"
        for (x, y, z), n in nodes.items()
    ]
    bars = "\n".join(f'{n} = "{a} > {b}"' for (a, b), n in pieces.items())
    return f"""[project]
units = "{units}"
[nodes]
{chr(10).join(lines)}
[members.edges]
section = "HEB 300"
material = "S355"
[members.edges.pieces]
{bars}
{chr(10).join(surfaces)}
[[supports]]
at = {list(nodes.values())}
fix = "pinned"
[cases]
G = {{ action = "dead", self_weight = 1.0 }}
[snow]
roofs = "*"
{snow}{more}""".replace("'", '"')


def rectangle(x0: float, x1: float, y0: float, y1: float, z0: float, z1: float | None = None) -> list[
    tuple[float, float, float]
]:  # fmt: skip
    """A roof counter-clockwise from above, at z0 along x0 and at z1 along x1."""
    z1 = z0 if z1 is None else z1
    return [(x0, y0, z0), (x1, y0, z1), (x1, y1, z1), (x0, y1, z0)]


def gable(x0: float, x1: float, y0: float, y1: float, eave: float, ridge: float, name: str = "") -> dict[
    str, list[tuple[float, float, float]]
]:  # fmt: skip
    """Two pitches, ridge along y."""
    middle = (x0 + x1) / 2
    return {
        f"west{name}": rectangle(x0, middle, y0, y1, eave, ridge),
        f"east{name}": rectangle(middle, x1, y0, y1, ridge, eave),
    }
