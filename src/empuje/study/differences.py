"""Two models compared: what is written, the loads, what governs, the limits.

>>> found = compared(Study.read("old.toml"), Study.read("new.toml"))       # doctest: +SKIP
>>> [c.group for c in found.changes if c.turned]                           # doctest: +SKIP
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

from ..core.answers.changes import Change, Facts, Governing, changes, facts, load_changes, value_changes
from ..core.model.words import Part
from .decisions import decisions
from .study import Study
from .verdicts import judged

if TYPE_CHECKING:
    from ..core.analysis.solution import Solution
    from ..core.answers.table import Kind, Table
    from ..core.model.results import Result

TOLERANCE = 1e-3
"""Results that differ by no more than this share are told to be the same."""


@dataclass(frozen=True)
class Compared:
    """What changed; the results without an answer in either model, by model; and under what values are compared."""

    changes: list[Change]
    failed: tuple[list[str], list[str]]
    under: tuple[int, int]

    @property
    def turned(self) -> list[Change]:
        """The limits that were met and are not any more, or are new and not met."""
        return [c for c in self.changes if c.turned]

    @property
    def lost(self) -> list[str]:
        """The results that had an answer, or are new, and have none."""
        return [name for name in self.failed[1] if name not in self.failed[0]]


def compared(old: Study, new: Study, under: Sequence[str] = (), tolerance: float = TOLERANCE) -> Compared:
    """What differs between two models: governing values under the named results of each (default: all combinations),
    where they differ by more than a share. Raises NothingMeant, ModelError."""
    out = changes(*({**facts(s.resolved), **_written(s), **_decided(s)} for s in (old, new)))
    out += load_changes(old.resolved, new.resolved)
    values, failed, counts = [], [], []
    for study in (old, new):
        results = study.under_combinations(under)
        solution = study.solution(results)
        standing = [r for r in results if r not in solution.failed]
        failed.append([r.name for r in results if r in solution.failed])
        counts.append(len(results))
        values.append(_governing(solution, standing))
    for part in (Part.REACTION, Part.FORCE, Part.DISPLACEMENT):
        out += value_changes(part, values[0][part], values[1][part], tolerance)
    out += _limits(old, new, tolerance)
    order = {part: i for i, part in enumerate(Part)}
    return Compared(sorted(out, key=lambda c: order[c.part]), (failed[0], failed[1]), (counts[0], counts[1]))


TOLD_AS_PARTS = (
    "nodes", "materials", "sections", "members", "supports", "cases", "loads", "copies", "makers", "include",
)  # fmt: skip
"""Tables that are compared by what they come to."""
OF_THE_MODEL = ("title", "number", "author", "revision", "date", "space", "analysis")
"""Keys of [project] that are told of the model."""


def _written(study: Study) -> Facts:
    """Every key of the other tables, as it is written: values, wind, traffic, steel, limits, what is accepted, ..."""
    own: dict[str, tuple[str, dict[str, tuple[str | float | None, Kind]]]] = {}

    def walk(path: str, value: object) -> None:
        if isinstance(value, dict):
            for key, inner in value.items():
                walk(f"{path}.{key}" if path else key, inner)
        elif isinstance(value, list) and value and all(isinstance(v, dict) for v in value):
            for i, inner in enumerate(value, start=1):
                name = inner.get("name") or inner.get("finding") or i
                walk(f"{path}[{name}]", inner)
        else:
            own[path] = (path.split(".")[0].split("[")[0], {"value": (str(value), "text")})

    for table, data in study.reading.written.items():
        if table == "project":
            data = {key: value for key, value in data.items() if key not in OF_THE_MODEL}
        if table not in TOLD_AS_PARTS:
            walk(table, data)
    return {Part.WRITTEN: own}


def _decided(study: Study) -> Facts:
    """What the program took by itself."""
    return {Part.DECISION: {
        f"{d.what} of {', '.join(d.about)}" if d.about else d.what: ("", {"taken": (d.taken, "text")})
        for d in decisions(study)
    }}  # fmt: skip


def _governing(solution: Solution, results: Sequence[Result]) -> dict[Part, Governing]:
    """The governing reactions of each support, the largest forces of each family, the largest displacement."""
    import numpy as np

    from ..core.answers.envelope import envelope
    from ..core.answers.governing import furthest_nodes, governing_forces, governing_reactions

    out: dict[Part, Governing] = {Part.REACTION: {}, Part.FORCE: {}, Part.DISPLACEMENT: {}}
    if not results:
        return out
    if len(solution.support_node):
        table = governing_reactions(solution, results)
        for i, node in enumerate(table["node"].tolist()):
            of = str(table["extreme"][i])
            value = (
                table["Fz"][i] if of.startswith("Fz") else np.hypot(*np.nan_to_num([table["Fx"][i], table["Fy"][i]]))
            )
            if np.isfinite(value):
                out[Part.REACTION]["", node, of] = float(value), "force", str(table["case"][i])
    every = np.arange(len(solution.project.members))
    table = governing_forces(solution, envelope(solution, results, every))
    for i, family in enumerate(table["family"].tolist()):
        kind = "moment" if np.isnan(table["force"][i]) else "force"
        made_by = f"{table['member'][i]} under {table['case'][i]}"
        out[Part.FORCE][family, "", str(table["of"][i])] = float(table[kind][i]), kind, made_by  # type: ignore[assignment]
    still = [r for r in results if not r.moving]
    if still:
        moved: Table = furthest_nodes(solution, still, np.arange(len(solution.project.nodes)))
        k = int(moved["u"].argmax())
        made_by = f"{moved['node'][k]} under {moved['case'][k]}"
        out[Part.DISPLACEMENT]["", "", "largest of a node"] = float(moved["u"][k]), "displacement", made_by
    return out


def _limits(old: Study, new: Study, tolerance: float) -> list[Change]:
    """Limits that turned, by the share of their bound that is used; those added and gone, and bounds changed."""
    sides = []
    for study in (old, new):
        found = judged(study).outcomes if study.project.limits else []
        sides.append({(o.limit.name, o.bound.of): o for o in found})
    out: list[Change] = []
    for key in dict.fromkeys([*sides[0], *sides[1]]):
        a, b = (side.get(key) for side in sides)
        made_by = tuple(f"{o.place} under {o.case}" if o is not None and o.case else "" for o in (a, b))
        before, after = (None if o is None else float(o.used) for o in (a, b))
        turned = None
        if b is not None and b.fails and (a is None or not a.fails):
            turned = True
        elif a is not None and a.fails and b is not None and not b.fails:
            turned = False
        same = before is not None and after is not None and abs(after - before) <= tolerance * max(before, after)
        if turned is not None or not (same or before == after):
            out.append(
                Change(Part.LIMIT, key[0], (), key[1], before, after, "factor", turned, (made_by[0], made_by[1]))
            )
        if a is not None and b is not None and a.bound.written != b.bound.written:
            out.append(Change(Part.LIMIT, key[0], (), f"{key[1]}, required", a.bound.written, b.bound.written))
    return out
