"""What was decided about snow, as records."""

from __future__ import annotations

from collections.abc import Collection, Iterator

from ...model.decisions import Decision
from ...model.words import Stance
from .asce_numbers import SHORTEST
from .fall import Snow

EN_USUAL = (("C_e", "1", "5.2 (7)"), ("C_t", "1", "5.2 (8)"), ("gamma", "2 kN/m3", "5.3.6"))


def snow_decisions(snow: Snow, written: Collection[str]) -> Iterator[Decision]:
    """Decisions on what snow falls on and how; `written`: the keys of [snow] in the model file."""
    rule = snow.rule
    rows: list[tuple[str, tuple[str, ...], str, str, str, str, Stance]] = []
    if "roofs" not in written:
        names = tuple(f.name for r in snow.roofs for p in r.pitches for f in p.faces)
        rows.append(("roofs under snow", names, f"{len(names)} surfaces", "those of [wind] that are no walls",
                     "other surfaces", "roofs", Stance.USUAL))  # fmt: skip
    for key, free in (("parapets", False), ("obstructions", True)):
        names = tuple(dict.fromkeys(r.name for r in snow.found if r.free == free))
        if names:
            where = "within it" if free else "on its edge"
            count = f"{len(names)} surface{'s' * (len(names) > 1)}"
            rows.append((f"{key} for drifts", names, count, f"above a roof, {where}", "none, others", key, Stance.SAFE))
    if rule.is_en:
        rows += [(key, (), value, f"recommended ({clause})", "the site's, the country's", key, Stance.USUAL)
                 for key, value, clause in EN_USUAL if key not in written]  # fmt: skip
    else:
        if not {"roof_exposure", "C_e"} & set(written):
            rows.append(("exposure of roofs to wind", (), str(rule.roof_exposure), "table 7.3-1",
                         "fully exposed, sheltered", "roof_exposure", Stance.USUAL))  # fmt: skip
        if "slippery" not in written:
            rows.append(("slippery roofs", (), "none", "more stays on them; less slides off below 2 on 12",
                         "all, or some", "slippery", Stance.USUAL))  # fmt: skip
        if not rule.partial_stated:
            for spans in rule.partial:
                cases = "" if any(c.spans == spans.name for c in rule.cases) else (
                    "; `variants` keeps none of its cases")  # fmt: skip
                rows.append((f"spans under partial loads, {spans.name}", spans.found, spans.words + cases,
                             "these beams go on over what holds them (7.5.1)", "other spans, or none", "continuous",
                             Stance.USUAL))  # fmt: skip
            if not rule.partial:
                rows.append(("spans under partial loads", (), "none", "no beam under these roofs goes on over two "
                             "spans or overhangs (7.5.1)", "those of members that are not drawn", "partial",
                             Stance.USUAL))  # fmt: skip
        short = [d.meeting.riser.name for d in snow.drifts if d.l_u <= SHORTEST + 1e-9]
        if short:
            rows.append(("upwind length of drifts", tuple(dict.fromkeys(short)), "20 ft", "shorter ones count as 20 ft",
                         "", "", Stance.SAFE))  # fmt: skip
    for pitch in (p for r in snow.roofs for p in r.pitches):
        off = max(abs(f.drawn - pitch.slope) for f in pitch.faces)
        if off > 1e-6:
            drawn = f"drawn within {off:.2g} degrees of it"
            rows.append(("slope at a table's row", (pitch.name,), f"{pitch.slope:.3g} degrees", drawn, "another slope",
                         "surfaces", Stance.USUAL))  # fmt: skip
    for what, about, taken, why, instead, key, stance in rows:
        stated = key if key in ("", "surfaces") else f"snow.{key}"
        yield Decision(what, about, taken, why, instead, stated, stance, rule.place)
