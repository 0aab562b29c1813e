"""empuje demo [DIR]"""

from __future__ import annotations

import argparse
from importlib.resources import files
from pathlib import Path

from . import FINE, Refusal, common

SAMPLE = "packing_house"
MODEL = "packing-house.toml"
BESIDE = ("sorting_frame", "sorting-frame.toml")
"""A second model, written beside the first: bare members in the wind."""


def options(command: argparse.ArgumentParser) -> None:
    command.add_argument(
        "folder", metavar="DIR", nargs="?", default="packing-house", help="where to (default: packing-house)"
    )


def run(arguments: argparse.Namespace) -> int:
    import numpy as np

    from ..show.output import NotWritten, write_text
    from ..show.tables import for_eyes
    from ..show.verdict_text import counted
    from .run import write_results

    folder = Path(arguments.folder)
    path = folder / MODEL
    texts = {
        folder / name: files("empuje.samples").joinpath(sample, name).read_text(encoding="utf-8")
        for sample, name in ((SAMPLE, MODEL), BESIDE)
    }
    for there, text in texts.items():
        if there.exists() and there.read_text(encoding="utf-8", errors="replace") != text:
            raise Refusal(f"{there} has been changed; name another folder, so that your work is not overwritten")
    try:
        for there, text in texts.items():
            write_text(there, text)
    except NotWritten as error:
        raise Refusal(str(error)) from None
    arguments.model, arguments.no_cache = str(path), False
    model = common.read(arguments)
    results = folder / "results"
    job, tables = write_results(model, results, [], True)
    assert job.verdict is not None
    # Of the two that are drawn, the one that moves most and that of service, the latter comes last.
    shape = sorted((results / "pictures").glob("deflected-*.png"))[-1]
    sums = tables["balance"]
    sums = sums.rows(np.isin(sums["case"].astype(str), ["everyday"]))
    parts = (model.project.members, model.project.cases, model.resolved.combinations)
    members, cases, combinations = map(len, parts)
    print(f"""The fruit packing house stands in {folder}: {members} members, {cases} cases, {combinations} combinations.

{for_eyes(sums, model.display)}
{counted(job.verdict.outcomes)}

Look first at
  does every load sit where it was meant?     {results / "pictures" / "loads-WY1ap.png"}
  does it stand, does it bend the right way?  {shape}
  what governs, and where?                    {results / "summary.md"}

Then try
  empuje verdict {path}
  empuje why {path} --limit pads
  empuje members {path}
  empuje draw {path} utilisation -o utilisation.png
  empuje try {path} --on joists --sections "IPE 270 .. IPE 360"
  empuje wind {path}
  empuje combos {path}
  empuje traffic {path} --on joists/2a@mezz/A-B --of My --at 50%
  empuje influence {path} --on girders/A@mezz/2-3 --of My --along FL -o influence.png
  empuje draw {path} My --under FL --at-step 13 --on 'joists,girders' -o fork-lift.png
  empuje envelope {path} --on rafters --under strength --of My
  empuje why {path} --on wall-ties/1/B@base-C@eave --of N
  empuje reactions {path} --on '*2@base' --under 'U5*'
  empuje draw {path} pressures --under WY1ap -o pressures.png
  empuje takedown {path} --on columns
  empuje stability {path}
  empuje draw {path} buckled --under U2+Q+R+LX -o buckled.png
  empuje draw {path} My --on 'rafters/B/*,columns/B*' --under U4+WY1ap+Q+R+LY --view yz -o frame-B.png
  empuje wind {folder / BESIDE[1]}
and change a section, a load or the wind's speed in {path}, and run
  empuje run {path}""")
    return FINE
