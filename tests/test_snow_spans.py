"""Partial loads of snow on the spans of the model's own beams (ASCE 7, 7.5)."""

from __future__ import annotations

import math

import pytest

from empuje.core.resolved import Resolved
from empuje.files.reader import read_text
from snows import ASCE_16
from test_snow import down, on, resolved

P_S = 0.7 * 1.1 * 1.5


def shed(lines: list[float], *, more: str = "", beside: tuple[float, ...] = (), **how) -> str:
    """A model of a shed, and of one `beside` it, 40 m off along y, on these lines; `how`: as for block."""
    sheds = [block(lines, **how), *([block(list(beside), prefix="Q", y=40.0, roof="hut")] if beside else [])]
    nodes, frame, roofs = ("\n".join(part) for part in zip(*sheds, strict=True))
    return f"""[project]
units = "kN m"
[nodes]
{nodes}
{frame}
{roofs}
[[supports]]
at = {["F*", "QF*"][: len(sheds)]}
fix = "fixed"
[cases]
G = {{ action = "dead", self_weight = 1.0 }}
[snow]
roofs = "*"
{ASCE_16}{more}""".replace("'", '"')


def block(lines: list[float], *, hinged: str = "", pieces: bool = True, reach: tuple[float, float] = (0, 0), angle: float = 0.0,
          wind_posts: bool = False, purlin: str = "IPE 160", mirror: int = 1, prefix: str = "", y: float = 0.0, digits: int = 9,
          roof: str = "roof") -> tuple[str, str, str]:  # fmt: skip
    """A roof 12 m deep on rafters at x of `lines`, columns at their ends and middle, purlins along x at every 4 m that
    reach beyond the rafters: its nodes, families and surface."""
    xs = [lines[0] - reach[0]] * (reach[0] > 0) + lines + [lines[-1] + reach[1]] * (reach[1] > 0)
    ys = [0.0, 4.0, 6.0, 8.0, 12.0]
    c, s = math.cos(math.radians(angle)), math.sin(math.radians(angle))

    def put(x: float, y: float, z: float) -> str:
        x *= mirror
        return f"[{x * c - y * s:.{digits}f}, {x * s + y * c:.{digits}f}, {z}]"

    R, F = prefix + "R", prefix + "F"
    nodes = {f"{R}{i}_{j}": put(x, y + v, 4) for i, x in enumerate(xs) for j, v in enumerate(ys)}
    at = [xs.index(x) for x in lines]
    feet = [(i, j) for i in at for j in (0, 2, 4)] + (
        [(at[k], j) for k in (0, -1) for j in (1, 3)] if wind_posts else []
    )
    nodes |= {f"{F}{i}_{j}": put(xs[i], y + ys[j], 0) for i, j in feet}
    last = len(xs) - 1
    rafters = [f"{R}{i}_0 > {R}{i}_4" for i in at]
    purlins = [f"{R}0_{j} > {R}{last}_{j}" for j in (0, 1, 3, 4)]
    if pieces:
        rafters = [f"{R}{i}_{j} > {R}{i}_{j + 1}" for i in at for j in range(4)]
        purlins = [f"{R}{i}_{j} > {R}{i + 1}_{j}" for j in (0, 1, 3, 4) for i in range(last)]

    def family(name: str, section: str, own: list[str], ends: str = "") -> str:
        bars = "\n".join(f'{name}{k} = "{w}"' for k, w in enumerate(own))
        head = f"[members.{prefix}{name}"
        return f'{head}]\nsection = "{section}"\nmaterial = "S355"\n{ends}{head}.pieces]\n{bars}\n'

    frame = family("rafter", "IPE 400", rafters) + family("purlin", purlin, purlins, hinged)
    frame += family("column", "HEB 200", [f"{F}{i}_{j} > {R}{i}_{j}" for i, j in feet])
    corners = f'["{R}0_0", "{R}{last}_0", "{R}{last}_4", "{R}0_4"]'
    given = "\n".join(f"{n} = {v}" for n, v in nodes.items())
    return given, frame, f'[surfaces.{roof}]\ncorners = {corners}\ndeck = "two-way"'


def spans(model: Resolved) -> list[tuple[float, ...]]:
    return [tuple(round(v, 6) for v in p.lines) for p in model.project.snow.partial]


def patterns(model: Resolved) -> dict[str, float]:
    """What arrives of each partial case [kN], as it is found of layers and of members alike."""
    out = {}
    for case in model.project.snow.cases:
        if case.spans:
            out[case.name] = down(model, case.name)
            assert out[case.name] == pytest.approx(on(model, case.name, "roof"), rel=1e-9)
    return out


def test_continuous_purlins_and_rafters_have_their_spans():
    """Purlins of three spans and rafters of two: 2 + 2 + 2 patterns of the purlins, two of which are one each, and two of
    the rafters; half the load where it is not full."""
    model = resolved(shed([0, 6, 12, 20]))
    assert spans(model) == [(0, 6, 12, 20), (0, 6, 12)]
    full = 240 * P_S
    at = patterns(model)
    of_purlins = [6, 8, 14, 12]  # metres in full: an end span, the other, all but an end, two of them
    assert sorted(round(at[f"SPa{i}"] / full * 40 - 20, 6) for i in range(1, 5)) == sorted(of_purlins)
    assert [at["SPb1"], at["SPb2"]] == pytest.approx([0.75 * full] * 2)
    assert len(at) == 6


@pytest.mark.parametrize("change", [
    {"pieces": False}, {"angle": 33.0}, {"angle": 270.0}, {"mirror": -1}, {"wind_posts": True},
    {"wind_posts": True, "pieces": False},
])  # fmt: skip
def test_drawn_in_one_turned_mirrored_or_on_posts_they_are_the_same(change):
    """Wind posts at the gables make no simple beam of a purlin that crosses stiffer rafters."""
    plain, other = patterns(resolved(shed([0, 6, 12, 20]))), patterns(resolved(shed([0, 6, 12, 20], **change)))
    posts = change.get("wind_posts", False)  # gable rafters have more spans of their own
    others = {k: v for k, v in other.items() if k.startswith("SPa") or not posts}
    plain = {k: v for k, v in plain.items() if k.startswith("SPa") or not posts}
    assert sorted(others.values()) == pytest.approx(sorted(plain.values()), rel=1e-6)


def test_an_overhang_is_a_span_and_hinges_end_them():
    """Beyond 0.3 m; purlins hinged at every rafter have none, a single span neither."""
    assert spans(resolved(shed([0, 6, 12], reach=(1.5, 0.2))))[0] == (-1.5, 0, 6, 12)
    assert spans(resolved(shed([0, 6], reach=(0, 1.0))))[0] == (0, 6, 7)
    short = resolved(shed([0, 6, 12], reach=(0, 0.2)))  # its end belongs to the last span
    assert patterns(short)["SPa1"] == pytest.approx(12 * (6 + 6.2 / 2) * P_S, rel=1e-7)
    hinged = resolved(shed([0, 6, 12], hinged='ends = "hinged"\n'))
    assert spans(hinged) == [(0, 6, 12)]  # of the rafters
    assert hinged.project.snow.partial[0].way == pytest.approx((0, 1))
    assert spans(resolved(shed([0, 6], hinged='ends = "hinged"\n'))) == [(0, 6, 12)]


def test_buildings_side_by_side_share_the_names_of_their_patterns():
    """Two sheds of other spans: each has its own patterns, alone and beside the other, in cases of the same names."""
    model = resolved(shed([0, 6, 12, 20]))
    both = resolved(shed([0, 6, 12, 20], beside=(0, 3, 6, 9, 12)))
    assert [p.name for p in both.project.snow.partial] == ["SPa", "SPa", "SPb", "SPb"]
    for case in [c.name for c in model.project.snow.cases if c.spans]:
        assert on(both, case, "roof") == pytest.approx(on(model, case, "roof"), rel=1e-9)
    names = [c.name for c in both.project.snow.cases if c.spans]
    assert names == [f"SPa{k}" for k in range(1, 8)] + ["SPb1", "SPb2"]  # 4 spans there: 2 + 2 + 3
    full = 12 * 4 * 3 * P_S
    assert on(both, "SPa1", "hut") == pytest.approx(full * (1 + 3 * 0.5) / 4, rel=1e-9)
    assert down(both, "SPb2") == pytest.approx(on(both, "SPb2", "roof") + on(both, "SPb2", "hut"), rel=1e-9)


def test_members_are_chosen_and_spans_stated():
    """`continuous` names members, or none; stated spans stand alone, or beside those that are named."""
    assert spans(resolved(shed([0, 6, 12], more='continuous = "purlin"\n'))) == [(0, 6, 12)]
    none = resolved(shed([0, 6, 12], more="continuous = false\n"))
    assert spans(none) == []
    stated = '[snow.partial.SP]\nalong = "x"\nlines = [0, 12, 18]\n'
    assert spans(resolved(shed([0, 6, 18], more=stated))) == [(0, 12, 18)]
    assert spans(resolved(shed([0, 6, 18], more='continuous = "rafter"\n' + stated))) == [(0, 12, 18), (0, 6, 12)]
    reading = read_text(shed([0, 6, 18], more='continuous = "truss"\n'), "m.toml")
    assert [f.code for f in reading.findings if f.level == "error"] == ["matches-nothing"]


def test_weak_beams_rest_on_strong_ones_whichever_they_are():
    """A purlin that is stiffer than the rafters carries them: these have a place on it, and it none on them."""
    model = resolved(shed([0, 6, 12], purlin="HEB 600", wind_posts=True))
    assert spans(model) == [(0, 6, 12), (0, 4, 6, 8, 12)]
    assert [p.words.rsplit(" ", 1)[1] for p in model.project.snow.partial] == ["x", "y"]


def test_gable_rafters_need_none_and_single_slopes_do():
    """7.5: what spans across the ridge of a gable roof between 1/2 and 7 on 12 need not be looked at."""
    for rise, gable, count in ((0.1, True, 0), (0.1, False, 1), (0.03, True, 1), (0.6, True, 1)):
        model = resolved(gable_roof(rise, gable))
        assert len(model.project.snow.partial) == count, (rise, gable)


def gable_roof(rise: float, gable: bool) -> str:
    """Rafters over a column in the middle of each slope, without purlins."""
    xs, ys = [0.0, 5.0], [0.0, 4.0, 8.0, 12.0, 16.0]
    top = [4 + rise * (min(y, 16 - y) if gable else y) for y in ys]
    nodes = {f"R{i}_{j}": (x, y, z) for i, x in enumerate(xs) for j, (y, z) in enumerate(zip(ys, top, strict=True))}
    nodes |= {f"F{i}_{j}": (x, y, 0.0) for i, x in enumerate(xs) for j, y in enumerate(ys) if not (gable and j == 2)}
    rows = "\n".join(f"{n} = {list(v)}" for n, v in nodes.items())
    rafters = "\n".join(f'r{i}{j} = "R{i}_{j} > R{i}_{j + 1}"' for i in range(2) for j in range(4))
    ties = "\n".join(f't{j} = "R0_{j} > R1_{j}"' for j in (0, 2, 4))
    columns = "\n".join(f'c{n} = "{n} > R{n[1:]}"' for n in nodes if n[0] == "F")
    of = 'section = "IPE 300"\nmaterial = "S355"\n'
    return f"""[project]
units = "kN m"
[nodes]
{rows}
[members.rafters]
{of}[members.rafters.pieces]
{rafters}
[members.ties]
{of}ends = "hinged"
[members.ties.pieces]
{ties}
[members.columns]
{of}[members.columns.pieces]
{columns}
[surfaces.south]
corners = ["R0_0", "R1_0", "R1_2", "R0_2"]
deck = "two-way"
[surfaces.north]
corners = ["R0_2", "R1_2", "R1_4", "R0_4"]
deck = "two-way"
[[supports]]
at = "F*"
fix = "fixed"
[cases]
G = {{ action = "dead", self_weight = 1.0 }}
[snow]
roofs = "*"
{ASCE_16}"""


def test_beams_in_one_piece_at_any_angle_carry_all_of_the_roof():
    """Ends that lie within rounding of the beam they end on, but short of it, close their bays."""
    lines = [0.0, 3.0, 7.754743, 12.0, 18.0, 21.8]
    for digits, off in ((4, 1e-5), (3, 5e-5)):  # written to a millimetre, the plan is a little another one
        rough = resolved(shed(lines, pieces=False, angle=33.0, digits=digits))
        assert down(rough, "Ss") == pytest.approx(on(rough, "Ss", "roof"), rel=1e-9)
        assert down(rough, "Ss") == pytest.approx(261.6 * P_S, rel=off)
        assert [p.name for p in rough.project.snow.partial] == ["SPa", "SPb"]
    for angle in (0.0, 33.0, 118.09297):
        model = resolved(shed(lines, pieces=False, angle=angle, purlin="HEB 600"))
        assert down(model, "Ss") == pytest.approx(12 * 21.8 * P_S, rel=1e-7)
