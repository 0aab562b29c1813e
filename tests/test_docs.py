"""The documents tell the truth: their examples run, and every key the reader takes is described."""

import re
import shlex
import sys
from collections import Counter
from pathlib import Path

import numpy as np
import pytest

from build import critical, named
from empuje.cli import COMMANDS, EXAMPLES, main, parser
from empuje.core.actions.totals import applied_totals
from empuje.core.analysis.solve import solve
from empuje.core.answers.reactions import closing_error
from empuje.core.model.cases import ACTIONS
from empuje.core.model.rules import USES
from empuje.core.resolve import resolve
from empuje.files import keys
from empuje.files.base.forms import as_markdown
from empuje.files.every_form import every_form
from empuje.study.study import Study
from models import PORTAL, reading, resolved, solution
from winds import hall

ROOT = Path(__file__).parents[1]
GUIDE = (ROOT / "docs" / "model-file.md").read_text(encoding="utf-8")


def blocks(text, kind):
    return re.findall(rf"```{kind}\n(.*?)```", text, re.S)


@pytest.fixture
def guide(tmp_path):
    """The guide's model and tables, as files."""
    for name, text in re.findall(r"```(?:csv|rules|include) (\S+)\n(.*?)```", GUIDE, re.S):
        (tmp_path / name).write_text(text, encoding="utf-8")
    path = tmp_path / "guide.toml"
    path.write_text("\n".join(blocks(GUIDE, "toml")), encoding="utf-8")
    return path


GUIDES_GRID = """
[project]
units = "kN m"
[grid]
x = { A = 0, B = 6, C = 12 }
y = { 1 = 0, 2 = 4.5 }
z = { base = 0, deck = 4 }
[surfaces.roof]
corners = [[0, 80, 4], [12, 80, 4], [12, 86, 6], [0, 86, 6]]
deck = "y"
[cases]
Q = { action = "live" }
""" + "".join(
    f'[members.{name}]\nsection = "IPE 200"\nmaterial = "S235"\n'
    for name in ("chords", "webs", "columns", "beams", "rafters", "braces", "purlins")
)  # fmt: skip


def winds():
    """The guide's other [wind] tables, by their names."""
    return dict(re.findall(r"```wind (\S+)\n(.*?)```", GUIDE, re.S))


def snows():
    """The guide's [snow] tables, by their names."""
    return dict(re.findall(r"```snow (\S+)\n(.*?)```", GUIDE, re.S))


def traffics():
    """The guide's [vehicles] and [traffic], by their names."""
    return dict(re.findall(r"```traffic (\S+)\n(.*?)```", GUIDE, re.S))


GANTRY = """
[project]
units = "kN m"
[grid]
x = { A = 0, B = 6, C = 12 }
y = { 1 = 0, 2 = 6 }
z = { base = 0, mezz = 4, top = 7 }
[members.runway]
section = "HEB 400"
material = "S355"
runs = ["A>>C / 1,2 / top"]
[members.joists]
section = "HEB 300"
material = "S355"
runs = ["A>>C / 1,2 / mezz"]
[members.ramp]
section = "HEB 300"
material = "S355"
pieces = { r1 = "R > A1@mezz" }
[members.columns]
section = "HEB 240"
material = "S355"
runs = ["A..C / 1,2 / base>>top"]
[nodes]
R = [-30, 0, 0]
[[supports]]
at = ["*@base", "R"]
fix = "fixed"
[surfaces.mezz-floor]
corners = ["A1@mezz", "C1@mezz", "C2@mezz", "A2@mezz"]
deck = "y"
[cases]
SW = { action = "dead", self_weight = 1 }
"""


STANDING = """
[surfaces.canopy]
corners = ["k0", "k1", "k2", "k3"]
carry = "nodes"
[surfaces.parapet-s]
corners = ["s0t", "s1t", [30, 0, 10], [0, 0, 10]]
carry = "nodes"
[members.mast]
section = "CHS 168.3x6.3"
material = "S355"
[members.mast.pieces]
a = "s1t > P"
[members.stays]
section = "CHS 60.3x4"
material = "S355"
[members.stays.pieces]
a = "P > n1t"
[members.rack]
section = "HEB 100"
material = "S355"
[members.rack.pieces]
a = "k0 > k1"
b = "k1 > k2"
c = "k2 > k3"
d = "n1t > k0"
"""


def test_the_guides_winds_blow():
    """Each on the same hall, with a canopy, a parapet, a mast, stays and a rack."""
    for name, text in winds().items():
        house = hall("ASCE 7-22", 30, 20, 9, 9, more=STANDING).replace(
            "[nodes]",
            "[nodes]\nP = [30, 0, 14]\nk0 = [34, 20, 7]\nk1 = [42, 20, 7]\nk2 = [42, 28, 7]\nk3 = [34, 28, 7]",
        )
        before, _, after = house.partition("[wind]")
        found = reading(before + after[after.index("[surfaces.canopy]") :] + text)
        assert found.sound, (name, list(map(str, found.findings)))
        assert len(found.resolved.wind.pieces) > 100
    assert len(snows()) == 4
    for name, text in snows().items():
        found = reading(before + after[after.index("[surfaces.canopy]") :] + text)
        assert found.sound, (name, list(map(str, found.findings)))
        snow = found.resolved.snow
        if name == "rain":
            assert sum(p.force for p in found.resolved.rain.pieces) / 1e3 == pytest.approx(
                600 * 0.135 * 9.802, rel=1e-3
            )
            continue
        assert len(snow.pieces) > 15 and bool(snow.drifts) == ("guards   = true" not in text), name
    (text,) = blocks(GUIDE, "wind-plane")
    portal = PORTAL_IN_PLANE + text
    assert reading(portal).sound and len(resolved(portal).wind.pieces) > 20


PORTAL_IN_PLANE = """
[project]
units = "kN m"
space = "plane"
[nodes]
a = [0, 0]
A = [0, 6]
R = [10, 8]
B = [20, 6]
b = [20, 0]
[members.columns]
section = "HEB 240"
material = "S355"
pieces = { west = "a > A", east = "b > B" }
[members.rafters]
section = "IPE 360"
material = "S355"
pieces = { west = "A > R", east = "R > B" }
[[supports]]
at = ["a", "b"]
fix = "fixed"
"""


def test_the_guides_traffic_runs(tmp_path):
    """Each of its pieces on a gantry with a mezzanine and a ramp: every case stands somewhere and balances there."""
    assert len(traffics()) == 4
    for name, text in traffics().items():
        (tmp_path / "m.toml").write_text(GANTRY + text, encoding="utf-8")
        study = Study.read(tmp_path / "m.toml", cache=False)
        assert [str(f) for f in study.findings if f.level != "note"] == [], name
        stood, _ = study.stand([r for r in study.resolved.results if r.moving])
        assert len(stood) >= 2 * len(study.resolved.laid)
        assert closing_error(study.solution(), stood).max() < 1e-9


def test_the_guides_model_runs_and_every_key_has_an_example(guide):
    text = guide.read_text(encoding="utf-8") + (guide.parent / "yard-rules.toml").read_text(encoding="utf-8")
    text += "".join([*winds().values(), *snows().values(), *traffics().values(), *blocks(GUIDE, "copies"), *blocks(GUIDE, "makers"),
                     *blocks(GUIDE, "wind-plane"), *blocks(GUIDE, "plates")])  # fmt: skip
    study = Study.read(guide)
    assert [str(f) for f in study.findings if f.level != "note"] == []
    asked = [*study.project.case_names, "lift", "storage"]
    s = study.solution(study.under(asked))
    assert closing_error(s, named(s, asked)).max() < 1e-8  # of second order
    assert s.how(named(s, ["storage", "lift"])) == ["second order", "as one"] and 1.1 < critical(s, "storage") < 100
    taken = {name for form in every_form().values() if not form.name.startswith("table of") for name in form.names}
    taken -= {*USES, *ACTIONS, "alpha_A_min", "A_0", "psi_0"}  # words for what a case is; values of another code
    heads = {part for head in re.findall(r"^\[+([a-z.-]+)", text, re.M) for part in head.split(".")}
    assert len(taken) > 80
    assert taken - heads - set(re.findall(r"(?<![\w.-])([A-Za-z_]\w*) *= ", text)) == set(), "keys without an example"


def test_the_guides_ways_of_copying_run(guide):
    """Each of them with the columns and beams of its model."""
    ways = blocks(GUIDE, "copies")[0].strip().split("\n\n")
    text = guide.read_text(encoding="utf-8")
    assert len(ways) == 3
    for way in ways:
        guide.write_text(f'{text}\n[[copies]]\nname = "more"\nof = ["columns", "beams"]\n{way}\n', encoding="utf-8")
        study = Study.read(guide, cache=False, quick=True)
        assert study.sound and sum(m.name.endswith("~more") for m in study.project.members) >= 4, way


def test_the_guides_structural_surfaces_stand():
    text = '[project]\nunits = "kN m"\n' + "".join(blocks(GUIDE, "plates"))
    text += (
        '[[supports]]\nalong = [[20, 0, 0], [26, 0, 0]]\nfix = "x y"\n[[supports]]\nalong = "wall/1"\nfix = "fixed"\n'
    )
    text += '[cases]\nG = { action = "dead", self_weight = 1 }\nQ = { action = "live" }\nT = { action = "thermal" }\n'
    found = reading(text)
    model = resolve(found.project, found.findings)
    assert [str(f) for f in (*found.findings, *model.findings) if f.level != "note"] == []
    solution = solve(model)
    weight = 25e3 * ((0.24 + 0.18 * 0.15 / 0.9) * 105 + 0.25 * 18 + 0.4 * 30)
    up = solution.reaction[:, 2] @ solution.weights(solution.results)
    assert up.sum(axis=0) == pytest.approx([weight, 8e3 * 9, 0], rel=2e-4, abs=1)


def test_the_guides_makers_lay_members():
    """All of them in one model, each a good number."""
    text = GUIDES_GRID + blocks(GUIDE, "makers")[0]
    found = reading(text)
    errors = [str(f) for f in found.findings if f.level == "error" and "no supports" not in f.message]
    assert errors == []
    laid = Counter(m.name.split("/")[1].split(".")[0] for m in found.project.members)
    assert set(laid) == {"T1", "T2", "block", "gable", "vault", "steps", "W1", "W2", "W3", "P", "J"}
    assert laid["T1"] == 1 + 2 + 8 + 9 and laid["steps"] == 4 + 18 and laid["W1"] == 8


def test_the_figure_of_trusses_is_as_the_makers_lay_them():
    import sys

    sys.path.insert(0, str(ROOT / "tools"))
    from guide_trusses import FIGURE, drawn

    assert FIGURE.read_text(encoding="utf-8") == drawn(), "run python tools/guide_trusses.py"


def test_the_guide_lists_the_keys_as_they_are_read():
    """Its tables are those that tools/guide_tables.py writes, and none is left out but lists of freedoms and numbers."""
    written = dict(re.findall(r"<!-- keys: (.+?) -->\n(.*?)<!-- end -->", GUIDE, re.S))
    found = every_form()
    assert {name: as_markdown(found[name]) for name in written} == written, "run python tools/guide_tables.py"
    with_keys = {name for name, form in found.items() if form.keys and not name.startswith("table of")}
    bare = {"model", "tables", "grid", "makers.NAME", "members.NAME.ends", "members.NAME.pieces.NAME", "supports.turn", "factors.NAME",
            "supports.spring", "supports.spring along a line", "supports.settle", "floors.NAME.dead.layers.NAME", "reduction.values", "rule file"}  # fmt: skip
    assert with_keys - set(written) == bare


def test_a_key_left_out_means_what_the_guide_says():
    """With the value that the guide gives for leaving it out written there, the model is the same."""
    before, tried = solution(PORTAL).displacement, 0
    for head, form in ("[members.rafters]", keys.MEMBER), ("[project]", keys.PROJECT), ("[[supports]]", keys.SUPPORT):
        for name in form.names:
            row = as_markdown(form.only([name])).splitlines()[2]
            value = re.fullmatch(r"`(\S+)`|([\d.]+)", row.split(" | ")[2])
            if value and not re.search(rf"^{name}\b", PORTAL.split(head)[1].split("[")[0], re.M):
                written = PORTAL.replace(head, f"{head}\n{name} = {value[1] or value[2]}", 1)
                assert np.array_equal(solution(written).displacement, before), name
                tried += 1
    assert tried >= 9


def test_what_the_guide_says_of_loads_by_hand(guide):
    """Totals of case Q and W of the guide's model, worked out on paper."""
    model = Study.read(guide, quick=True).resolved
    total = applied_totals(model.project, model.loads, np.zeros(3), model.load_columns) / 1e3
    Q, W = (model.project.case_names.index(name) for name in ("Q", "W"))
    beams = 4 * 11.25 * (0.6 * 6 - 1)
    cross = 4.5 * (2 + 6) / 2 + (1.5 * 4 / 2 + 3 * 4)
    roof = 0.6 * (2 * 4.5 + 2 * 6)
    spaced = 8 * 0.4 + 2 * 0.2  # hooks at 0.3, 1.05, ... 5.55 m, and both ends of a roof beam
    plating = (12 * 4.5 - 1.5) * (2.5 + 0.5) + 4 + 2  # live load and partitions, less the opening
    assert total[2, Q] == pytest.approx(-(beams + cross + roof + 25 + 10 + 3 + plating + spaced), rel=1e-12)
    push = 1.2 * (2 * 3.8 + 2 * 2.6) + 2 * 0.375 * 2.1 + 2 * 0.4 + 0.5 * 3.8 * 4.5
    lift = 0.4 * 4.5 + 0.15 * 6 * 4.5
    assert total[[0, 2], W] == pytest.approx([push, lift], rel=1e-12)


def test_the_python_pages_lines_run(tmp_path, monkeypatch, capsys):
    from importlib.resources import files

    (lines,) = blocks((ROOT / "docs/python.md").read_text(encoding="utf-8"), "python")
    sample = files("empuje.samples").joinpath("packing_house", "packing-house.toml").read_text(encoding="utf-8")
    (tmp_path / "packing-house").mkdir()
    (tmp_path / "packing-house" / "packing-house.toml").write_text(sample, encoding="utf-8")
    monkeypatch.chdir(tmp_path)
    exec(lines, {})
    assert "Fz [kN]" in capsys.readouterr().out


def test_the_readmes_ten_lines_give_what_it_shows(tmp_path, capsys):
    readme = (ROOT / "README.md").read_text(encoding="utf-8")
    (model,), (shown,) = blocks(readme, "toml"), blocks(readme, "said")
    (tmp_path / "ten.toml").write_text(model, encoding="utf-8")
    assert main(["reactions", str(tmp_path / "ten.toml")]) == 0 and len(readme.splitlines()) < 100
    printed = " ".join((found := capsys.readouterr()).out.split()) + " ".join(found.err.split())
    assert len(model.splitlines()) == 10 and not [w for w in shown.splitlines() if " ".join(w.split()) not in printed]


def test_every_picture_is_linked_and_every_link_leads_somewhere():
    """To a file that there is, and to a head in it where one is named; from the README to every picture and page."""
    shots = {p.name for p in (ROOT / "docs" / "screenshots").glob("*.png")}
    pages = [page for page in sorted((ROOT / "docs").glob("*.md")) if page.stem != "index"]
    readme = (ROOT / "README.md").read_text(encoding="utf-8")
    linked = set(re.findall(r"docs/screenshots/([\w-]+\.png)", readme))
    assert shots == linked and 5 <= len(shots) < 20
    assert all(f"(docs/{page.name})" in readme for page in pages)
    for page in (ROOT / "README.md", ROOT / "CONTRIBUTING.md", *pages):
        text = re.sub(r"```.*?```", "", page.read_text(encoding="utf-8"), flags=re.S)
        for target, head in re.findall(r"\]\(([\w./-]*)(?:#([\w-]+))?\)", text):
            to = page.parent / target if target else page
            assert to.exists(), (page.name, target)
            if head:
                heads = [line.lstrip("# ") for line in to.read_text(encoding="utf-8").splitlines() if line[:1] == "#"]
                anchors = {re.sub(r"[^\w -]", "", h.lower()).replace(" ", "-") for h in heads}
                assert head in anchors, (page.name, head)


def test_the_page_of_commands_says_what_the_command_line_does():
    """And every command shows a call that the command line takes."""
    sys.path.insert(0, str(ROOT / "tools"))
    from commands_page import PAGE, with_commands

    page = PAGE.read_text(encoding="utf-8")
    assert page == with_commands(page), "run python tools/commands_page.py"
    assert set(EXAMPLES) == set(COMMANDS)
    for name, words in EXAMPLES.items():
        parser().parse_args([name, *shlex.split(words)])


def test_the_demos_units_are_plausible():
    """Storey drift below 1/200 and steel stresses below 355 MPa: values an engineer would believe."""
    from importlib.resources import files

    from empuje.core.answers.envelope import extremes

    s = solution(files("empuje.samples").joinpath("packing_house", "packing-house.toml").read_text(encoding="utf-8"))
    names = [r.name for r in s.results if not r.is_case]
    eaves = [i for i, n in enumerate(s.project.nodes) if n.name.endswith("@eave")]
    sway = np.abs(s.displacement[eaves][:, :2] @ s.weights(named(s, ["everyday"]))).max()
    assert 1e-3 < sway < 6.2 / 200
    found = extremes(s, named(s, names), np.arange(len(s.project.members)))
    stress = []
    for m, member in enumerate(s.project.members):
        f, sec = np.abs(found.forces[m].reshape(-1, 6)), member.section
        stress.append((f[:, 0] / sec.A + f[:, 4] / sec.Wel_y + f[:, 5] / sec.Wel_z).max() / 1e6)
    assert 150 < max(stress) < 355 and min(stress) > 1


def test_help_shows_pages_parts_terms_and_keys(capsys):
    def said(*words):
        code = main(["help", *words])
        return code, (found := capsys.readouterr()).out + found.err

    code, listed = said()
    pages = {p.stem for p in (ROOT / "docs").glob("*.md")} - {"index"}
    assert code == 0 and set(re.findall(r"^- `([\w-]+)`", listed, re.M)) == pages
    assert said("glossary") == (0, (ROOT / "docs/glossary.md").read_text(encoding="utf-8"))
    part = said("what", "governs,", "and", "why")[1]
    assert part.startswith("## 12. What governs, and why") and "## 13." not in part and "empuje why" in part
    assert "in each combination" in said("notional", "load")[1] or "of each combination" in said("notional load")[1]
    assert "made too long" in said("lack_of_fit")[1]
    code, missed = said("utlisation")
    assert code == 2 and "did you mean utilisation" in missed
