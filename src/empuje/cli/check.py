"""empuje check MODEL"""

from __future__ import annotations

import argparse
from typing import TYPE_CHECKING

from . import FINE, NOT_MET, common, flags, saying

if TYPE_CHECKING:
    from ..core.model.findings import Finding
    from ..study import Checked, Study


def options(command: argparse.ArgumentParser) -> None:
    flags.add_model(command)
    command.add_argument(
        "--deep", action="store_true",
        help="analyse every combination of second order too, instead of showing that it is below its critical load",
    )  # fmt: skip


def run(arguments: argparse.Namespace) -> int:
    from ..core.model.findings import in_short
    from ..study import ModelError

    study = common.study(arguments)
    findings = list(study.findings)
    failed: list[Finding] = []
    if study.sound:
        try:
            checked = common.watched(study, lambda: study.checked(arguments.deep))
        except ModelError as error:
            findings += error.findings
        else:
            failed = checked.failed
            findings += checked.findings
            saying.tell(_headline(study, checked, sum(f.level == "error" for f in failed)))
    for finding in [*in_short(failed), *in_short(findings)]:
        saying.tell(str(finding))
    findings += failed
    count = {level: sum(f.stands_for for f in findings if f.level == level) for level in ("error", "warning", "note")}
    print(", ".join(f"{n:,} {level}{'' if n == 1 else 's'}" for level, n in count.items()))
    return NOT_MET if count["error"] else FINE


def _headline(study: Study, checked: Checked, lost: int) -> str:
    project, results = study.project, study.resolved.results
    stands = f"{lost} of {len(results)} results have no stable answer" if lost else "stable"
    shallow = " by first order; those of second order are below their critical loads, and --deep analyses each"
    more = shallow if checked.shallow and not lost else " by first order" if checked.shallow else ""
    return (
        f"{project.file}: {len(project.members)} members, {len(project.nodes)} nodes, "
        f"{len({s.node for s in project.supports})} supports, {len(project.cases)} cases, "
        f"{len(study.resolved.combinations)} combinations; {stands}, loads and reactions balance to "
        f"{checked.worst:.0e}{more}"
    )
