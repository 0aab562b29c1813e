"""empuje export MODEL -o FOLDER | FILE.xlsx"""

from __future__ import annotations

import argparse
from pathlib import Path

from . import FINE, Refusal, common, flags, saying


def options(command: argparse.ArgumentParser) -> None:
    flags.add_model(command)
    command.add_argument(
        "-o", dest="output", metavar="FOLDER|FILE.xlsx", required=True,
        help="a folder of CSV tables, or a workbook with a sheet for each; the model file stands beside them",
    )  # fmt: skip
    flags.add_force(command)


def run(arguments: argparse.Namespace) -> int:
    from ..files.plain.model import as_toml, plain_model
    from ..files.plain.tables import in_tables
    from ..show.output import NotWritten, check_file, of_text, write_together
    from ..show.sheets_out import as_csv, of_sheets

    output, arguments.output, arguments.quick = arguments.output, None, True
    study = common.read(arguments).study
    where = Path(output)
    book = where.suffix.lower() == ".xlsx"
    folder = where.parent if book else where
    model = folder / (where.with_suffix(".toml").name if book else Path(arguments.model).name)
    rest, sheets = in_tables(
        plain_model(study.reading), study.project.plane, lambda kind: f"{where.name}#{kind}" if book else f"{kind}.csv"
    )
    tables = [where] if book else [folder / f"{kind}.csv" for kind in sheets]
    beside = {folder / name: study.path.parent / name for name in study.reading.rule_files}
    beside = {there: here for there, here in beside.items() if there.resolve() != here.resolve()}
    try:
        for path in (*tables, model, *beside):
            check_file(path, study.inputs, arguments.force)
        if book:
            made = {where: of_sheets(where, sheets)}
        else:
            made = {folder / f"{kind}.csv": of_text(as_csv(rows)) for kind, rows in sheets.items()}
        made |= {there: of_text(here.read_text(encoding="utf-8")) for there, here in beside.items()}
        write_together({**made, model: of_text(as_toml(rest))})
    except NotWritten as error:
        raise Refusal(str(error)) from None
    counts = ", ".join(f"{len(rows) - 1:,} {kind}" for kind, rows in sheets.items())
    saying.say(f"wrote {model}, and {where.name if book else 'tables'} with {counts}")
    saying.say(f"Try\n  empuje check {model}")
    return FINE
