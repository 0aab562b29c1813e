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
    from ..show.output import NotWritten, check_file, write_text
    from ..show.sheets_out import as_csv, write_sheets

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
            write_sheets(where, sheets)
        for kind in () if book else sheets:
            write_text(folder / f"{kind}.csv", as_csv(sheets[kind]))
        for there, here in beside.items():
            write_text(there, here.read_text(encoding="utf-8"))
        write_text(model, as_toml(rest))
    except NotWritten as error:
        raise Refusal(str(error)) from None
    counts = ", ".join(f"{len(rows) - 1:,} {kind}" for kind, rows in sheets.items())
    saying.say(f"wrote {model}, and {where.name if book else 'tables'} with {counts}")
    saying.say(f"Try\n  empuje check {model}")
    return FINE
