"""Files of others stay as they are; results are the old or the new ones, whatever happens in between."""

import itertools
import os
import subprocess
import sys
import threading
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pytest

from empuje.cli import main
from empuje.files.kept import written
from empuje.show import exchange
from empuje.show.exchange import check_folder, write_folder
from empuje.show.output import NotWritten, write_text
from models import PORTAL


@pytest.fixture
def model(tmp_path):
    path = tmp_path / "m.toml"
    path.write_text(PORTAL + '[tables]\nnodes = "more.csv"\n', encoding="utf-8")
    (tmp_path / "more.csv").write_text("name,x,y,z\n", encoding="utf-8")
    return path


def say(capsys, *words):
    code = main([str(w) for w in words])
    return code, capsys.readouterr().err


@pytest.mark.parametrize("name", ["m.toml", "more.csv", "link.csv", "./m.toml"])
def test_no_output_goes_over_an_input(model, name, capsys):
    model.with_name("link.csv").symlink_to("more.csv")
    before = {p.name: p.read_bytes() for p in model.parent.iterdir()}
    for more in ([], ["--force"]):
        code, err = say(capsys, "reactions", model, "--format", "csv", "-o", model.parent / name, *more)
        assert code == 2 and "is read by this very command" in err
    assert {p.name: p.read_bytes() for p in model.parent.iterdir()} == before


def test_only_files_of_ours_are_replaced_unasked(model, capsys):
    target = model.with_name("out.csv")
    target.write_text("somebody's", encoding="utf-8")
    code, err = say(capsys, "reactions", model, "-o", target)
    assert code == 2 and "--force replaces it" in err and target.read_text(encoding="utf-8") == "somebody's"
    assert say(capsys, "reactions", model, "-o", target, "--force")[0] == 0
    ours = target.read_text(encoding="utf-8")
    assert "node" in ours and say(capsys, "reactions", model, "-o", target)[0] == 0
    target.write_text(ours + "edited", encoding="utf-8")
    assert say(capsys, "reactions", model, "-o", target)[0] == 2
    for place, said in (
        (model.parent, "is a folder"),
        ("/dev/null", "is no plain file"),
        (model.with_name("a\0.csv"), "null"),
    ):
        code, err = say(capsys, "reactions", model, "--format", "csv", "-o", place, "--force")
        assert code == 2 and said in err, err
    for place in (".", ".."):
        assert f"{place}: error[unusable-file]: is a folder" in say(capsys, "reactions", place)[1]
    picture = model.with_name("frame.png")
    picture.write_bytes(b"theirs")
    assert say(capsys, "draw", model, "frame", "-o", picture)[0] == 2 and picture.read_bytes() == b"theirs"


@pytest.mark.skipif(os.name != "posix", reason="permissions of POSIX")
def test_permissions_links_and_the_umask_are_kept(tmp_path):
    path, link = tmp_path / "a.csv", tmp_path / "b.csv"
    before = os.umask(0o027)
    try:
        write_text(path, "first")
        assert path.stat().st_mode & 0o777 == 0o640
    finally:
        os.umask(before)
    path.chmod(0o604)
    link.symlink_to(path)
    write_text(link, "second")
    assert link.is_symlink() and path.read_text() == "second" and path.stat().st_mode & 0o777 == 0o604


def fill(text):
    def make(place):
        (place / "a.csv").write_text(text)
        (place / "pictures").mkdir()
        (place / "pictures" / "b.png").write_text(text)

    return make


def held(folder):
    return {p.read_text() for p in folder.rglob("*") if p.is_file() and p.name != "contents.txt"}


def names(folder):
    return [p.name for p in folder.iterdir()]


CHANGES = {"open", "os.rename", "os.mkdir", "os.remove", "os.rmdir", "shutil.rmtree", "os.chmod", "os.truncate"}


@pytest.mark.skipif(not hasattr(os, "fork"), reason="no fork here")
@pytest.mark.parametrize("swap", [True, False])
def test_a_run_killed_at_any_file_operation_leaves_old_or_new_results(tmp_path, monkeypatch, swap):
    """The next run finds what is left, and leaves nothing but its own results."""
    if not swap:
        monkeypatch.setattr(exchange, "_swapped", lambda *_: False)
    folder = tmp_path / "results"
    seen = set()
    for operation in itertools.count(1):
        write_folder(folder, fill("old"))
        child = os.fork()
        if child == 0:
            left = [operation]

            def watch(event, arguments, left=left):
                if event in CHANGES and left:
                    left[0] -= 1
                    if not left[0]:
                        os._exit(9)

            sys.addaudithook(watch)
            write_folder(folder, fill("new"))
            left.clear()
            os._exit(0)
        died = os.waitstatus_to_exitcode(os.waitpid(child, 0)[1]) == 9
        check_folder(folder)
        assert held(folder) in ({"old"}, {"new"}), operation
        assert names(tmp_path) == ["results"], operation
        seen |= held(folder)
        if not died:
            break
    assert operation > 12 and seen == {"old", "new"}


def test_two_runs_at_once_do_not_remove_each_others_work(tmp_path):
    folder = tmp_path / "results"
    write_folder(folder, fill("old"))
    inside, go_on = threading.Event(), threading.Event()

    def slow(place):
        fill("slow")(place)
        inside.set()
        assert go_on.wait(10)

    first = threading.Thread(target=lambda: write_folder(folder, slow))
    first.start()
    assert inside.wait(10)
    write_folder(folder, fill("quick"))
    assert held(folder) == {"quick"}
    go_on.set()
    first.join()
    assert held(folder) == {"slow"} and names(tmp_path) == ["results"]


def test_a_folder_that_is_not_just_results_as_written_is_refused_before_the_analysis(model, capsys, monkeypatch):
    folder = model.with_name("m-results")
    assert say(capsys, "run", model, "--no-pictures")[0] == 0
    monkeypatch.setattr("empuje.study.study.Study.solution", None)
    table = folder / "reactions.csv"
    text = table.read_text(encoding="utf-8")
    for change, said in (
        (lambda: table.write_text(text + "1", encoding="utf-8"), "reactions.csv, which was changed since"),
        (lambda: (folder / "notes.txt").write_text("x"), "notes.txt, which is not a result"),
        (lambda: (folder / "contents.txt").write_bytes(b"\xff\xfe"), "which is not a result"),
    ):
        change()
        code, err = say(capsys, "run", model, "--no-pictures")
        assert code == 2 and said in err
        (folder / "notes.txt").unlink(missing_ok=True)
        table.write_text(text, encoding="utf-8")
    (model.parent / "nowhere").symlink_to(model.parent / "gone")
    for place in ("/", ".", "a\0b", model.parent / "nowhere"):
        assert say(capsys, "run", model, "-o", place)[0] == 2


def test_a_linked_folder_is_followed(tmp_path):
    (tmp_path / "real").mkdir()
    (tmp_path / "results").symlink_to(tmp_path / "real")
    for text in ("old", "new"):
        write_folder(tmp_path / "results", fill(text))
        assert (tmp_path / "results").is_symlink() and held(tmp_path / "real") == {text}
    assert sorted(names(tmp_path)) == ["real", "results"]


def shell(model, words):
    line = f'"{sys.executable}" -m empuje {words}'
    done = subprocess.run(["sh", "-c", line], cwd=model.parent, capture_output=True, text=True)
    return done.returncode, done.stdout, done.stderr


@pytest.mark.skipif(not Path("/dev/full").exists(), reason="no full device here")
def test_files_written_at_once_are_all_ours(tmp_path, monkeypatch):
    """By many at a time; and of very many the latest."""
    monkeypatch.setenv("EMPUJE_CACHE", str(tmp_path / "cache"))
    paths = [tmp_path / f"r{k}.csv" for k in range(40)]
    for k, path in enumerate(paths):
        path.write_text(str(k), encoding="utf-8")
    with ThreadPoolExecutor(8) as pool:
        list(pool.map(written.remember, paths))
    assert all(map(written.is_ours, paths))
    paths[0].write_text("mine", encoding="utf-8")
    assert not written.is_ours(paths[0]) and not written.is_ours(tmp_path / "none.csv")
    monkeypatch.setattr(written, "MOST", 10)
    written.remember(paths[1])
    assert sum(map(written.is_ours, paths)) == 10 and written.is_ours(paths[1])


def test_streams_that_are_full_or_closed(model):
    """A full one is told; a closed one swallows what is written to it, and no file gets it instead."""
    code, _, err = shell(model, "loads m.toml >/dev/full")
    assert code == 2 and err == "empuje loads: standard output cannot be used: No space left on device\n"
    whole = shell(model, "reactions m.toml -o a.csv")
    assert whole[0] == 0 and shell(model, "reactions m.toml -o b.csv 2>&-") == (0, "", "")
    assert model.with_name("b.csv").read_bytes() == model.with_name("a.csv").read_bytes()
    assert shell(model, "loads m.toml >&-")[0] == 0
    assert shell(model, "loads m.toml | head -0")[2] == ""


@pytest.mark.skipif(os.name != "posix" or os.geteuid() == 0, reason="whoever may do everything is refused nothing")
def test_a_folder_that_cannot_be_written_is_told(tmp_path):
    tmp_path.chmod(0o500)
    try:
        with pytest.raises(NotWritten, match="cannot be written"):
            write_folder(tmp_path / "results", fill("new"))
    finally:
        tmp_path.chmod(0o700)


def test_whoever_stops_a_command_that_is_being_loaded_sees_no_traceback(model):
    """The signal comes while the first modules are imported; in the background, where it is ignored, it stays so."""
    line = """
import builtins, runpy, signal, sys
real, told = builtins.__import__, []
def hook(name, *more, **others):
    if name == "argparse" and not told:
        told.append(1)
        signal.raise_signal(signal.SIGINT)
    return real(name, *more, **others)
builtins.__import__ = hook
signal.signal(signal.SIGINT, signal.SIG_IGN if sys.argv[1] == "ignored" else signal.default_int_handler)
sys.argv = ["empuje", "combos", "m.toml"]
runpy.run_module("empuje", run_name="__main__")
"""
    for how, code in (("listening", -2), ("ignored", 0)):
        done = subprocess.run([sys.executable, "-c", line, how], cwd=model.parent, capture_output=True, text=True)
        assert (done.returncode, done.stderr) == (code, "")
