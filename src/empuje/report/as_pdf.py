"""A report on paper: a PDF with contents, running heads and page numbers. Scenes are left out."""

from __future__ import annotations

import json
import re
import tempfile
from importlib.resources import files
from pathlib import Path
from typing import Any

from ..show.blocks import Block, Derivation, Grid, Paragraph, Picture, Report, Scene

PAPERS = {"A4": "a4", "letter": "us-letter"}
LONG = re.compile(r"(?<=[/+@~_.])(?=\w)|(?<=\w)(?=-)")
"""Where long names may go on in the next line."""
NUMBER = re.compile(r"[-+0-9.e]*")
LONG_WORD = 9
THREE = 3
"""So many loads of each case a derivation shows on paper; the page has more."""
MADE_OF = "made of"
"""The steps of loads, which stand in the part about where loads come from."""


def as_pdf(report: Report, paper: str = "A4") -> bytes:
    """The document; the same report gives the same bytes."""
    import typst
    from matplotlib import get_data_path

    with tempfile.TemporaryDirectory(prefix="empuje-") as folder:
        place = Path(folder)
        data = _data(report, place, paper)
        (place / "report.json").write_text(json.dumps(data, ensure_ascii=False), encoding="utf-8")
        (place / "paper.typ").write_text(
            files(__package__).joinpath("paper.typ").read_text(encoding="utf-8"), encoding="utf-8"
        )
        fonts = [str(Path(get_data_path()) / "fonts" / "ttf")]
        made = typst.compile(str(place / "paper.typ"), format="pdf", font_paths=fonts, ignore_system_fonts=True)
    assert isinstance(made, bytes)
    return made


def _data(report: Report, place: Path, paper: str) -> dict[str, Any]:
    facts = dict(report.facts)
    head = ", ".join(w for w in (report.title, facts.get("number", "")) if w)
    foot = ", ".join(f"{k} {facts[k]}" for k in ("revision", "date", "model") if facts.get(k))
    parts = []
    pictures = 0
    for part in report.parts:
        blocks = []
        for block in part.blocks:
            if isinstance(block, Scene):
                continue
            made = _block(block)
            if isinstance(block, Picture):
                pictures += 1
                made["file"] = f"picture-{pictures}.svg"
                (place / made["file"]).write_text(block.svg, encoding="utf-8")
            blocks.append(made)
        if blocks:
            parts.append({"anchor": part.anchor, "title": part.title, "blocks": blocks})
    return {
        "title": report.title, "author": facts.get("author", ""), "head": head, "foot": foot, "paper": PAPERS[paper],
        "facts": [list(f) for f in report.facts], "verdict": [_block(p) for p in report.verdict], "parts": parts,
    }  # fmt: skip


def _block(block: Block) -> dict[str, Any]:
    if isinstance(block, Grid):
        return {"kind": "grid", **_grid(block)}
    if isinstance(block, Paragraph):
        words = [" ".join(p.split()) for p in re.split(r"\n\s*\n", block.text.strip())]
        return {"kind": "paragraph", "paragraphs": words, "tone": block.tone, "head": block.head}
    if isinstance(block, Picture):
        return {"kind": "picture", "caption": block.caption, "words": block.words}
    assert isinstance(block, Derivation)
    shares = _grid(block.shares, most_loads=THREE, without=MADE_OF)
    return {"kind": "derivation", "anchor": block.anchor, "title": block.title, "lines": list(block.lines),
            "shares": shares}  # fmt: skip


def _grid(grid: Grid, most_loads: int | None = None, without: str = "") -> dict[str, Any]:
    rows, loads = [], 0
    for row in grid.rows:
        loads = loads + 1 if row[0].text.startswith(" ") else 0
        if most_loads is None or loads <= most_loads:
            rows.append([{"text": breakable(c.text), "link": c.link} for c in row])
    # A column that no row has anything in is none.
    kept = [i for i, head in enumerate(grid.heads) if head != without and (not rows or any(r[i]["text"] for r in rows))]
    return {
        "caption": grid.caption, "heads": [grid.heads[i] for i in kept],
        "rows": [[r[i] for i in kept] for r in rows], "numeric": [grid.numeric[i] for i in kept], "note": grid.note,
        "tones": list(grid.tones) if most_loads is None else [],
    }  # fmt: skip


def breakable(text: str) -> str:
    """Text whose long names may break after their joints."""
    return " ".join(
        LONG.sub("\u200b", word) if len(word) > LONG_WORD and not NUMBER.fullmatch(word) else word
        for word in text.split(" ")
    )
