"""Other sections: the lightest that passes, found against closed forms; the model file changed in nothing else."""

import contextlib
import os
import subprocess
import sys
import time
from multiprocessing import active_children
from pathlib import Path

import pytest

from empuje.cli import main
from empuje.core.catalogue.catalogue import find_section
from empuje.files.base.edit import CannotEdit, with_sections
from empuje.study.sections import choices, named_sections, tried

BEAM = """# a walkway
[project]
units = "kN m"
[nodes]
A = [0, 0, 0]
B = [6, 0, 0]
C = [0, 3, 0]
D = [6, 3, 0]

[members.edge]
section  = "IPE 100"      # to be found
material = "S355"
pieces   = { a = "A > B" }
[members.inner]
section  = 'IPE 100'
material = "S355"
pieces   = { c = "C > D" }
[[supports]]
at = ["A", "C"]
fix = "x y z rx"
[[supports]]
at = ["B", "D"]
fix = "y z rx"
[cases]
SW = { action = "dead", self_weight = 1 }
Q = { action = "live" }
[loads]
Q = [ { on = "edge", line = 12 }, { on = "inner", line = 30 } ]
[combinations.custom]
U = { formula = "1.35 SW + 1.5 Q", set = "strength" }
S = { formula = "SW + Q", set = "service" }
[steel]
code = "EN 1993-1-1"
[[steel.lengths]]
on = "*/*"
flange = "both"
[[limits]]
name = "sag"
check = "deflection"
on = "*/*"
under = "service"
across = "span/250"
"""
LADDER = "IPE 160 .. IPE 400"


def passes(name, q, L=6.0):
    """Plastic moment and sag of a simple beam under q [N/m] and its own weight, by hand; IPE sections are of class 1."""
    s = find_section(name)
    w = s.A * 7850 * 9.80665
    M = (1.35 * w + 1.5 * q) * L**2 / 8
    sag = 5 * (w + q) * L**4 / (384 * 210e9 * s.Iy)
    return s.Wpl_y * 355e6 >= M and sag <= L / 250


def lightest(q):
    names = named_sections([LADDER], [])
    return min((n for n in names if passes(n, q)), key=lambda n: find_section(n).A)


def test_ranges_of_sections():
    assert named_sections(["IPE 240 .. IPE 300", "HEA 200", "ipe270"], []) == [
        "IPE 240",
        "IPE 270",
        "IPE 300",
        "HEA 200",
    ]
    assert named_sections(["IPE 300 .. IPE 270"], []) == ["IPE 270", "IPE 300"]
    assert named_sections(["own"], ["own"]) == ["own"]
    for word in ("IPE 301", "IPE 240 .. HEA 200", "IPE 200 .. IPE 240 .. IPE 300"):
        with pytest.raises(LookupError):
            named_sections([word], [])


def test_the_lightest_that_passes_is_that_of_the_closed_form(tmp_path):
    """Its own weight and stiffness count; strength decides for the one family, the sag for the other, or the reverse."""
    path = tmp_path / "m.toml"
    heavy, light = lightest(30e3), lightest(12e3)
    assert heavy != light
    path.write_text(BEAM.replace("IPE 100'", f"{heavy}'"), encoding="utf-8")
    found = tried(path, ["edge"], named_sections([LADDER], []), 20, workers=2)
    assert found[0].choice == (light,) and found[0].passes
    by_hand = {n: passes(n, 12e3) for n in named_sections([LADDER], [])}
    assert {t.choice[0]: t.passes for t in found} == by_hand
    assert [t.mass for t in found if t.passes] == sorted(t.mass for t in found if t.passes)
    s = find_section(light)
    assert found[0].mass == pytest.approx(s.A * 7850 * 6) and found[0].whole > found[0].mass
    w = s.A * 7850 * 9.80665
    assert found[0].used == pytest.approx((1.35 * w + 1.5 * 12e3) * 4.5 / (s.Wpl_y * 355e6), rel=1e-6)


def test_families_together_climb_to_the_lightest_mix(tmp_path):
    """49 mixes, 16 analyses: the same mix as each family by itself, since the beams do not touch."""
    path = tmp_path / "m.toml"
    path.write_text(BEAM, encoding="utf-8")
    names = named_sections(["IPE 160 .. IPE 360"], [])
    found = tried(path, ["edge", "inner"], names, 16, workers=2)
    assert len(found) <= 16 < len(names) ** 2
    assert found[0].passes and found[0].choice == (lightest(12e3), lightest(30e3))
    few = tried(path, ["edge", "inner"], names, 2, workers=1)
    assert len(few) == 2 and not any(t.passes for t in few)


POST = """[project]
units = "kN m"
space = "plane"
[nodes]
foot = [0, 0]
middle = [0, 3]
head = [0, 6]
[members.lower]
section = "IPE 200"
material = "S355"
pieces = { a = "foot > middle" }
[members.upper]
section = "IPE 200"
material = "S355"
pieces = { b = "middle > head" }
[[supports]]
at = "foot"
fix = "fixed"
[cases]
Q = { action = "live" }
[loads]
Q = [ { on = "middle", force = 900 }, { on = "head", force = 100 } ]
[[limits]]
name = "short"
check = "displacement"
at = "head"
under = "Q"
"""


def test_a_heavy_family_may_let_another_be_light(tmp_path, capsys):
    """Bars one on the other, u = F L/E (10/A_1 + 1/A_2): single steps down from the first mix that passes miss the
    lightest, which the analyses left over find; with too few of these it is said how many would do."""
    path = tmp_path / "m.toml"
    names = ["IPE 200", "IPE 220", "IPE 240", "IPE 270"]
    A = [find_section(n).A for n in names]
    u = {(i, k): 100e3 * 3 / 210e9 * (10 / A[i] + 1 / A[k]) for i in range(4) for k in range(4)}
    most = (u[2, 2] + u[2, 1]) / 2
    best = min((key for key in u if u[key] <= most), key=lambda key: A[key[0]] + A[key[1]])
    assert best == (3, 0)
    path.write_text(f"{POST}u = {most!r}\n", encoding="utf-8")
    words = ["try", str(path), "--on", "lower,upper", "--sections", "IPE 200 .. IPE 270", "--runs"]
    left = sum(A[i] + A[k] < 2 * A[2] for i, k in u) - 4  # those of (0, 0), (1, 1), (1, 2) and (2, 1) are lighter too
    for runs, first, said in (
        (5, (2, 2), f"1 pass; lighter mixes not tried: {left} (--runs {5 + left} tries them)"),
        (5 + left, best, "and no lighter mix does"),
    ):
        found = tried(path, ["lower", "upper"], names, runs, workers=1)
        assert found[0].passes and found[0].choice == (names[first[0]], names[first[1]])
        assert all(t.passes == (u[names.index(t.choice[0]), names.index(t.choice[1])] <= most) for t in found)
        assert main([*words, str(runs)]) == 0
        assert said in capsys.readouterr().err


def test_stopping_ends_what_was_begun(tmp_path, capsys, monkeypatch):
    """No process goes on after an interruption, and the environment is as it was; one that dies is told."""
    monkeypatch.setenv("OMP_NUM_THREADS", "7")
    monkeypatch.delenv("MKL_NUM_THREADS", raising=False)
    path, others = tmp_path / "m.toml", set(active_children())
    path.write_text(f"{POST}u = 1\n", encoding="utf-8")

    begun = []

    def stop(_: str, done: int, __: int) -> None:
        assert os.environ["OMP_NUM_THREADS"] == os.environ["MKL_NUM_THREADS"] == "1"
        if done:
            begun.extend(set(active_children()) - others)
            raise KeyboardInterrupt

    with pytest.raises(KeyboardInterrupt):
        tried(path, ["lower"], named_sections([LADDER], []), 40, stop, workers=1)
    assert begun and all(process.exitcode for process in begun) and set(active_children()) <= others
    assert os.environ["OMP_NUM_THREADS"] == "7" and "MKL_NUM_THREADS" not in os.environ

    def dies(*_):
        for child in set(active_children()) - others:
            child.kill()

    from empuje.study import sections as trying

    monkeypatch.setattr(trying, "tried", lambda *a, **k: tried(*a[:4], dies, workers=1))
    assert main(["try", str(path), "--on", "lower", "--sections", LADDER]) == 2
    assert "was ended from outside" in capsys.readouterr().err


@pytest.mark.skipif(not Path("/proc/self/stat").exists(), reason="children are found in /proc")
def test_workers_end_when_what_began_them_is_killed(tmp_path):
    """Though it could not tell them: nothing goes on in the background."""
    (tmp_path / "m.toml").write_text(BEAM, encoding="utf-8")
    words = "from empuje.study.sections import named_sections, tried\nfrom pathlib import Path\nif __name__ == '__main__':\n"
    words += "    names = named_sections(['IPE 80 .. IPE 600', 'HEA 100 .. HEA 1000'], [])\n"
    words += "    tried(Path('m.toml'), ['edge', 'inner'], names, 2000, workers=2)\n"
    (tmp_path / "go.py").write_text(words, encoding="utf-8")
    parent = subprocess.Popen([sys.executable, "go.py"], cwd=tmp_path, stderr=subprocess.DEVNULL)

    def children():
        out = []
        for stat in Path("/proc").glob("[0-9]*/stat"):
            with contextlib.suppress(OSError):
                after = stat.read_text(encoding="utf-8", errors="replace").rpartition(")")[2].split()
                if int(after[1]) == parent.pid and after[0] != "Z":
                    out.append(stat.parent)
        return out

    workers, end = [], time.monotonic() + 60
    while len(workers) < 3 and time.monotonic() < end and parent.poll() is None:  # two and what looks after them
        workers = children()
        time.sleep(0.05)
    assert len(workers) >= 2
    time.sleep(1.0)
    parent.kill()
    parent.wait()
    while any(w.exists() for w in workers) and time.monotonic() < end:
        time.sleep(0.1)
    assert not [w for w in workers if w.exists()]


def test_mixes_come_by_mass(tmp_path):
    from empuje.files.reader import read_model

    path = tmp_path / "m.toml"
    path.write_text(BEAM, encoding="utf-8")
    every = choices(read_model(path).project, ["edge", "inner"], ["IPE 200", "HEA 200", "IPE 160"])
    mass = [sum(find_section(n).A for n in c) for c in every]
    assert len(every) == 9 and mass == sorted(mass)


def test_the_command_and_what_it_writes(tmp_path, capsys):
    path = tmp_path / "m.toml"
    text = BEAM.replace("IPE 100'", "IPE 360'").replace("\n", "\r\n")
    path.write_bytes(text.encode())
    words = ["try", str(path), "--on", "edge", "--sections", "IPE 220 .. IPE 270"]
    assert main(words) == 0
    out = capsys.readouterr()
    assert "3 analyses, every mix" in out.err and path.read_bytes() == text.encode()
    assert main([*words, "--write", "--format", "csv"]) == 0
    best = lightest(12e3)
    assert capsys.readouterr().out.splitlines()[1].startswith(f"{best},passes")
    assert path.read_bytes() == text.replace('"IPE 100"', f'"{best}"').encode()
    for more, told in (
        (["--on", "edges", "--sections", "IPE 200"], "did you mean edge"), (["--sections", "IPE 200"], "name the families"),
        (["--on", "edge", "--sections", "IPE 201"], "no section is called IPE 201"),
        (["--on", "edge", "--sections", "IPE 200", "--runs", "0"], "from 1 on"),
    ):  # fmt: skip
        assert main(["try", str(path), *more]) == 2 and told in capsys.readouterr().err
    assert main(["try", str(path), "--on", "edge", "--sections", "IPE 100"]) == 1
    bare = tmp_path / "bare.toml"
    bare.write_text(BEAM.split("[steel]")[0], encoding="utf-8")
    assert main(["try", str(bare), "--on", "edge", "--sections", "IPE 200"]) == 2
    assert "nothing to pass" in capsys.readouterr().err


def test_only_the_section_is_changed():
    inline = '[members]\na = { section = "IPE 100", material = "S355" } # section = "x"\nb = { section = "IPE 80" }\n'
    with pytest.raises(CannotEdit):
        with_sections(inline, {"a": "IPE 200"})
    assert with_sections(inline, {"b": "IPE 200"}) == inline.replace("IPE 80", "IPE 200")
    with pytest.raises(CannotEdit):
        with_sections('[members.a]\nmaterial = "S355"\n', {"a": "IPE 200"})
