"""What a shell completes: commands and options, files, and the names in the model that stands in the line."""

from __future__ import annotations

import argparse
from collections.abc import Callable, Iterable
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from ..study.study import Study

MOST = 400
"""More names than anyone looks through are not listed."""


def complete(parser: argparse.ArgumentParser) -> None:
    """Answers a shell that asks, and ends; the shell's own variables say what is asked."""
    import argcomplete

    _attach(parser)
    argcomplete.autocomplete(parser, validator=lambda word, prefix: word.startswith(prefix))


def _attach(parser: argparse.ArgumentParser) -> None:
    """Tells the options of every command where their words come from."""
    import argcomplete

    of_model = {"--on": _places, "--under": _results, "--limit": _limits, "--set": _values}
    for action in parser._actions:
        if isinstance(action, argparse._SubParsersAction):
            for command in action.choices.values():
                _attach(command)
        elif action.dest == "model":
            action.completer = argcomplete.FilesCompleter(("toml",))  # type: ignore[attr-defined]
        elif "--sections" in action.option_strings:
            action.completer = _sections  # type: ignore[attr-defined]
        else:
            for option in action.option_strings:
                if option in of_model:
                    action.completer = _from_model(of_model[option])  # type: ignore[attr-defined]


def _from_model(names: Callable[[Study, str], Iterable[str]]) -> Callable[..., list[str]]:
    """Words of the model in the line; the last one of several with commas between. None where it cannot be read."""

    def words(prefix: str, parsed_args: Any, **_: Any) -> list[str]:
        from ..study.study import Study

        head, comma, last = prefix.rpartition(",")
        bang = "!" if last.startswith("!") else ""
        try:
            study = Study.read(parsed_args.model, cache=False, quick=True)
        except (ValueError, OSError):
            return []
        known = dict.fromkeys(n for n in names(study, last[len(bang) :]) if n.startswith(last[len(bang) :]))
        return [f"{head}{comma}{bang}{name}" for name in list(known)[:MOST]]

    return words


def _places(study: Study, begun: str) -> Iterable[str]:
    """Families, and where one is begun its members; surfaces and nodes."""
    project = study.project
    families = dict.fromkeys(m.family for m in project.members)
    members = (m.name for m in project.members if "/" in begun)
    return [*families, *members, *(s.name for s in project.surfaces), *(n.name for n in project.nodes)]


def _results(study: Study, begun: str) -> Iterable[str]:
    resolved = study.resolved
    sets = dict.fromkeys(word for c in resolved.combinations for word in (c.set, *c.rule_sets))
    return ["cases", "combinations", *sets, *study.project.case_names, *(c.name for c in resolved.combinations)]


def _limits(study: Study, begun: str) -> Iterable[str]:
    return [limit.name for limit in study.project.limits]


def _values(study: Study, begun: str) -> Iterable[str]:
    return [f"{name}=" for name in study.values]


def _sections(prefix: str, **_: Any) -> list[str]:
    from ..core.catalogue.catalogue import section_names

    head, comma, last = prefix.rpartition(",")
    found = [name for name in section_names() if name.startswith(last.lstrip())]
    return [f"{head}{comma}{name}" for name in found[:MOST]]
