"""A solution as plain arrays under names, and back: what a store keeps.

Nothing in the arrays is code or an object; the model itself is not in them, it is read anew.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import fields, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy import sparse

from ..model.findings import Finding, Place
from ..model.frame import Node
from ..model.words import How
from ..resolved import Resolved
from .applied import gained
from .mesh import Mesh
from .solution import Columns, Solution
from .terms import FreeStrains, Terms

Arrays = Mapping[str, NDArray[Any]]
PLAIN = (
    "displacement", "undefined", "start_force", "slipping", "slip", "support_node", "held", "reaction", "centre",
    "slope", "at", "mix",
)  # fmt: skip


def pack(solution: Solution) -> dict[str, NDArray[Any]]:
    """All that analysis added to the model."""
    out: dict[str, NDArray[Any]] = {name: getattr(solution, name) for name in PLAIN}
    out |= {f"mesh.{f.name}": getattr(solution.mesh, f.name) for f in fields(Mesh)}
    out |= {f"terms.{name}": getattr(solution.terms, name) for name in ("element", "lane", "order", "a")}
    tables = {"terms.value": solution.terms.value}
    tables |= {f"strains.{f.name}": getattr(solution.strains, f.name) for f in fields(FreeStrains)}
    for name, table in tables.items():
        out |= {f"{name}.data": table.data, f"{name}.indices": table.indices, f"{name}.indptr": table.indptr}
        out[f"{name}.shape"] = np.array(table.shape)
    out["results"] = np.array([r.index for r in solution.results], np.intp)
    out["how"] = np.array([str(h) for h in solution.how_each])
    out["numbers"] = np.array([solution.softest, *_range(solution.reductions)])
    out["second_order_from"] = np.array([-1 if solution.second_order_from is None else solution.second_order_from])
    out["failed"] = np.array([r.index for r in solution.failed], np.intp)
    out["failed.text"] = np.array([_words(f) for f in solution.failed.values()]).reshape(-1, 6)
    out["gained"] = gained(solution)
    more = solution.project.nodes[len(solution.model.analysed.nodes) :]
    out["nodes.xyz"] = np.array([n.xyz for n in more], float).reshape(-1, 3)
    out["nodes.text"] = np.array([(n.name, n.place.file, str(n.place.line)) for n in more]).reshape(-1, 3)
    return out


def _range(columns: slice) -> tuple[int, int]:
    return columns.start, columns.stop


def _words(finding: Finding) -> tuple[str, ...]:
    place = finding.place
    return finding.level, finding.code, finding.message, finding.remedy, place.file, str(place.line)


def unpack(model: Resolved, arrays: Arrays) -> Solution:
    """The solution of a model from arrays that `pack` made of it. Raises KeyError, ValueError or IndexError where they
    are not what they should be."""
    project = model.analysed
    more = [
        Node(str(name), tuple(xyz.tolist()), Place(str(file), int(line)))
        for (name, file, line), xyz in zip(arrays["nodes.text"], arrays["nodes.xyz"], strict=True)
    ]
    if more:
        project = replace(project, nodes=(*project.nodes, *more))

    def table(name: str) -> sparse.csr_matrix:
        parts = arrays[f"{name}.data"], arrays[f"{name}.indices"], arrays[f"{name}.indptr"]
        return sparse.csr_matrix(parts, shape=tuple(arrays[f"{name}.shape"].tolist()))

    columns = {f.name: arrays[f"mesh.{f.name}"] for f in fields(Mesh)}
    element, lane, order, a = (arrays[f"terms.{name}"] for name in ("element", "lane", "order", "a"))
    terms = Terms(element, lane, order, a, table("terms.value"))
    strains = FreeStrains(*(table(f"strains.{f.name}") for f in fields(FreeStrains)))
    every = model.results
    failed = {}
    for i, text in zip(arrays["failed"].tolist(), arrays["failed.text"].tolist(), strict=True):
        level, code, message, remedy, file, line = text
        failed[every[i]] = Finding(level, code, message, remedy, Place(file, int(line)))
    softest, begin, stop = arrays["numbers"].tolist()
    bent = int(arrays["second_order_from"][0])
    plain: dict[str, Any] = {name: arrays[name] for name in PLAIN}
    solution = Solution(
        project=project, loads=model.loads, mesh=Mesh(**columns), terms=terms, strains=strains, softest=softest,
        reductions=slice(int(begin), int(stop)), second_order_from=None if bent < 0 else bent, model=model,
        results=tuple(every[i] for i in arrays["results"].tolist()),
        how_each=tuple(How(str(h)) for h in arrays["how"]), failed=failed, **plain,
    )  # fmt: skip
    _must_fit(solution)
    if arrays["gained"].shape != (6, len(solution.at)):
        raise ValueError("these sums are of other results")
    solution.__dict__["gained"] = arrays["gained"]
    return solution


def _must_fit(solution: Columns) -> None:
    """Raises ValueError where the arrays cannot be of this model."""
    nodes, elements = len(solution.project.nodes), len(solution.mesh.length)
    fits = len(solution.displacement) == nodes and len(solution.start_force) == elements
    if not fits or solution.mesh.member.max(initial=-1) >= len(solution.project.members):
        raise ValueError("these arrays are of another model")
