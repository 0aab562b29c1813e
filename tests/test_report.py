"""The report: what stands in it and in what order, its links, that it is one file and safe; and its PDF page by page."""

import base64
import io
import json
import re
from html.parser import HTMLParser

import numpy as np
import pytest
from pypdf import PdfReader

from empuje.cli import main
from empuje.core.answers.plates import PlateForces
from empuje.core.model.words import ReportPart
from empuje.report.as_html import as_html
from empuje.report.as_pdf import as_pdf, breakable
from empuje.report.make import TITLES, make_report
from empuje.show.blocks import Paragraph, Scene
from empuje.study.study import Study
from models import PORTAL
from plates import RAFT
from test_pictures import grid_frame

WEIGHT = """
[report]
[[report.texts]]
before = "cases"
title  = "About the <crane>"
text   = '''
The crane of 20 kN is <b>not</b> in this model.

It comes with stage 2.'''
"""
BEAM = """
[project]
title = "Loading platform <script>alert(1)</script>"
number = "117"
author = "O. Ramas"
revision = "C"
date = "2026-11-20"
units = "kN m"
[nodes]
a = [0, 0, 0]
b = [8, 0, 0]
[members.beam]
section = "IPE 300"
material = "S235"
pieces = { M = "a > b" }
[[supports]]
at = "a"
fix = "x y z rx"
[[supports]]
at = "b"
fix = "y z"
[cases]
G = { action = "dead", title = "Deck </script>" }
Q = { action = "live" }
[loads]
G = [ { on = "beam", line = 3 } ]
Q = [ { on = "beam", line = 5 } ]
[combinations.custom]
U = { formula = "1.35 G + 1.5 Q", set = "strength" }
S = { formula = "G + Q", set = "service" }
[[limits]]
name = "moment"
check = "force"
on = "beam"
under = "strength"
My = "MOST"
[[accepted]]
finding = "no-catalogue"
reason = "only to be told that it is not there"
"""


class Page(HTMLParser):
    """A page as a reader of it finds it: ids, links, tables with their heads, text by part."""

    def __init__(self, text):
        super().__init__()
        self.ids, self.links, self.sources, self.heads, self.parts = [], [], [], [], []
        self.tables, self.text, self.tags = 0, {}, []
        self.feed(text)

    def handle_starttag(self, tag, attributes):
        own = dict(attributes)
        self.tags.append(tag)
        if "id" in own:
            self.ids.append(own["id"])
        if tag == "a":
            self.links.append(own["href"])
        self.sources += [v for k, v in own.items() if k in ("src", "href", "xlink:href", "action", "data")]
        if tag == "section":
            self.parts.append(own["id"])
        self.tables += tag == "table"

    def handle_data(self, data):
        if self.parts and "script" not in self.tags[-1:] and "style" not in self.tags[-1:]:
            self.text[self.parts[-1]] = self.text.get(self.parts[-1], "") + data


def study_of(tmp_path, text, name="m.toml"):
    path = tmp_path / name
    path.write_text(text, encoding="utf-8")
    return Study.read(path, cache=False)


@pytest.fixture(scope="module")
def page(tmp_path_factory):
    text = BEAM.replace("MOST", "100 kN*m") + WEIGHT
    html = as_html(make_report(study_of(tmp_path_factory.mktemp("report"), text)))
    return html, Page(html)


def test_parts_stand_in_the_order_in_which_a_checker_reads(page):
    html, read = page
    assert read.parts == [str(p) for p in ReportPart if p != ReportPart.SURFACES]
    assert html.index("All limits are met") < html.index('id="basis"')
    for fact in ("117", "O. Ramas", "C", "2026-11-20", "m.toml"):
        assert f"<dd>{fact}</dd>" in html
    assert re.search(r"<dt>digest</dt><dd>[0-9a-f]{16}</dd>", html) and "<dt>Empuje</dt>" in html


def test_every_link_leads_somewhere_and_no_name_is_there_twice(page):
    _, read = page
    assert len(read.ids) == len(set(read.ids))
    inside = [link[1:] for link in read.links if link.startswith("#")]
    assert len(inside) > 20 and set(inside) <= set(read.ids)
    assert len({i for i in inside if i.startswith("why-")}) >= 6  # reactions of both supports, V and M, the limit


def test_it_is_one_file_that_asks_for_nothing_else(page):
    _, read = page
    assert all(s.startswith(("#", "data:")) for s in read.sources)
    assert "link" not in read.tags and "iframe" not in read.tags


def test_words_of_the_model_are_words_and_no_page(page):
    html, read = page
    assert "<script>alert" not in html and "&lt;script&gt;alert(1)&lt;/script&gt;" in html
    assert "Deck &lt;/script&gt;" in html
    data = re.search(r'<script type="application/json" id="scene">(.*?)</script>', html, re.S)[1]
    scene = json.loads(data)
    assert any(r["what"] == "Deck </script>" for r in scene["results"])
    # The engineer's own text stands before its part, in paragraphs.
    own = read.text["cases"]
    assert own.index("About the <crane>") < own.index("is <b>not</b> in this model.") < own.index("Cases, and the sums")
    assert "<p>It comes with stage 2.</p>" in html


def test_values_are_those_of_statics_with_units(page):
    """q = 1.35 (3 + own) ... own weight is no case here: R = q L/2, M = q L2/8, the sag 5 q L4/384 EI."""
    _, read = page
    q = 1.35 * 3 + 1.5 * 5
    assert f"{q * 8 / 2:.3f}" in read.text["reactions"] and f"{q * 64 / 8:.3f}" in read.text["envelopes"]
    assert "Fz [kN]" in read.text["reactions"] and "moment [kN*m]" in read.text["envelopes"]
    sag = 5 * 8e3 * 8**4 / (384 * 210e9 * 8.356e-5) * 1e3
    found = [float(v) for v in re.findall(r"\d+\.\d+", read.text["displacements"])]
    assert min(abs(v - sag) for v in found) < 2e-3 * sag
    assert f"{1.35 * 3 * 64 / 8:.2f}" in read.text["why"] and "The parts add up to the value" in read.text["why"]
    assert "no combination" in read.text["basis"] and "9.80665 m/s2" in read.text["basis"]
    assert "balance to" in read.text["balance"] and "second order" in read.text["validity"]


def test_every_table_of_numbers_says_its_units(page):
    html, _ = page
    for table in re.findall(r"<table.*?</table>", html, re.S):
        caption = re.search(r"<caption>(.*?)</caption>", table)
        heads = re.findall(r'<th scope="col" class="n">(.*?)</th>', table)
        assert re.search(r"<th scope=\"col\"", table), caption
        free = {"factor", "%", "utilisation", "members", "value", "relative", "places", "along", "L/across", "torsion x", "torsion y",
                "density kg/m3", "expansion 1e-6/K", "drift x/h [1/1000]"}  # fmt: skip
        assert all("[" in h or h in free for h in heads), (caption, heads)


def test_a_limit_that_fails_is_said_first_and_marked(tmp_path):
    html = as_html(make_report(study_of(tmp_path, BEAM.replace("MOST", "90 kN*m")), [ReportPart.LIMITS]))
    assert "Not all limits are met" in html and '<tr class="bad"' in html
    assert Page(html).parts == ["limits"] and len(html) < 60_000


def test_parts_are_those_asked_for(tmp_path, capsys):
    text = BEAM.replace("MOST", "100 kN*m")
    rule = make_report(study_of(tmp_path, text + '[report]\nparts = ["limits", "basis"]\n'))
    assert [p.anchor for p in rule.parts] == ["basis", "limits"]
    model, out = str(tmp_path / "m.toml"), str(tmp_path / "r.html")
    assert main(["report", model, "-o", out, "--parts", "cases,balance", "--no-cache"]) == 0
    assert Page((tmp_path / "r.html").read_text(encoding="utf-8")).parts == ["cases", "balance"]
    assert "All limits are met" in capsys.readouterr().err
    for words, said in (
        (["--parts", "limit"], "did you mean limits"), (["-o", str(tmp_path / "r.doc")], ".html or .pdf"),
        (["--under", "Z"], "--under"),
    ):  # fmt: skip
        assert main(["report", model, *(["-o", out] if "-o" not in words else []), *words, "--no-cache"]) == 2
        assert said in capsys.readouterr().err
    bad = study_of(
        tmp_path, text + '[report]\nparts = ["limit"]\n[[report.texts]]\nbefore = "cases"\ntext = " "\n', "b.toml"
    )
    assert {f.code for f in bad.findings if f.level == "error"} == {"unknown-name", "missing-key"}
    assert [f.place.line for f in bad.findings if f.level == "error"] == [BEAM.count("\n") + 2, BEAM.count("\n") + 5]


SPARSE = """
[project]
units = "kip ft"
space = "plane"
[nodes]
a = [0, 0]
b = [20, 0]
[members.beam]
section = "W12X26"
material = "A992"
pieces = { M = "a > b" }
[[supports]]
at = "a"
fix = "fixed"
[cases]
G = { action = "dead" }
"""


def test_models_without_much_have_a_report_too(tmp_path):
    """No loads, no combinations, no limits; in a plane; in kip and ft."""
    report = make_report(study_of(tmp_path, SPARSE))
    html = as_html(report)
    assert "states no limits" in html and "no combinations" in html
    assert as_pdf(report)[:5] == b"%PDF-"


@pytest.fixture(scope="module")
def paper(tmp_path_factory):
    """Enough combinations for tables to go over pages."""
    more = "".join(f'C{i} = "{1 + i / 100:g} G + 0.{i:03d} Q"\n' for i in range(1, 120))
    text = BEAM.replace("MOST", "100 kN*m").replace("[[limits]]", more + "[[limits]]") + WEIGHT
    report = make_report(study_of(tmp_path_factory.mktemp("paper"), text), in_space=False)
    return report, PdfReader(io.BytesIO(as_pdf(report)))


def test_paper_has_page_numbers_running_heads_and_contents(paper):
    report, pdf = paper
    texts = [p.extract_text() for p in pdf.pages]
    assert len(texts) > 8
    for n, text in enumerate(texts, 1):
        assert f"page {n} of {len(texts)}" in text and "Loading platform <script>alert(1)</script>, 117" in text
        assert "revision C, date 2026-11-20, model m.toml" in text
    contents = texts[0][texts[0].index("Contents") :]
    for k, part in enumerate(report.parts, 1):
        line = re.search(rf"{re.escape(part.title)}[ .]*(\d+)", contents)
        assert line, part.title
        assert f"{k}. {part.title}" in re.sub(r"\s+", " ", texts[int(line[1]) - 1]), part.title
    assert [p.title for p in report.parts] == [
        TITLES[p] for p in ReportPart if p not in (ReportPart.VIEW, ReportPart.SURFACES)
    ]
    assert "stage 2" in " ".join(texts) and "What made the governing values" in contents


def test_tables_go_on_with_their_heads_and_stay_on_the_page(paper):
    _, pdf = paper
    texts = [p.extract_text() for p in pdf.pages]
    pages = [t for t in texts if re.search(r"\bC\d+ custom|\bC\d+\b.*G \+", t)]
    assert len(pages) >= 3 and all("combination" in t and "formula" in t for t in pages)
    found = {int(m) for t in texts for m in re.findall(r"\bC(\d+)\b", t)}
    assert set(range(1, 120)) <= found
    for page in pdf.pages:
        places = []

        def seen(text, cm, tm, *_, to=places):
            if text.strip():
                to.append(tm[4] * cm[0] + tm[5] * cm[2] + cm[4])

        page.extract_text(visitor_text=seen)
        assert min(p for p in places if p > 0) >= 40 and max(places) < float(page.mediabox.width) - 40


def test_links_on_paper_lead_to_pages(paper):
    _, pdf = paper
    links = [a.get_object() for p in pdf.pages for a in p.get("/Annots", [])]
    assert len(links) > 20 and all(a["/Subtype"] == "/Link" for a in links)
    number = {p.indirect_reference.idnum: i for i, p in enumerate(pdf.pages)}
    ends = []
    for a in links:
        at = a["/Dest"] if "/Dest" in a else a["/A"]["/D"]
        at = at if not isinstance(at, str) else pdf.named_destinations[at].dest_array
        ends.append(number[list.__getitem__(at, 0).idnum])
    # From the contents to the parts, from governing values to their derivations at the end.
    why = next(i for i, p in enumerate(pdf.pages) if "What made the governing values" in p.extract_text() and i > 0)
    assert len(set(ends)) > 8 and sum(e >= why for e in ends) >= 6


def test_the_same_report_gives_the_same_bytes(tmp_path):
    text = BEAM.replace("MOST", "100 kN*m")
    made = [
        make_report(study_of(tmp_path, text), [ReportPart.FRAME, ReportPart.VIEW, ReportPart.LIMITS]) for _ in range(2)
    ]
    assert as_html(made[0]) == as_html(made[1]) and as_pdf(made[0]) == as_pdf(made[1])


def test_long_names_may_break_and_numbers_never():
    assert breakable("columns/A1/base-eave") == "columns/\u200bA1/\u200bbase\u200b-eave"
    assert breakable("12345.678 -0.5") == "12345.678 -0.5" and breakable("1234567.89012") == "1234567.89012"


def test_the_scene_has_exact_values(tmp_path):
    """Decoded as the page does it: My at midspan, the sag, the extremes; the load as arrows of its size."""
    import base64

    report = make_report(study_of(tmp_path, BEAM.replace("MOST", "100 kN*m")), [ReportPart.VIEW])
    data = report.parts[0].blocks[1].data

    def floats(text):
        return np.frombuffer(base64.b64decode(text), "<f4")

    u = next(r for r in data["results"] if r["name"] == "U")
    x, f, moved = floats(data["x"]), floats(u["f"]).reshape(-1, 6), floats(u["u"]).reshape(-1, 3)
    middle = int(np.abs(x - 4).argmin())
    q = 1.35 * 3 + 1.5 * 5
    assert (
        x[middle] == 4 and f[middle, 4] == pytest.approx(q * 8, rel=1e-6) and f[0, 2] == pytest.approx(q * 4, rel=1e-6)
    )
    assert moved[middle, 2] == pytest.approx(-5 * q * 1e3 * 8**4 / (384 * 210e9 * 8.356e-5) * 1e3, rel=1e-3)
    extremes = floats(u["e"]).reshape(1, 6, 2, 2)
    assert extremes[0, 4, 1].tolist() == pytest.approx([q * 8, 4], rel=1e-6)
    arrows = floats(data["loads"]["Q"]["q"]).reshape(-1, 3)
    assert (arrows == [0, 0, -5]).all() and u["factors"] == {"G": 1.35, "Q": 1.5}


def test_loads_that_lean_are_in_the_scene_and_turned_supports_are_told(tmp_path):
    """1/200 of 3 and 5 kN/m along x in U, as often as U has the cases they lean from; a support turned by 33 degrees."""
    import base64

    text = BEAM.replace("MOST", "100 kN*m").replace("[loads]", 'L = { notional = "1/200", dir = "+x" }\n[loads]')
    text = text.replace('"1.35 G + 1.5 Q"', '"1.35 G + 1.5 Q + L"').replace(
        'fix = "y z"', 'fix = "y z"\nturn = { x = "33 deg" }'
    )
    report = make_report(study_of(tmp_path, text), [ReportPart.FRAME, ReportPart.VIEW])
    data = report.parts[1].blocks[1].data
    u = next(r for r in data["results"] if r["name"] == "U")
    assert u["factors"]["L of G"] == 1.35 and u["factors"]["L of Q"] == 1.5
    q = np.frombuffer(base64.b64decode(data["loads"]["L of Q"]["q"]), "<f4").reshape(-1, 3)
    assert len(q) > 3 and np.allclose(q, [5 / 200, 0, 0])
    told = Page(as_html(report)).text["frame"]
    assert "y z (in axes of its own)" in told and told.count("in axes of its own") == 1


def test_slabs_are_in_the_scene_and_in_the_report(tmp_path):
    path = tmp_path / "raft.toml"
    path.write_text(RAFT, encoding="utf-8")
    study = Study.read(path, cache=False)
    report = make_report(study)
    part = next(p for p in report.parts if p.anchor == "surfaces")
    grid = part.blocks[0]
    rows = {(r[1].text, r[2].text): [c.text for c in r] for r in grid.rows}
    assert "force [kN/m]" not in grid.heads
    assert float(rows["m_x", "peak max"][grid.heads.index("moment [kN*m/m]")]) > 100 and ("m_x", "max") in rows
    assert any("Mesh error" in b.text for b in part.blocks if isinstance(b, Paragraph))
    data = next(b for p in report.parts for b in p.blocks if isinstance(b, Scene)).data

    def numbers(owner, key, wide):
        return np.frombuffer(base64.b64decode(owner[key]), "<f4").reshape(-1, wide)

    plates, by_name = data["plates"], {r["name"]: r for r in data["results"]}
    at, faces = numbers(plates, "at", 3), numbers(plates, "faces", 3).astype(int)
    a, b, c = (at[faces[:, k]] for k in range(3))
    assert np.linalg.norm(np.cross(b - a, c - a), axis=1).sum() / 2 == pytest.approx(30, rel=1e-5)
    forces = PlateForces(study.solution([study.under(["U"])[0]]))
    assert numbers(by_name["U"], "pf", len(at))[3].max() == pytest.approx(
        1.5 * forces.every[:, 3, 0].max() / 1e3, rel=1e-5
    )
    sinks = numbers(by_name["Q"], "pu", 3)[:, 2]
    assert sinks.min() < -1 and at[sinks.argmin()] == pytest.approx([0, 0, 0])  # the nearest corner [mm]
    # A force where it is, a line as forces with their sum, an area as its pressure.
    q, h = data["loads"]["Q"], data["loads"]["H"]
    assert numbers(q, "point", 3) == pytest.approx(np.array([[2, 2, 0]]), abs=1e-5)
    assert numbers(q, "p", 3) == pytest.approx(np.array([[0, 0, -400]]), abs=1e-3)
    assert numbers(q, "w", 3) == pytest.approx(np.tile([0, 0, -5], (len(numbers(q, "w", 3)), 1)), abs=1e-4)
    assert numbers(h, "p", 3).sum(axis=0) == pytest.approx([40, 0, 0], abs=1e-4) and len(numbers(h, "p", 3)) > 8
    middle = (numbers(h, "point", 3) * numbers(h, "p", 3)[:, :1]).sum(axis=0) / 40
    assert middle == pytest.approx([3, 1, 0], abs=1e-5)


def test_the_portal_with_everything_one_way_has_its_slack_in_the_scene(tmp_path):
    report = make_report(study_of(tmp_path, PORTAL), [ReportPart.VIEW, ReportPart.REACTIONS])
    results = report.parts[0].blocks[1].data["results"]
    assert len(results) >= 3 and all(isinstance(r["slack"], list) for r in results)


def test_storeys_warnings_and_what_is_accepted(tmp_path):
    """Two storeys with their drifts; a load that acts upward warns at the head, and as accepted with its reason below."""
    text = grid_frame(1, 2).replace("line = 12 }", 'line = 12 }, { on = "beams", line = -0.5 }')
    text += '[combinations.custom]\nU = "Q + W"\n'
    few = [ReportPart.DISPLACEMENTS, ReportPart.FINDINGS, ReportPart.BASIS]
    html = as_html(make_report(study_of(tmp_path, text), few))
    read = Page(html)
    assert "S0-S1" in read.text["displacements"] and "S1-S2" in read.text["displacements"]
    assert "1 warning is open" in html and "acts-upward" in read.text["findings"]
    text += '[[accepted]]\nfinding = "acts-upward"\nreason = "as agreed"\n'
    html = as_html(make_report(study_of(tmp_path, text), few))
    assert "stands: see" not in html and "because as agreed" in Page(html).text["findings"]


def test_what_an_extra_brings_is_asked_for_before_any_work(tmp_path, monkeypatch, capsys):
    """Without its package a report is refused with the command that installs it; a page without the view needs none."""
    path = tmp_path / "m.toml"
    path.write_text(PORTAL, encoding="utf-8")
    monkeypatch.setattr("importlib.util.find_spec", lambda name: None)
    for ending, package in ((".pdf", "typst"), (".html", "plotly")):
        out = tmp_path / f"r{ending}"
        assert main(["report", str(path), "-o", str(out)]) == 2 and not out.exists()
        told = capsys.readouterr().err
        assert f"needs the package {package}: pip install 'empuje[report]'" in told
    assert main(["report", str(path), "-o", str(out), "--parts", "frame"]) == 0 and out.exists()
