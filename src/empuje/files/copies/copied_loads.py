"""What holds and loads copies: the supports, settlements and loads of what they are of, moved with it.

A load or support that names copies itself is theirs already, and is not brought once more.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np
import shapely

from ...core.model.cases import Case
from ...core.model.findings import did_you_mean, listed
from ...core.model.frame import ON_LINE_TOLERANCE, LineSupport, Node, Support, member_axes
from ...core.model.loads import DescribedLoad, NodeLoad, PointLoad, Settlement, Strain
from ...core.model.moved import (
    moved_line_support,
    moved_load,
    moved_node_load,
    moved_settlement,
    moved_support,
    moved_surface_load,
)
from ...core.model.near import Floats
from ...core.model.surfaces import Surface, SurfaceForce, SurfaceLoad, SurfaceStrain
from ...core.surfaces.plane import Outline, plane_of
from .copies import Copied, by_entry

SIDEWAYS = ("wind", "seismic")


def copied_supports(copies: Sequence[Copied], supports: list[Support], settled: list[Settlement]) -> None:
    """Adds the supports of copies at nodes of their own, and their settlements."""
    written = {_entry_at(s, s.node) for s in supports}
    for each in by_entry(copies):
        before = tuple(supports), tuple(settled)
        for copied in each if each[0].with_supports else ():
            for one in before[0]:
                if copied.own(one.node):
                    if _entry_at(one, copied.nodes[one.node]) not in written:
                        supports.append(moved_support(one, copied.motion, copied.nodes[one.node]))
                elif one.node in copied.nodes:
                    copied.met.add(one.node)
            for s in before[1]:
                on = tuple(copied.nodes[n] for n in s.nodes if copied.own(n) and copied.nodes[n] not in s.nodes)
                if on and copied.brings(s.case):
                    settled.append(moved_settlement(s, copied.motion, on, copied.name))


def copied_line_supports(
    copies: Sequence[Copied], lines: Sequence[LineSupport], surfaces: Sequence[Surface]
) -> list[LineSupport]:
    """The supports along lines with those of copies: of every line that lies on a surface which is copied."""
    out = list(lines)
    for each in by_entry(copies):
        before = tuple(out)
        for copied in each if each[0].with_supports else ():
            own = [outline for i in copied.surfaces for outline in [plane_of(surfaces[i])[0]] if outline is not None]
            for line in before:
                points = np.array(line.points)
                if any(_lies_on(points, outline) for outline in own):
                    out.append(moved_line_support(line, copied.motion, f"{line.name}~{copied.name}"))
    return out


def _lies_on(points: Floats, outline: Outline) -> bool:
    off = np.abs(outline.height(points)).max()
    beside = shapely.distance(outline.polygon, shapely.points(outline.flat(points))).max()
    return bool(max(off, beside) <= ON_LINE_TOLERANCE)


def _entry_at(s: Support, node: int) -> tuple[object, ...]:
    """What tells the entry of a support at a node from others."""
    return s.place, s.held, s.spring, s.lift, node


def refuse_unknown_cases(copies: Sequence[Copied], known: Sequence[str]) -> None:
    """Reports cases that a copy brings loads of and that are not there."""
    for copied in copies:
        for case in copied.cases or ():
            if case not in known:
                copied.entry.error("unknown-name", f"{copied.entry.what}.loads: there is no case {case}",
                                   did_you_mean(case, known), "loads")  # fmt: skip


def copied_loads(
    copies: Sequence[Copied],
    loads: list[DescribedLoad],
    surface_loads: list[SurfaceLoad],
    nodes: Sequence[Node],
    ends: np.ndarray,
    rolls: Floats,
    cases: Sequence[Case],
) -> None:
    """Adds the loads of copies: on members, surfaces and nodes of their own; tells cases that a copy does not bring,
    and loads that a mirror image turns against those they are copies of."""
    written = [frozenset(load.nodes if isinstance(load, NodeLoad | Settlement) else load.members) for load in loads]
    on_surfaces = _on_surfaces(surface_loads)
    action = {c.name: c.action for c in cases}
    for each in by_entry(copies):
        before = tuple(zip(loads, written, strict=True)), tuple(zip(surface_loads, on_surfaces, strict=True))
        unloaded: dict[str, None] = {}
        for copied in each:
            against: dict[str, list[str]] = {}
            for load, named in before[0]:
                if isinstance(load, Settlement):
                    continue
                on = load.nodes if isinstance(load, NodeLoad) else load.members
                own = [i for i in on if (copied.own(i) if isinstance(load, NodeLoad) else i in copied.members)]
                if not copied.brings(load.case):
                    unloaded |= dict.fromkeys([load.case] if own else [])
                    continue
                if isinstance(load, NodeLoad):
                    images = tuple(copied.nodes[n] for n in own if copied.nodes[n] not in named)
                    more: list[DescribedLoad] = (
                        [moved_node_load(load, copied.motion, images, copied.name)] if images else []
                    )
                    copied.met |= {n for n in load.nodes if n in copied.nodes and not copied.own(n)}
                else:
                    placed = {m: copied.members[m] for m in own if copied.members[m][0] not in named}
                    more = [*moved_load(load, copied.motion, placed, copied.name)]
                loads += more
                written += [named] * len(more)
                if more and _turns_round(load, own, copied, nodes, ends, rolls):
                    against.setdefault(load.case, []).append(load.text)
            for one, surfaces in before[1]:
                image = copied.surfaces.get(one.surface)
                if image is None:
                    continue
                if not copied.brings(one.case):
                    unloaded[one.case] = None
                elif image not in surfaces:
                    surface_loads.append(moved_surface_load(one, copied.motion, image, copied.name))
                    on_surfaces.append(surfaces)
                    way = None if isinstance(one, SurfaceStrain) or one.direction.local else one.direction.vector
                    if way is not None and _round(copied, np.array([way])):
                        against.setdefault(one.case, []).append(one.text)
            there = [nodes[copied.nodes[n]].name for n in sorted(copied.met) if copied.nodes[n] != n]
            copied.say("nodes", there, "what holds or loads the copy there is not brought")
            _say_against(copied, against, action)
        _say_unloaded(each[0], list(unloaded))


def _on_surfaces(loads: Sequence[SurfaceLoad]) -> list[frozenset[int]]:
    """For each load the surfaces that its entry names: there is one load for every one of them."""
    together: dict[object, set[int]] = {}
    keys = []
    for load in loads:
        if isinstance(load, SurfaceStrain):
            what: tuple[object, ...] = (load.rise, load.gradient)
        else:
            what = (load.value if isinstance(load, SurfaceForce) else load.values, load.direction)
        keys.append((load.case, load.place, type(load), what))
        together.setdefault(keys[-1], set()).add(load.surface)
    return [frozenset(together[key]) for key in keys]


def _turns_round(
    load: DescribedLoad, on: Sequence[int], copied: Copied, nodes: Sequence[Node], ends: np.ndarray, rolls: Floats
) -> bool:
    """Whether a force of a mirror image acts against the one it is a copy of."""
    if not copied.motion.mirrors or isinstance(load, Strain | Settlement):
        return False
    if isinstance(load, PointLoad | NodeLoad) and load.kind == "moment":
        return False
    ways = np.array([load.direction.vector])
    if load.direction.local:
        some = list(on)
        start, end = (np.array([nodes[n].xyz for n in ends[some, k]]) for k in (0, 1))
        ways = np.einsum("j,njk->nk", ways[0], member_axes(start, end, rolls[some]))
    return _round(copied, ways)


def _round(copied: Copied, ways: Floats) -> bool:
    """Whether any of the directions (n, 3) is turned round rather than kept."""
    return copied.motion.mirrors and bool((np.einsum("ni,ni->n", ways, ways @ copied.motion.R.T) < -0.5).any())


def _say_against(copied: Copied, against: Mapping[str, list[str]], action: Mapping[str, str]) -> None:
    for case, texts in against.items():
        sideways = action.get(case) in SIDEWAYS
        copied.entry.notes.say(
            "warning" if sideways else "note", "mirrored-against", copied.entry.path,
            f"copy {copied.name} mirrors case {case}: {listed(texts, 2)} acts against what it is a copy of "
            "there, and the two cancel",
            "name the cases it brings, without this one: loads = [...]; or accept it where that is intended",
            about=(case, copied.name),
        )  # fmt: skip


def _say_unloaded(copied: Copied, cases: Sequence[str]) -> None:
    """That loads on what it is of are not brought."""
    if cases:
        name = copied.entry.data.get("name", copied.name)
        copied.entry.notes.say(
            "note", "copies-unloaded", copied.entry.path,
            f"copy {name} does not bring the loads of {listed(list(cases))}: selectors of loads mean what was written",
            f'load the copy by its own names (with ~{name}), or say loads = true', about=tuple(cases),
        )  # fmt: skip
