"""Findings for eyes, for programs, and for editors and CI servers (SARIF 2.1.0, an OASIS standard)."""

from __future__ import annotations

import json
from collections.abc import Sequence
from typing import Any

from ..core.model.findings import Finding

LEVELS = ("error", "warning", "note")
"""Ours, and SARIF's."""


def by_weight(findings: Sequence[Finding]) -> list[Finding]:
    """Errors first, then warnings, notes, and what is accepted."""
    return sorted(findings, key=lambda f: (bool(f.accepted), LEVELS.index(f.level)))


def counted(findings: Sequence[Finding]) -> str:
    """How many there are of each level, those accepted apart."""
    count = {level: sum(f.stands_for for f in findings if f.level == level and not f.accepted) for level in LEVELS}
    words = [f"{n:,} {level}{'' if n == 1 else 's'}" for level, n in count.items()]
    accepted = sum(f.stands_for for f in findings if f.accepted)
    return ", ".join([*words, *([f"{accepted:,} accepted"] if accepted else [])])


def as_json(findings: Sequence[Finding]) -> str:
    """A list of objects, one a finding."""
    rows = [
        {
            "level": f.level, "code": f.code, "message": f.message, "remedy": f.remedy, "file": f.place.file,
            "line": f.place.line or None, "about": list(f.about), "count": f.stands_for,
            "accepted": f.accepted or None,
        }
        for f in findings
    ]  # fmt: skip
    return json.dumps(rows, indent=1, ensure_ascii=False) + "\n"


def as_sarif(findings: Sequence[Finding], version: str) -> str:
    """A log of one run; what is accepted is suppressed with its reason."""
    codes = sorted({f.code for f in findings})
    results = []
    for f in findings:
        where: dict[str, Any] = {"artifactLocation": {"uri": f.place.file.replace("\\", "/").replace(" ", "%20")}}
        if f.place.line:
            where["region"] = {"startLine": f.place.line}
        text = f.message + (f"; {f.remedy}" if f.remedy else "")
        row: dict[str, Any] = {
            "ruleId": f.code, "ruleIndex": codes.index(f.code), "level": f.level, "message": {"text": text},
            "locations": [{"physicalLocation": where}],
        }  # fmt: skip
        if f.accepted:
            row["suppressions"] = [{"kind": "inSource", "justification": f.accepted}]
        results.append(row)
    driver = {"name": "empuje", "version": version, "rules": [{"id": code} for code in codes]}
    log = {
        "$schema": "https://docs.oasis-open.org/sarif/sarif/v2.1.0/errata01/os/schemas/sarif-schema-2.1.0.json",
        "version": "2.1.0",
        "runs": [{"tool": {"driver": driver}, "columnKind": "unicodeCodePoints", "results": results}],
    }
    return json.dumps(log, indent=1, ensure_ascii=False) + "\n"
