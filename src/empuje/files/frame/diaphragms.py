"""Rigid floors of a model file."""

from __future__ import annotations

from ...core.model.frame import Diaphragm, Node, Support
from ..base.entry import Entry
from ..base.selectors import Names

LEVEL = 1e-3
"""Nodes of one floor lie within this height [m] of each other."""


def read_diaphragms(model: Entry, names: Names, nodes_of: list[Node], supports: list[Support]) -> list[Diaphragm]:
    """The floors that are rigid in plan, each with the nodes that move together."""
    out: list[Diaphragm] = []
    taken: dict[int, str] = {}
    for name, entry in model.child("diaphragms").children():
        entry.known()
        patterns = entry.texts("nodes")
        if patterns is None:
            continue
        nodes, missed = names.select_nodes(patterns)
        names.report(entry, missed, "nodes", f"diaphragm {name}: no node")
        if len(nodes) < 2:
            if not missed:
                entry.error("bad-diaphragm", f"diaphragm {name} has one node only", "name all nodes of the floor")
            continue
        height = [nodes_of[n].xyz[2] for n in nodes]
        if max(height) - min(height) > LEVEL:
            low, high = (names.nodes[nodes[height.index(f(height))]] for f in (min, max))
            entry.error("bad-diaphragm", f"diaphragm {name}: {low} and {high} are not at one level",
                        "a rigid floor is level; make two of it", "nodes")  # fmt: skip
        for node in nodes:
            if taken.setdefault(node, name) != name:
                entry.error("bad-diaphragm", f"{names.nodes[node]} is in diaphragms {taken[node]} and {name}",
                            "a node moves with one floor only", "nodes")  # fmt: skip
        held = {s.node for s in supports if s.held[0] or s.held[1] or s.held[5] or s.axes[2] != (0.0, 0.0, 1.0)}
        for node in held & set(nodes):
            entry.error("bad-diaphragm", f"{names.nodes[node]} moves with diaphragm {name} and is restrained in plan",
                        "leave it out of the diaphragm, or hold it by springs", "nodes")  # fmt: skip
        out.append(Diaphragm(name, tuple(nodes), entry.place))
    return out
