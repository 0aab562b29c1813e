"""empuje demo [packing-house | gantry] [DIR]"""

from __future__ import annotations

import argparse
from collections.abc import Callable
from dataclasses import dataclass
from importlib.resources import files
from pathlib import Path

from . import FINE, Refusal, common


@dataclass(frozen=True)
class Sample:
    """A sample: its files, the model first, each in its folder of samples; what it is; a case or combination of which
    the balance is shown; and what to look at and to try, {model} and the like filled in."""

    about: str
    files: tuple[tuple[str, str], ...]
    balance: str
    look: tuple[tuple[str, str], ...]
    tries: tuple[str, ...]
    change: str


SAMPLES = {
    "packing-house": Sample(
        "The fruit packing house",
        (
            ("packing_house", "packing-house.toml"), ("sorting_frame", "sorting-frame.toml"),
            ("loading_platform", "loading-platform.toml"),
        ),
        "everyday",
        (
            ("is every load where it should be?", "pictures/loads-WY1ap.png"),
            ("is it stable, does it bend the right way?", "pictures/deflected-*.png"),
            ("what governs, and where?", "summary.md"),
        ),
        (
            "report {model} -o report.html",
            "verdict {model}",
            "why {model} --limit pads",
            "members {model}",
            "draw {model} utilisation -o utilisation.png",
            'try {model} --on joists --sections "IPE 300 .. IPE 330"',
            "expand {model} --on P",
            "wind {model}",
            "snow {model}",
            "combos {model}",
            "traffic {model} --on joists/2a@mezz/A-B --of My --at 50%",
            "influence {model} --on girders/A@mezz/2-3 --of My --along FL -o influence.png",
            "draw {model} My --under FL --at-step 5 --on 'joists,girders' -o fork-lift.png",
            "envelope {model} --on rafters --under strength --of My",
            "why {model} --on wall-ties/1/B@base-C@eave --of N",
            "reactions {model} --on '*2@base' --under 'U5*'",
            "draw {model} pressures --under WY1ap -o pressures.png",
            "draw {model} pressures --under SYpd -o drift.png",
            "takedown {model} --on columns",
            "stability {model}",
            "draw {model} buckled --under U2+Q+R+LX -o buckled.png",
            "draw {model} My --elevation B --under U4+WY1ap+Q+R+LY -o frame-B.png",
            "draw {model} solid -o solid.png",
            "draw {model} deflected --under SW,G,Q,everyday --side-by-side -o shapes.png",
            "draw {model} strip --on girders/B@mezz/1-2 --under everyday -o girder.png",
            "forces {model} --on girders/B@mezz/1-2 --under everyday --chart",
            "wind {folder}/sorting-frame.toml",
            "plates {folder}/loading-platform.toml --on slab",
            "draw {folder}/loading-platform.toml plates --of m_x --under 610+Q --on slab -o slab.png",
        ),
        "a section, a load or the wind's speed in {model}",
    ),
    "gantry": Sample(
        "The conveyor gantry",
        (("gantry", "gantry.toml"), ("gantry", "gantry.xlsx")),
        "ch+Q",
        (
            ("is every load where it should be?", "pictures/loads-Q.png"),
            ("is it stable, does it bend the right way?", "pictures/deflected-*.png"),
            ("what governs, and where?", "summary.md"),
        ),
        (
            "verdict {model}",
            'verdict {model} --set width="2.4 m"',
            "expand {model} --on S",
            "export {model} -o {folder}/plain",
            "loads {model} --by case",
            "members {model} --rows 12",
            "draw {model} N --under Q --on 'chords/S.*,diagonals/S.*,posts/S.*' --view xz -o forces.png",
        ),
        "a load in {folder}/gantry.xlsx, or the depth of the trusses in {model}",
    ),
}  # fmt: skip


def options(command: argparse.ArgumentParser) -> None:
    command.add_argument(
        "sample", metavar="SAMPLE", nargs="?", default="packing-house", choices=SAMPLES,
        help="packing-house (default), or gantry: a truss with its sections, cases and loads in a workbook",
    )  # fmt: skip
    command.add_argument("folder", metavar="DIR", nargs="?", help="where to (default: a folder of the sample's name)")


def run(arguments: argparse.Namespace) -> int:
    import numpy as np

    from ..show.drawings.press import press
    from ..show.output import NotWritten, write_whole
    from ..show.tables import for_eyes
    from ..show.verdict_text import counted
    from .run import WORTH_A_PRESS, write_results

    sample = SAMPLES[arguments.sample]
    folder = Path(arguments.folder or arguments.sample)
    path = folder / sample.files[0][1]
    contents = {folder / name: files("empuje.samples").joinpath(room, name).read_bytes() for room, name in sample.files}
    try:
        for there, content in contents.items():
            if there.exists() and there.read_bytes().replace(b"\r\n", b"\n") != content.replace(b"\r\n", b"\n"):
                raise Refusal(f"{there} has been changed; name another folder, so that your work is not overwritten")
        for there, content in contents.items():
            write_whole(there, _writing(content))
    except (NotWritten, OSError) as error:
        raise Refusal(str(error)) from None
    arguments.model, arguments.no_cache = str(path), False
    model = common.read(arguments)
    results = folder / "results"
    with press(len(model.project.members) >= WORTH_A_PRESS) as painted:
        job, tables = write_results(model, results, [], painted)
    assert job.verdict is not None
    sums = tables["balance"]
    sums = sums.rows(np.isin(sums["case"].astype(str), [sample.balance]))
    parts = (model.project.members, model.project.cases, model.resolved.combinations)
    members, cases, combinations = map(len, parts)
    # Of the shapes that are drawn, the one that moves most and that of service, the latter comes last.
    look = "\n".join(f"  {question:<44}{sorted(results.glob(name))[-1]}" for question, name in sample.look)
    tries = "\n".join("  empuje " + words.format(model=path, folder=folder) for words in sample.tries)
    change = sample.change.format(model=path, folder=folder)
    print(f"""{sample.about} stands in {folder}: {members} members, {cases} cases, {combinations} combinations.

{for_eyes(sums, model.display)}
{counted(job.verdict.outcomes)}

Look first at
{look}

Then try
{tries}
and change {change}, and run
  empuje run {path}""")
    return FINE


def _writing(content: bytes) -> Callable[[Path], None]:
    def make(beside: Path) -> None:
        beside.write_bytes(content)

    return make
