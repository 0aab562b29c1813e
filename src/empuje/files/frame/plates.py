"""What makes a surface structural, and supports along lines of such surfaces."""

from __future__ import annotations

import re

import numpy as np

from ...core.model.findings import did_you_mean
from ...core.model.frame import LineSupport
from ...core.model.surfaces import Plate, Ribs
from ...core.model.words import PlateActs
from ..base.entry import Entry, shown
from .keys import LINE_SUPPORT
from .nodes import NodeBook
from .parts import Parts
from .supports import axes_of, held_by, springs_of
from .surfaces import Grounds, ReadPlate, direction_in, read_point

STRUCTURAL = ("acts", "stiffness", "ribs", "own_x", "mesh", "bed", "lift", "raised", "footprints", "hinged")
"""Keys of structural surfaces beside their material and thickness."""
CARRIED = ("deck", "bearing", "carry")
"""What surfaces say that hand their loads on."""
EDGE = re.compile(r"(?P<surface>.+)/(?P<edge>\d+)")
FEWEST, MOST = 1e-3, 1e3
"""Between these shares of a surface's size a length of mesh makes sense."""


def is_structural(entry: Entry) -> bool:
    """Whether a surface says what it is made of."""
    return entry.has("material") or entry.has("thickness")


def read_plate(entry: Entry, parts: Parts, book: NodeBook) -> Plate | None:
    """What a structural surface is made of."""
    for key in CARRIED:
        if entry.has(key):
            entry.error(
                "wrong-key", f"{entry.what} is structural, since it has a material and a thickness: it has no `{key}`",
                f"take `{key}` out; or take out material and thickness, so that it hands its loads on", key,
            )  # fmt: skip
    name = entry.text("material")
    material = parts.material(entry, name) if name is not None else None
    thickness = entry.quantity("thickness")
    acts = entry.word("acts", PlateActs)
    table = entry.child("stiffness").known()
    factors = [_pair(table, key) for key in ("bending", "stretching")]
    along = direction_in(entry, "own_x", book) if entry.has("own_x") else None
    mesh = entry.quantity("mesh") if entry.has("mesh") else None
    bed = entry.quantity("bed")
    for key, value in (("thickness", thickness), ("mesh", mesh)):
        if value is not None and value <= 0:
            entry.error("bad-quantity", f"{entry.what}.{key} must be positive", "", key)
            return None
    if bed is not None and bed < 0:
        entry.error("bad-quantity", f"{entry.what}.bed must not be negative", "", "bed")
        return None
    if bed and acts == PlateActs.STRETCHING:
        entry.error("wrong-key", f"{entry.what} only stretches: a bed cannot hold it", "let it bend", "bed")
        return None
    ribs = _ribs(entry) if entry.has("ribs") else None
    if entry.has("ribs") and ribs is None:
        return None
    raised = entry.quantity("raised")
    lift = entry.flag("lift")
    if lift and not bed:
        entry.error(
            "unrestrained", f"{entry.what} has lift = true, but no bed", "give it a bed, or take it out", "lift"
        )
    hinged = _hinged(entry)
    if material is None or thickness is None or acts is None or bed is None or raised is None or None in factors:
        return None
    if hinged is None or (entry.has("own_x") and along is None):
        return None
    return Plate(
        material, thickness, acts, factors[0], factors[1],  # type: ignore[arg-type]
        None if along is None else along, mesh, bed, lift, entry.flag("footprints"), raised, hinged, ribs,
    )  # fmt: skip


def plates_by(parts: Parts, book: NodeBook) -> ReadPlate:
    """What reads whether a surface is structural, and what it then is, with the materials of a model."""

    def read(entry: Entry) -> tuple[bool, Plate | None]:
        if is_structural(entry):
            return True, read_plate(entry, parts, book)
        refuse_structural_keys(entry)
        return False, None

    return read


def refuse_structural_keys(entry: Entry) -> None:
    """Keys that mean something on structural surfaces alone."""
    for key in STRUCTURAL:
        if entry.has(key):
            entry.error("wrong-key", f"{entry.what} has `{key}`, but is no structural surface",
                        "give it a material and a thickness, or take it out", key)  # fmt: skip


def _ribs(entry: Entry) -> Ribs | None:
    table = entry.child("ribs").known()
    sizes = [table.quantity(key) for key in ("depth", "width", "spacing")]
    if any(v is None for v in sizes):
        return None
    for key, value in zip(("depth", "width", "spacing"), sizes, strict=True):
        if value is not None and value <= 0:
            table.error("bad-quantity", f"{table.what}.{key} must be positive", "", key)
            return None
    ribs = Ribs(*sizes)  # type: ignore[arg-type]
    if ribs.spacing < ribs.width:
        table.error("bad-quantity", f"{table.what}: ribs {ribs.width:g} m wide overlap at a spacing of "
                    f"{ribs.spacing:g} m", "spacing is from middle to middle", "spacing")  # fmt: skip
        return None
    return ribs


def _hinged(entry: Entry) -> tuple[int, ...] | None:
    """The edges along which it is hinged, from 0 on."""
    if not entry.has("hinged"):
        return ()
    value, corners = entry.data["hinged"], entry.data.get("corners")
    edges = len(corners) if isinstance(corners, list) else 0
    if value == "all":
        return tuple(range(edges))
    values = value if isinstance(value, list) else [value]
    if not all(type(v) is int and 1 <= v <= edges for v in values) or len(set(values)) < len(values):
        entry.error("bad-list", f"{entry.what}.hinged = {shown(value)}",
                    f'list numbers of its {edges} edges, each once, or write "all"; edge 1 goes from its first corner '
                    "to its second", "hinged")  # fmt: skip
        return None
    return tuple(v - 1 for v in sorted(values))


def _pair(table: Entry, key: str) -> tuple[float, float] | None:
    """One factor, or one along each of the surface's own axes."""
    value = table.data.get(key, 1.0)
    values = value if isinstance(value, list) else [value]
    if len(values) not in (1, 2):
        table.error("bad-quantity", f"{table.what}.{key} = {shown(value)}", "write one factor, or [along x, along y]",
                    key)  # fmt: skip
        return None
    read = [table.as_quantity(v, key) for v in values]
    if None in read:
        return None
    if min(v for v in read if v is not None) <= 0:
        table.error("bad-quantity", f"{table.what}.{key} = {shown(value)}: must be positive",
                    'a surface that does not bend at all says acts = "stretching"', key)  # fmt: skip
        return None
    return read[0], read[-1]  # type: ignore[return-value]


def read_line_supports(model: Entry, grounds: Grounds, plane: bool) -> list[LineSupport]:
    """The entries of [[supports]] that are along lines."""
    out = []
    for entry in model.entries("supports"):
        if not entry.has("along"):
            continue
        entry = entry.seen_as(LINE_SUPPORT).known()
        if plane:
            entry.error("wrong-key", "a plane model has no surfaces to support along a line", "name nodes by `at`",
                        "along")  # fmt: skip
            continue
        words = list(LINE_SUPPORT["spring"].takes.form.names)  # type: ignore[union-attr]
        axes = axes_of(entry, plane)
        held = held_by(entry, words) if entry.has("fix") else (False,) * 6
        spring = springs_of(entry, words) if entry.has("spring") else (0.0,) * 6
        if not any(entry.has(k) for k in ("fix", "spring")):
            entry.missing("fix")
        lines = _lines(entry, grounds)
        if held is None or spring is None or lines is None:
            continue
        for name, points in lines:
            out.append(LineSupport(name, points, held, entry.place, spring, axes=axes))
    return out


Lines = list[tuple[str, tuple[tuple[float, float, float], ...]]]


def _lines(entry: Entry, grounds: Grounds) -> Lines | None:
    """The lines that are meant: points in order, an edge of a surface, or all its outer edges."""
    value = entry.data["along"]
    if isinstance(value, str):
        found = EDGE.fullmatch(value)
        name = found["surface"] if found else value
        if name not in grounds.index:
            if name not in grounds.unread:
                entry.error("unknown-name", f"support along {value}: there is no surface {name}",
                            did_you_mean(name, list(grounds.index)), "along")  # fmt: skip
            return None
        surface = grounds.surfaces[grounds.index[name]]
        if surface.plate is None:
            entry.error("wrong-key", f"support along {value}: surface {name} is no structural surface",
                        "give it a material and a thickness, or support nodes by `at`", "along")  # fmt: skip
            return None
        corners = surface.corners
        edges = [(corners[i], corners[(i + 1) % len(corners)]) for i in range(len(corners))]
        if found is None:
            return [(f"{name}/{i + 1}", edge) for i, edge in enumerate(edges)]
        number = int(found["edge"])
        if not 1 <= number <= len(edges):
            entry.error("unknown-name", f"support along {value}: surface {name} has {len(edges)} edges",
                        "edge 1 goes from its first corner to its second", "along")  # fmt: skip
            return None
        return [(value, edges[number - 1])]
    if not isinstance(value, list) or len(value) < 2:
        entry.error("bad-line", f"support along = {shown(value)}",
                    'name an edge ("slab/1"), all edges ("slab"), or two points or more', "along")  # fmt: skip
        return None
    points = [read_point(entry, "along", v, grounds.book) for v in value]
    if None in points:
        return None
    steps = np.linalg.norm(np.diff(np.array(points, float), axis=0), axis=1)
    if steps.min() < 1e-3:
        entry.error("bad-line", f"support along = {shown(value)} goes from a point to itself", "name other points",
                    "along")  # fmt: skip
        return None
    words = " to ".join(v if isinstance(v, str) else f"({', '.join(f'{c:g}' for c in p)})"
                        for v, p in zip(value, points, strict=True) if p is not None)  # fmt: skip
    return [(words, tuple(points))]  # type: ignore[arg-type]
