"""empuje check MODEL"""

from __future__ import annotations

import argparse
from typing import TYPE_CHECKING

from . import FINE, NOT_MET, common

if TYPE_CHECKING:
    from ..core.model.findings import Finding


def options(command: argparse.ArgumentParser) -> None:
    common.add_model(command)


def run(arguments: argparse.Namespace) -> int:
    from ..core.answers.reactions import closing_error, result_findings
    from ..core.model.findings import in_short
    from ..study import ModelError

    study = common.study(arguments)
    findings = list(study.findings)
    failed: list[Finding] = []
    project = study.project
    if study.sound:
        try:
            solution = study.solution()
        except ModelError as error:
            findings += error.findings
        else:
            failed = solution.no_answer(list(solution.failed))
            findings += result_findings(solution)
            standing = [r for r in solution.results if r not in solution.failed]
            worst = float(closing_error(solution, standing).max(initial=0))
            lost = sum(f.level == "error" for f in failed)
            stands = f"{lost} of {len(solution.results)} results have no stable answer" if lost else "stable"
            print(
                f"{project.file}: {len(project.members)} members, {len(project.nodes)} nodes, "
                f"{len({s.node for s in project.supports})} supports, {len(project.cases)} cases, "
                f"{len(study.resolved.combinations)} combinations; {stands}, loads and reactions balance to {worst:.0e}"
            )
    for finding in [*in_short(failed), *findings]:
        print(finding)
    findings += failed
    count = {level: sum(f.level == level for f in findings) for level in ("error", "warning", "note")}
    print(", ".join(f"{n} {level}{'' if n == 1 else 's'}" for level, n in count.items()))
    return NOT_MET if count["error"] else FINE
