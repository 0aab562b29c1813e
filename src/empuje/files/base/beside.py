"""Files beside the model, which are all that it reads."""

from __future__ import annotations

from pathlib import Path

from .entry import Entry


def inside(
    tables: Entry, kind: str, name: str, folder: Path | None, what: str = "table", code: str = "unusable-table"
) -> Path | None:  # fmt: skip
    """The file, which has to lie in the model's own folder."""
    if folder is None:
        tables.error(code, f"{what} {name}: there is no folder to look in", "read the model from a file", kind)
        return None
    path = folder / name
    try:
        if not path.resolve().is_relative_to(folder.resolve()):
            tables.error(code, f"{what} {name} is outside the model's folder", "put it beside the model", kind)
        elif not path.exists():
            tables.error(code, f"there is no file {name} beside the model", "check its name", kind)
        elif not path.is_file():
            tables.error(code, f"{what} {name} is not a plain file", "name a file", kind)
        else:
            return path
    except (OSError, ValueError) as error:
        tables.error(code, f"{what} {name} cannot be read: {error}", "check its name", kind)
    return None
