"""empuje verdict MODEL"""

from __future__ import annotations

import argparse
from typing import TYPE_CHECKING

from . import FINE, NOT_MET, Refusal, common, flags, outputs, saying

if TYPE_CHECKING:
    from ..core.answers.table import Table
    from ..core.verdict.outcome import Verdict

JUNIT = {"xml": "junit"}


def options(command: argparse.ArgumentParser) -> None:
    flags.add_model(command)
    command.add_argument(
        "--limit", action="append", default=[], metavar="NAME", help="only limits of these names (default: all)"
    )
    command.add_argument("--all", action="store_true", help="every place of each, not only the worst")
    flags.add_output(command, ("junit",))
    flags.add_cache(command)


def run(arguments: argparse.Namespace) -> int:
    from ..core.model.words import LimitKind
    from ..show.verdict_text import verdict_as_junit, verdict_as_markdown, verdict_for_eyes

    style = outputs.style_of(arguments, JUNIT)
    model = common.read(arguments)
    found = judge(model, names_of(model, arguments.limit), arguments.all)
    for finding in found.findings():
        saying.say(str(finding))
    outcomes, project = found.outcomes, model.project
    picked = outputs.picked(arguments)
    if style == "junit":
        outputs.put_text(verdict_as_junit(outcomes, model.display, project.file), arguments.output)
    elif style == "md" and not picked:
        title = project.title or project.file
        outputs.put_text(verdict_as_markdown(outcomes, model.display, title), arguments.output)
    else:
        outputs.put(table_of(model, found), model, arguments, verdict_for_eyes(outcomes, model.display))
        kinds = {o.limit.kind for o in outcomes}
        words = [word for kind, word in ((LimitKind.DEFLECTION, "span"), (LimitKind.STEEL, "steel")) if kind in kinds]
        if words:
            saying.say(f"What was decided for them: `empuje decisions MODEL --about {','.join(words)}`.")
    return NOT_MET if found.fails else FINE


def names_of(model: common.Model, words: list[str]) -> list[str] | None:
    """The limits asked for; None for all. Refuses where there are none, or none of a name."""
    from ..core.model.findings import did_you_mean

    known = [limit.name for limit in model.project.limits]
    if not known:
        raise Refusal(
            f"{model.study.path} has no limits: add [[limits]] with name, check, under and a bound; see "
            "docs/model-file.md"
        )
    names = flags.split(words)
    for name in names:
        if name not in known:
            raise Refusal(f"--limit: no limit is called {name}; {did_you_mean(name, known)}")
    return names or None


def judge(model: common.Model, names: list[str] | None, every: bool) -> Verdict:
    """The limits judged; a mechanism ends the command."""
    from ..study.verdicts import judged

    return common.refusing_mechanisms(model.study, lambda: judged(model.study, names, every))


def table_of(model: common.Model, found: Verdict) -> Table:
    """As a table in the model's display units."""
    from ..show.verdict_text import as_table

    return as_table(found.outcomes, model.display)
