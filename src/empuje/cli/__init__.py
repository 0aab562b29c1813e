"""The command line: `empuje COMMAND MODEL ...`."""

from __future__ import annotations

import argparse
import contextlib
import importlib
import os
import re
import sys
from collections.abc import Sequence
from typing import Any, NoReturn

from .. import __version__
from . import threads

COMMANDS = {
    "check": "say everything that is wrong with a model, before and after the solve",
    "loads": "list what each case puts on each member and node, with totals",
    "wind": "wind by code: pressures by height, coefficients, zones, unclad members, totals",
    "snow": "snow by code: roofs from the ground load on, drifts, sliding, arrangements, totals",
    "sections": "list the catalogue of sections, with their properties",
    "materials": "list the materials that are built in, with their stiffness, density and strength",
    "combos": "list the combinations: what each is made of, by which clause, and how it will be analysed",
    "run": "do the whole job and write tables, pictures and a summary into a folder",
    "reactions": "reactions by node, with the balance of every case",
    "forces": "internal forces at positions along members",
    "displacements": "displacements of nodes, or along members",
    "envelope": "minimum and maximum forces, where, under what, and what goes with them",
    "traffic": "what moves: positions, results step by step, and the worst positions",
    "influence": "the influence line of a result along a way, as a table or drawn",
    "plates": "what governs in structural surfaces: moments, shears, forces in the plane; what passes through a cut",
    "why": "what makes a governing value: its combination, the part of each case, the loads behind it",
    "takedown": "loads taken down the columns level by level, beside the reactions; live-load reduction by member",
    "storeys": "centres of mass and rigidity, and stiffness, of floors, rigid or slabs",
    "decisions": "what the program decided by itself: what was taken, why, what else it could be, which key states it",
    "stability": "critical load factor, and whether second order is necessary",
    "members": "how much of its resistance each steel member uses by code, which check governs, where, under what",
    "verdict": "whether the model's limits are met: the utilisation of each, where, under what",
    "try": "other sections for families: which pass, the lightest first",
    "draw": "draw the frame, its loads, its deflected or buckled shape, or a force diagram",
    "report": "write the report a checker reads, as a page with the model in space, or as a PDF",
    "diff": "what changed between two models: members, loads, combinations, governing values, verdicts of limits",
    "expand": "write makers, runs and copies out as plain entries of a model file",
    "export": "write a model as tables, CSV or a workbook, that read back to the same results",
    "demo": "write the model of a packing house or of a gantry, run it, and say what to look at",
    "cache": "say what is kept of solved models to answer the next question sooner, or remove it",
    "new": "write a small commented model to start from",
    "schema": "print the JSON Schema of the model file, with which editors complete and check while one types",
    "completion": "print the script with which a shell completes commands, options and the names in a model",
    "watch": "check a model whenever it is saved, and do what is asked for once it has no errors",
    "help": "show a page of the documentation, or the part of one that a topic names",
}
DEMO = "packing-house/packing-house.toml"
EXAMPLES = {
    "check": f"{DEMO} --deep",
    "loads": f"{DEMO} --under Q --on joists",
    "wind": f"{DEMO} --part heights",
    "snow": f"{DEMO} --part drifts",
    "sections": "'IPE*' --least 'Iy=8000 cm4'",
    "materials": "'S*'",
    "combos": f"{DEMO} --under strength",
    "run": f"{DEMO} -o results",
    "reactions": f"{DEMO} --under strength --on '*1@base'",
    "forces": f"{DEMO} --on rafters --under strength --at 0%,50%,100%",
    "displacements": f"{DEMO} --under everyday --on '*@eave'",
    "envelope": f"{DEMO} --on 'rafters/B/*' --of My",
    "traffic": f"{DEMO} --worst",
    "influence": f"{DEMO} --along FL --on B1@base --of Fz",
    "plates": "packing-house/loading-platform.toml",
    "why": f"{DEMO} --on B1@base --of Fz --sense min",
    "takedown": DEMO,
    "storeys": DEMO,
    "decisions": f"{DEMO} --about steel",
    "stability": f"{DEMO} --under strength",
    "members": f"{DEMO} --on columns",
    "verdict": DEMO,
    "try": f"{DEMO} --on rafters --sections 'IPE 270 .. IPE 360'",
    "draw": f"{DEMO} My --elevation B --under U1+LX -o My.png",
    "report": f"{DEMO} -o report.html",
    "diff": f"{DEMO} packing-house/sorting-frame.toml",
    "expand": f"{DEMO} --on purlins",
    "export": f"{DEMO} -o tables",
    "demo": "gantry",
    "cache": "",
    "new": "frame.toml --like portal",
    "schema": "-o empuje.schema.json",
    "completion": "bash",
    "help": "notional load",
    "watch": f"{DEMO} -- draw loads --under WX1ap -o loads.png",
}
"""A call of each command, on the model that `empuje demo` writes."""
ABOUT = ("on", "under", "of", "at", "set", "along", "about", "part", "cut", "each")
OUTPUT = ("format", "output", "force", "sort", "rising", "rows", "display", "no_cache", "anyway", "paper")
FINE, NOT_MET, UNUSABLE, STOPPED = 0, 1, 2, 130


class Refusal(Exception):
    """The command cannot go on; the message says what, where and what to do."""

    def __init__(self, message: str, code: int = UNUSABLE) -> None:
        super().__init__(message)
        self.code = code


class _Parser(argparse.ArgumentParser):
    """Answers an unknown word with the nearest known one."""

    def error(self, message: str) -> NoReturn:
        """The message, which says what there is no such thing of."""
        from ..core.model.findings import did_you_mean, visible

        choice = re.search(r"argument (\S+): invalid choice: '(.*?)' \(choose from (.*)\)", message)
        if choice is not None:
            known = [word.strip(" '") for word in choice[3].split(",")]
            message = f"{choice[1]}: there is no {choice[2]}; {did_you_mean(choice[2], known)}"
        super().error(visible(message))

    def parse_args(self, args: Any = None, namespace: Any = None) -> Any:
        """As of any parser; an option that a command does not have is answered with the nearest that it has."""
        found, unknown = self.parse_known_args(args, namespace)
        if not unknown:
            return found
        commands = next(a for a in self._actions if isinstance(a, argparse._SubParsersAction))
        own = commands.choices[found.command]
        from ..core.model.findings import did_you_mean

        word = next((w.partition("=")[0] for w in unknown if w.startswith("-")), unknown[0])
        near = f"; {did_you_mean(word, own._option_string_actions)}" if word.startswith("-") else ""
        own.error(f"does not take {' '.join(unknown)}{near}")


def parser(only: str | None = None) -> argparse.ArgumentParser:
    """The whole command line. Each command's own options sit in its own module; of `only` one are all that is needed
    where it is the one that was called, and the others are names."""
    top = _Parser(
        prog="empuje", description="Loads, combinations, envelopes and governing reactions of building frames.",
        epilog="Exit codes: 0 fine, 1 a limit is not met or the model has an error, 2 the call or file is unusable, "
        "130 stopped.",
    )  # fmt: skip
    top.add_argument("--version", action="version", version=f"empuje {__version__}")
    commands = top.add_subparsers(dest="command", metavar="COMMAND", required=True)
    for name, about in COMMANDS.items():
        example = f"Example: empuje {name} {EXAMPLES[name]}".rstrip()
        command = commands.add_parser(name, help=about, description=about[0].upper() + about[1:] + ".", epilog=example)
        if only not in (None, name):
            continue
        module = importlib.import_module(f".{name}", __package__)
        module.options(command)
        _grouped(command)
        command.set_defaults(run=module.run)
    return top


def _grouped(command: argparse.ArgumentParser) -> None:
    """Options that commands share below those of its own: what an answer is about, and where and how it goes out."""
    for title, names in (("what it is about", ABOUT), ("output", OUTPUT)):
        group = command.add_argument_group(title)
        for action in [a for a in command._optionals._group_actions if a.dest in names]:
            command._optionals._group_actions.remove(action)
            group._group_actions.append(action)


def main(words: Sequence[str] | None = None) -> int:
    """Run one command; returns its exit code."""
    _open_streams()
    threads.begin_with_one()
    name = "empuje"
    wrote = False
    try:
        words = sys.argv[1:] if words is None else list(words)
        arguments = parser(words[0] if words and words[0] in COMMANDS else None).parse_args(words)
        name = f"empuje {arguments.command}"
        code = arguments.run(arguments)
        wrote = getattr(arguments, "wrote", False)
        sys.stdout.flush()
        return int(code)
    except Refusal as refusal:
        from ..core.model.findings import visible

        print(f"{name}: {visible(str(refusal))}", file=sys.stderr)
        return refusal.code
    except BrokenPipeError:
        # Whoever read our output has seen enough.
        _silence()
        return FINE
    except OSError as error:
        # What goes to files is refused by name; what is left is standard output, on a full disk or the like.
        _silence()
        where = error.filename or "standard output"
        print(f"{name}: {where} cannot be used: {error.strerror or error}", file=sys.stderr)
        return UNUSABLE
    except KeyboardInterrupt:
        print(f"{name}: stopped{'' if wrote else '; no output was changed'}", file=sys.stderr)
        return STOPPED
    except MemoryError:
        print(f"{name}: the model needs more memory than there is", file=sys.stderr)
        return UNUSABLE


def _open_streams() -> None:
    """UTF-8 on every system; a stream that is closed swallows what is written to it, which else would go elsewhere."""
    for name, mode in (("stdin", "r"), ("stdout", "w"), ("stderr", "w")):
        if getattr(sys, name) is None:
            setattr(sys, name, open(os.devnull, mode, encoding="utf-8"))  # noqa: SIM115, PTH123
    for stream in (sys.stdout, sys.stderr):
        if hasattr(stream, "reconfigure"):
            stream.reconfigure(encoding="utf-8", errors="replace")


def _silence() -> None:
    """Python would complain of standard output again while it shuts down."""
    with contextlib.suppress(OSError, ValueError):
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
