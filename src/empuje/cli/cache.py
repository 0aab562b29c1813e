"""empuje cache"""

from __future__ import annotations

import argparse

from . import FINE, saying


def options(command: argparse.ArgumentParser) -> None:
    command.add_argument("--clear", action="store_true", help="remove everything that is kept")


def run(arguments: argparse.Namespace) -> int:
    from ..files.kept.store import ALL, clear, entries, folder

    where = folder()
    if where is None:
        saying.tell("nothing is kept: EMPUJE_CACHE is empty")
        return FINE
    if arguments.clear:
        count = clear()
        saying.tell(f"removed {count} solved model{'' if count == 1 else 's'} from {where}")
        return FINE
    found = entries(where)
    size = sum(bytes_ for _, bytes_ in found)
    saying.tell(
        f"{where}: {len(found)} solved model{'' if len(found) == 1 else 's'}, {size / 1e6:.1f} of at most "
        f"{ALL / 1e6:.0f} MB. What is kept is used as long as the model, its tables and Empuje itself are unchanged; "
        "EMPUJE_CACHE names another folder."
    )
    return FINE
