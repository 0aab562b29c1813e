"""A report as one page: no other file, no network; it prints well, and reads well aloud."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator
from importlib.resources import files
from itertools import count

from ..show.blocks import Derivation, Grid, Paragraph, Picture, Report, Scene

KINDS = {Grid: "grid", Paragraph: "paragraph", Picture: "picture", Derivation: "derivation", Scene: "scene"}
MANY_ROWS = 8
"""Tables of more rows than this may be filtered."""


def as_html(report: Report) -> str:
    """The page; the library that draws the model in space stands in it where it is needed."""
    from jinja2 import Environment, FunctionLoader, StrictUndefined, select_autoescape

    room = files(__package__)
    environment = Environment(
        loader=FunctionLoader(lambda name: room.joinpath(name).read_text(encoding="utf-8")), undefined=StrictUndefined,
        autoescape=select_autoescape(default=True, default_for_string=True), trim_blocks=True, lstrip_blocks=True,
    )  # fmt: skip
    scenes = [b for p in report.parts for b in p.blocks if isinstance(b, Scene)]
    numbers = count(1)
    return environment.get_template("page.html.j2").render(
        report=report, kind=lambda block: KINDS[type(block)], scene=_data(scenes[0]) if scenes else "",
        drawing=_drawing_library() if scenes else "", style=_text("page.css"), script=_text("page.js"),
        in_space=_text("space.js") if scenes else "", many=MANY_ROWS,
        own_ids=lambda svg: own_ids(svg, next(numbers)), paragraphs=lambda text: list(_paragraphs(text)),
    )  # fmt: skip


def _text(name: str) -> str:
    return files(__package__).joinpath(name).read_text(encoding="utf-8")


def _drawing_library() -> str:
    """Plotly's script, as it lies in its Python package (MIT)."""
    return files("plotly").joinpath("package_data", "plotly.min.js").read_text(encoding="utf-8").replace(
        "</script", "<\\/script"
    )  # fmt: skip


def _data(scene: Scene) -> str:
    """As JSON within a page, where no text may end the element it is in."""
    return json.dumps(scene.data, ensure_ascii=False, separators=(",", ":")).replace("<", "\\u003c")


def own_ids(svg: str, number: int) -> str:
    """A drawing whose names are its own: in one page those of several would be one another's."""
    svg = re.sub(r'\bid="([^"]+)"', rf'id="d{number}-\1"', svg)
    svg = re.sub(r'((?:xlink:)?href)="#([^"]+)"', rf'\1="#d{number}-\2"', svg)
    return re.sub(r"url\(#([^)]+)\)", rf"url(#d{number}-\1)", svg)


def _paragraphs(text: str) -> Iterator[str]:
    for part in re.split(r"\n\s*\n", text.strip()):
        yield " ".join(part.split())
