"""The report's page in a real browser, from disk and without a network: choosing changes the picture, nothing fails."""

import os
import re
import shutil

import pytest

from empuje.cli import main
from plates import RAFT
from test_report import BEAM

CHROMIUM = next((p for name in ("chromium", "chromium-browser", "google-chrome") if (p := shutil.which(name))), None)
pytestmark = [
    pytest.mark.skipif(
        CHROMIUM is None and not os.environ.get("BROWSER_REQUIRED"), reason="no Chromium on this machine"
    ),
    pytest.mark.filterwarnings("ignore"),
]
OPTIONS = [
    "--no-sandbox", "--use-angle=swiftshader", "--enable-unsafe-swiftshader", "--disable-background-networking",
    "--no-first-run", "--disable-component-update", "--disable-sync",
]  # fmt: skip
Q = 1.35 * 3 + 1.5 * 5


@pytest.fixture(scope="module")
def opened(tmp_path_factory):
    """The page, open; what its console said, and what it asked the network for."""
    from playwright.sync_api import sync_playwright

    folder = tmp_path_factory.mktemp("browser")
    model, out = folder / "m.toml", folder / "report.html"
    many = "".join(f'C{i} = "{1 + i / 100:g} G"\n' for i in range(1, 15))
    model.write_text(BEAM.replace("MOST", "100 kN*m").replace("[[limits]]", many + "[[limits]]"), encoding="utf-8")
    assert main(["report", str(model), "-o", str(out), "--no-cache"]) == 0
    with sync_playwright() as tools:
        browser = tools.chromium.launch(executable_path=CHROMIUM, args=OPTIONS)
        context = browser.new_context(viewport={"width": 1280, "height": 800}, offline=True)
        page = context.new_page()
        said, asked = [], []
        page.on("console", lambda m: said.append(f"{m.type}: {m.text}") if m.type == "error" else None)
        page.on("pageerror", lambda e: said.append(f"error: {e}"))
        page.on("request", lambda r: asked.append(r.url) if not r.url.startswith(("file:", "data:", "blob:")) else None)
        page.goto(out.as_uri())
        page.wait_for_selector("#model canvas")
        yield page, said, asked
        browser.close()


def trace(page, name):
    """The points of one trace of the view."""
    return page.evaluate(
        "n => { const t = document.getElementById('model').data.find(t => t.name === n);"
        " return t ? { z: Array.from(t.z, v => v === null || Number.isNaN(v) ? null : v), text: t.text || [] } : null }", name
    )  # fmt: skip


def choose(page, result, shown):
    label = page.locator("#result option", has_text=result).first.get_attribute("value")
    page.select_option("#result", label)
    page.select_option("#shown", shown)


def test_choosing_changes_what_is_seen_and_said(opened):
    page, said, asked = opened
    choose(page, "U:", "deflected")
    page.wait_for_timeout(400)
    before = page.locator("#model").screenshot()
    assert "Deflected, drawn" in page.inner_text("#said") and "in beam/M at 4 m" in page.inner_text("#said")
    sags = min(v for v in trace(page, "shape")["z"] if v is not None)
    assert -0.6 < sags < -0.2  # 5 to 6 % of 8 m as it is drawn
    choose(page, "U:", "My")
    page.wait_for_timeout(400)
    assert page.locator("#model").screenshot() != before
    assert f"My under U, 1.35 G + 1.5 Q: largest {Q * 8:.4g} kN*m in beam/M at 4 m" in page.inner_text("#said")
    drawn = trace(page, "shape")
    texts = [t for t in drawn["text"] if f"My = {Q * 8:.4g} kN*m" in t]
    assert texts and "x = 4 m" in texts[0] and "under U" in texts[0]
    # On the tension side: below a beam that sags.
    assert min(v for v in drawn["z"] if v is not None) == pytest.approx(-0.085 * 8, rel=1e-5)
    choose(page, "S:", "Vz")
    assert "Vz under S" in page.inner_text("#said") and "largest 32 kN" in page.inner_text("#said").replace("-", "")
    choose(page, "Q", "loads")
    assert "5 kN/m" in page.inner_text("#said") and trace(page, "loads")["z"]
    page.locator("#scale").fill("1")
    assert max(v for v in trace(page, "loads")["z"] if v is not None) == pytest.approx(10 * 0.08 * 8, rel=1e-5)
    page.locator("#scale").fill("0")
    assert said == [] and asked == []


def test_shapes_and_loads_move_when_they_are_asked_to(opened):
    page, said, _ = opened
    choose(page, "U:", "deflected")
    rest = trace(page, "shape")["z"]
    page.click("#play")
    seen = set()
    for _ in range(8):
        page.wait_for_timeout(200)
        seen.add(round(min(v for v in trace(page, "shape")["z"] if v is not None), 4))
    assert len(seen) > 3 and page.get_attribute("#play", "aria-pressed") == "true"
    page.click("#play")
    page.wait_for_timeout(300)
    assert trace(page, "shape")["z"] == rest and page.inner_text("#play") == "Animate"
    assert said == []


def test_a_member_picked_shows_its_strip_and_its_why(opened):
    page, said, _ = opened
    choose(page, "U:", "My")
    page.fill("#member", "beam/X")
    page.press("#member", "Enter")
    assert page.inner_text("#said") == "No member is called beam/X."
    page.fill("#member", "beam/M")
    page.press("#member", "Enter")
    page.wait_for_selector("#strip .main-svg")
    picked = page.inner_text("#picked")
    assert "beam/M: IPE 300, S235, under U" in picked and f"{Q * 8:.4g}" in picked
    moments = page.evaluate("Array.from(document.getElementById('strip').data.map(t => Math.max(...t.y)))")
    assert any(m == pytest.approx(Q * 8, rel=1e-5) for m in moments)
    page.locator("#picked a", has_text="why").first.click()
    at = page.evaluate("location.hash.slice(1)")
    assert at.startswith("why-")
    page.wait_for_function("i => document.getElementById(i).open", arg=at)
    # The same by a click on the member itself.
    page.evaluate("document.getElementById('picked').replaceChildren()")
    page.evaluate("document.getElementById('model').emit('plotly_click', { points: [{ data: { name: 'members' }, pointNumber: 3 }] })")  # fmt: skip
    page.wait_for_selector("#strip .main-svg")
    assert said == []


def test_a_slab_is_shaded_and_moves(opened, tmp_path):
    page, said, asked = opened
    model, out, home = tmp_path / "raft.toml", tmp_path / "raft.html", page.url
    model.write_text(RAFT, encoding="utf-8")
    assert main(["report", str(model), "-o", str(out), "--no-cache"]) == 0
    try:
        page.goto(out.as_uri())
        page.wait_for_selector("#model canvas")
        choose(page, "U:", "m_x")
        assert re.search(r"m_x under U.*: largest [\d.]+ kN\*m/m in raft at 2.*m", page.inner_text("#said"))
        shades = "Array.from(document.getElementById('model').data.find(t => t.name === 'sheets').intensity)"
        values = page.evaluate(shades)
        assert max(values) > 100 and f"largest {float(f'{max(values):.4g}'):g} kN" in page.inner_text("#said")
        choose(page, "U:", "deflected")
        assert min(trace(page, "sheets")["z"]) < -0.05 and "mm in raft at 0, 0, 0 m" in page.inner_text("#said")
        choose(page, "U:", "loads")
        assert "600 kN and 7.5 kN/m2; on slabs and walls gathered over 0.3 m" in page.inner_text("#said")
        assert max(page.evaluate(shades)) == 0 and said == [] and asked == []
    finally:
        page.goto(home)
        page.wait_for_selector("#model canvas")


def test_the_view_turns_by_keys_and_buttons(opened):
    page, said, _ = opened
    eye = (
        "(() => { const e = document.getElementById('model')._fullLayout.scene.camera.eye; return [e.x, e.y, e.z] })()"
    )
    page.focus("#model")
    before = page.evaluate(eye)
    page.keyboard.press("ArrowLeft")
    page.wait_for_timeout(200)
    turned = page.evaluate(eye)
    assert turned != before and turned[2] == pytest.approx(before[2])
    page.click('[data-turn="up"]')
    page.wait_for_timeout(200)
    assert page.evaluate(eye)[2] > turned[2]
    small = page.evaluate("document.getElementById('model')._fullLayout.scene.aspectratio.x")
    before = page.locator("#model").screenshot()
    page.keyboard.press("+")
    page.click('[data-turn="in"]')
    page.wait_for_timeout(300)
    assert page.evaluate("document.getElementById('model')._fullLayout.scene.aspectratio.x") > 1.2 * small
    assert page.locator("#model").screenshot() != before
    assert said == []


def test_tables_sort_and_filter(opened):
    page, said, _ = opened
    table = page.locator("#combinations table").last
    rows = "rows => rows.filter(r => !r.hidden).map(r => r.cells[0].textContent)"
    names = table.locator("tbody tr").evaluate_all(rows)
    head = table.locator("th").first
    head.click()
    up = table.locator("tbody tr").evaluate_all(rows)
    # C2 before C10, as people count.
    assert up.index("C2") < up.index("C10") and set(up) == set(names) and head.get_attribute("aria-sort") == "ascending"
    head.press("Enter")
    assert table.locator("tbody tr").evaluate_all(rows) == up[::-1]
    page.locator("#combinations input[type=search]").fill("1.5 q")
    assert table.locator("tbody tr").evaluate_all(rows) == ["U"]
    assert page.locator("#combinations .filter span").inner_text() == f"1 of {len(names)}"
    page.locator("#combinations input[type=search]").fill("")
    forces = page.locator("#envelopes table").first
    of = forces.locator("th").all_inner_texts()
    at = next(i for i, h in enumerate(of) if h.startswith("moment"))
    forces.locator("th").nth(at).click()
    values = forces.locator("tbody tr").evaluate_all(f"rows => rows.map(r => r.cells[{at}].textContent)")
    numbers = [float(v) for v in values if v.strip("- ")]
    assert numbers == sorted(numbers)
    assert said == []


def test_it_reads_aloud_and_prints(opened):
    page, said, _ = opened
    assert page.locator("main").count() == 1 and page.locator("h1").count() == 1
    unnamed = page.evaluate(
        "Array.from(document.querySelectorAll('select, input, button')).filter(e => !(e.labels && e.labels.length)"
        " && !e.getAttribute('aria-label') && !e.textContent.trim()).length"
    )
    assert unnamed == 0
    assert page.evaluate("Array.from(document.querySelectorAll('[role=img]')).every(e => e.getAttribute('aria-label'))")
    assert page.evaluate("Array.from(document.querySelectorAll('th')).every(e => e.scope === 'col')")
    page.emulate_media(media="print")
    assert not page.locator("#view").is_visible() and page.locator("#basis").is_visible()
    printed = page.pdf(format="A4")
    page.emulate_media(media="screen")
    from io import BytesIO

    from pypdf import PdfReader

    texts = [p.extract_text() for p in PdfReader(BytesIO(printed)).pages]
    assert len(texts) > 3 and any("The parts add up to the value" in t for t in texts)  # closed ones open to be printed
    assert said == []
