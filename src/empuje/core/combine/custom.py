"""Combinations that the model writes itself, with live loads in patterns as those of codes have them.

Where results are sums, a case in patterns may be absent and envelopes take the worst of all patterns; else the patterns
are combinations of their own, which the combination's name means together.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from itertools import product

from ..model.cases import Combination
from ..model.findings import Finding
from ..model.project import Project
from ..model.words import How

MOST = 1024
"""Patterns of one combination that are listed one by one."""


def with_patterns(project: Project, custom: Sequence[Combination]) -> tuple[list[Combination], list[Finding]]:
    """The combinations with what of them may be absent, and more for patterns that have to be listed."""
    out: list[Combination] = []
    findings: list[Finding] = []
    cases = {c.name: c for c in project.cases}
    for one in custom:
        bundles: dict[str, list[str]] = {}
        for name, factor in one.factors:
            case = cases[name]
            if case.pattern and factor:
                # Loads that act together come and go together.
                bundles.setdefault(f" {case.together}" if case.together else name, []).append(name)
        summed = project.how(one) == How.SUMMED
        free = tuple(b[0] for b in bundles.values() if len(b) == 1) if summed else ()
        listed = [b for b in bundles.values() if len(b) > 1 or not summed]
        if 2 ** len(listed) > MOST:
            message = f"combination {one.name} has 2^{len(listed)} patterns, each of which would be analysed by itself"
            findings.append(Finding("error", "too-many", message, "give loads that act at once one `together`, or join "
                                    "them in a case", one.place))  # fmt: skip
            continue
        for there in product((True, False), repeat=len(listed)):
            absent = [name for bundle, is_there in zip(listed, there, strict=True) if not is_there for name in bundle]
            pattern = replace(one.less(absent), origins=(one.name,)) if absent else one
            out.append(replace(pattern, free=(*one.free, *(name for name in free if name not in one.free))))
    return out, findings
