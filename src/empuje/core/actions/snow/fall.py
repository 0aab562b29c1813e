"""The snow of a project, worked out once.

rule -> roofs, what stands taller -> shapes by the code -> pieces on surfaces in each case -> plain loads"""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass, field, replace

from ...model.findings import Finding
from ...model.loads import PlainLoads, Step, gather
from ...model.project import Project
from ...model.snow import SnowRule
from ...model.surfaces import SurfaceLine, SurfaceLoad
from ...model.words import Falling
from ..faces import face_of
from ..surfaces.sources.surface_loads import Surfaces, loads_on
from . import asce, asce_drifts, asce_site, en
from .en_edges import edge_loads
from .laid_on import LaidPiece, area_load_of, loads_of, pieces_of
from .partial import Known, beyond_lines, partial_layers
from .roofs import SnowRoof, find_roofs
from .shapes import Drift, Layer, Shapes, with_saws
from .steps import Riser, meetings, risers
from .walls import standing


@dataclass(frozen=True)
class Snow:
    """What came of the snow: roofs, the shapes on them, walls that were found to stand on them, pieces of every case
    and what overhangs edges, and plain loads."""

    rule: SnowRule
    roofs: tuple[SnowRoof, ...]
    shapes: Shapes
    found: tuple[Riser, ...] = ()
    pieces: tuple[LaidPiece, ...] = ()
    edges: tuple[SurfaceLine, ...] = ()
    loads: PlainLoads = field(default_factory=PlainLoads)

    @property
    def drifts(self) -> tuple[Drift, ...]:
        """Drifts and what slid."""
        return self.shapes.drifts

    def site(self) -> list[Step]:
        """What all roofs share."""
        return en.site_steps(self.rule) if self.rule.is_en else asce_site.site_steps(self.rule)

    def alike(self) -> dict[str, str]:
        """Cases with the same snow everywhere as an earlier one, and that one, by name."""
        first: dict[tuple[object, ...], str] = {}
        out = {}
        for case in self.rule.cases:
            own = [p for p in self.pieces if p.case == case.name and p.force]
            rows = sorted((p.face.surface, p.whole, p.part.wkb, *p.field.tolist()) for p in own)
            key = (case.exceptional, *rows)
            if key in first:
                out[case.name] = first[key]
            else:
                first[key] = case.name
        return out

    def area_loads(self, names: Collection[str] = ()) -> list[SurfaceLoad]:
        """The snow of the named cases, or of all, as loads on surfaces, for drawing."""
        return [*(area_load_of(p, self.rule.place) for p in self.pieces if not names or p.case in names),
                *(e for e in self.edges if not names or e.case in names)]  # fmt: skip


def fall(project: Project, surfaces: Surfaces) -> tuple[Snow | None, list[Finding]]:
    """The snow of a project; None where it states none, or where what it states cannot be."""
    rule = project.snow
    if rule is None or not rule.known:
        return None, []
    roofs = find_roofs({i: surface.outline for i, surface in surfaces.items()}, rule)
    walls = [[face_of(i, surfaces[i].outline, 0.0) for i in own if i in surfaces]
             for own in (rule.parapets, rule.obstructions)]  # fmt: skip
    found = [r for r in standing(surfaces, roofs, {*rule.parapets, *rule.obstructions}) if
             ("obstructions" if r.free else "parapets") in rule.find]  # fmt: skip
    every = risers(roofs, walls[0], walls[1], rule.beside, found)
    met = meetings(roofs, every, en.REACH if rule.is_en else asce_drifts.REACH, rule.l_u)
    roofs = with_saws(roofs, met)
    shapes = en.shapes_of(rule, roofs, met) if rule.is_en else asce.shapes_of(rule, roofs, met)
    findings = list(shapes.findings)
    snow = Snow(rule, tuple(roofs), shapes, tuple(found))
    findings += beyond_lines(rule, shapes.balanced)
    if any(f.level == "error" for f in findings):
        return snow, findings
    pieces = tuple(_pieces(rule, shapes))
    loads, lost = loads_of(project, surfaces, pieces, "snow", rule.place)
    edges = tuple(_edges(rule, snow))
    if edges:
        along, of_edges = loads_on(project, surfaces, edges)
        loads, lost = gather([loads, along]), [*lost, *of_edges]
    return replace(snow, pieces=pieces, edges=edges, loads=loads), [*findings, *lost]


def _edges(rule: SnowRule, snow: Snow) -> Iterator[SurfaceLine]:
    """What overhangs edges, in every case with snow on the whole roof."""
    if not rule.overhanging:
        return
    s = {key: next(x.value for x in steps if x.symbol == "s") for key, steps in snow.shapes.of_pitches.items()}
    times = {False: 1.0, True: rule.stated.get("C_esl", 1.0)}
    edges = {exceptional: edge_loads(rule, snow.roofs, s, factor) for exceptional, factor in times.items()}
    for case in (c for c in rule.cases if c.kind != Falling.EXCEPTIONAL):
        yield from (edge.in_case(case.name, rule.place) for edge in edges[case.exceptional])


def _pieces(rule: SnowRule, shapes: Shapes) -> list[LaidPiece]:
    out = []
    of_spans: Known = {}
    known: dict[Layer, list[LaidPiece]] = {}  # one layer is in many cases
    for case in rule.cases:
        if case.kind == Falling.PARTIAL:
            layers: Sequence[Layer] = partial_layers(rule, case, shapes.balanced, of_spans)
        else:
            layers = shapes.layers.get((case.kind, case.direction), ())
        for layer in layers:
            if layer not in known:
                known[layer] = pieces_of(layer)
            own = [replace(p, case=case.name) for p in known[layer]]
            if case.exceptional and case.kind != Falling.EXCEPTIONAL:
                times = rule.stated["C_esl"]
                step = Step("C_esl", "exceptional: all of it times this", times, "", "4.3")
                own = [p.times(times, step) for p in own]
            out += own
    return out
