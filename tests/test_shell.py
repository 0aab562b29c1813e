"""What goes on beside a shell: watching a model while it is edited, and completing names. With the installed command."""

import os
import queue
import shutil
import signal
import subprocess
import sys
import threading
import time
from importlib.resources import files
from pathlib import Path

import pytest

from models import PORTAL

EMPUJE = shutil.which("empuje", path=str(Path(sys.executable).parent))
PATIENCE = 60


def _heard():
    """Ctrl-C, which what runs in the background of a shell does not hear."""
    signal.signal(signal.SIGINT, signal.SIG_DFL)


class Watching:
    """A process of `empuje watch`, and its lines as they come."""

    def __init__(self, *words, cwd):
        self.process = subprocess.Popen([EMPUJE, "watch", *words], cwd=cwd, stdout=subprocess.PIPE, stderr=subprocess.STDOUT,
                                        text=True, encoding="utf-8", preexec_fn=_heard if os.name == "posix" else None)  # fmt: skip
        self.lines = queue.Queue()
        self.reader = threading.Thread(
            target=lambda: [self.lines.put(line) for line in self.process.stdout], daemon=True
        )
        self.reader.start()

    def until(self, words):
        """All lines up to the one that has these words."""
        seen, end = [], time.monotonic() + PATIENCE
        while time.monotonic() < end:
            try:
                seen.append(self.lines.get(timeout=0.2))
            except queue.Empty:
                continue
            if words in seen[-1]:
                return "".join(seen)
        raise AssertionError(f"{words} was not said; but {seen}")


@pytest.fixture
def watched(tmp_path):
    (tmp_path / "more.toml").write_text(
        '[cases]\nX = { action = "dead" }\n[loads]\nX = [ { on = "rafters", line = 1 } ]\n', encoding="utf-8"
    )
    (tmp_path / "m.toml").write_text('include = "more.toml"\n' + PORTAL, encoding="utf-8")
    found = Watching("m.toml", "--", "reactions", "--under", "X", "--format", "csv", cwd=tmp_path)
    yield found, tmp_path
    found.process.kill()
    found.process.wait()
    found.reader.join()
    found.process.stdout.close()


def test_each_save_is_checked_and_what_is_asked_follows(watched):
    found, folder = watched
    assert "0 errors" in found.until("0 errors") and "A1@base,X," in found.until("watching m.toml")
    more = folder / "more.toml"
    # Saved in place; then by another file taking its place, as editors do; then a file that is none of its own.
    more.write_text(more.read_text(encoding="utf-8").replace("line = 1", "line = 2"), encoding="utf-8")
    first = found.until("A1@base,X,")
    assert "more.toml saved" in first
    (folder / "other.toml").write_text("x = 1\n", encoding="utf-8")
    new = folder / "m.toml~"
    new.write_text((folder / "m.toml").read_text(encoding="utf-8").replace("IPE 300", "IPE 301"), encoding="utf-8")
    new.replace(folder / "m.toml")
    told = found.until("waits until the errors are mended")
    assert "m.toml saved" in told and "error[unknown-name]" in told and "other.toml" not in told
    (folder / "m.toml").write_text("[project\n", encoding="utf-8")
    assert "is not TOML" in found.until("unusable-file")
    (folder / "m.toml").write_text(PORTAL + '[accepted]\nfinding = "x"\nreason = "y"\n', encoding="utf-8")
    assert "1 warning" in found.until("1 warning")
    if os.name == "posix":
        found.process.send_signal(signal.SIGINT)
        assert found.process.wait(PATIENCE) == 0


@pytest.mark.skipif(os.name != "posix", reason="links need rights elsewhere")
def test_links_are_followed_and_a_model_that_is_gone_is_waited_for(tmp_path):
    (tmp_path / "there").mkdir()
    model = tmp_path / "there" / "yard.toml"
    model.write_text(PORTAL, encoding="utf-8")
    (tmp_path / "m.toml").symlink_to(model)
    found = Watching("m.toml", cwd=tmp_path)
    try:
        found.until("watching m.toml")
        model.write_text(PORTAL.replace("IPE 300", "IPE 301"), encoding="utf-8")
        assert "yard.toml saved" in found.until("error[unknown-name]")
        other = tmp_path / "there" / "other.toml"
        other.write_text(PORTAL, encoding="utf-8")
        (tmp_path / "new").symlink_to(other)
        (tmp_path / "new").replace(tmp_path / "m.toml")  # the link leads elsewhere
        assert "m.toml saved" in found.until("0 errors")
        other.unlink()
        found.until("m.toml is not there any more")
        other.write_text(PORTAL + '[accepted]\nfinding = "x"\nreason = "y"\n', encoding="utf-8")
        found.until("1 warning")
    finally:
        found.process.kill()
        found.process.wait()
        found.reader.join()
        found.process.stdout.close()


def test_watch_refuses_what_it_cannot_do(tmp_path):
    def said(*words):
        done = subprocess.run([EMPUJE, "watch", *words], cwd=tmp_path, capture_output=True, text=True, timeout=PATIENCE)
        return done.returncode, done.stderr

    code, err = said("none.toml")
    assert code == 2 and "there is no file none.toml" in err
    (tmp_path / "m.toml").write_text(PORTAL, encoding="utf-8")
    code, err = said("m.toml", "--", "reaction")
    assert code == 2 and "did you mean reactions" in err
    code, err = said("m.toml", "--", "demo")
    assert code == 2 and "no command demo for a model" in err


def completed(line, folder):
    """What the command proposes for a line that ends here."""
    out = folder / "words"
    env = os.environ | {
        "_ARGCOMPLETE": "1", "COMP_LINE": line, "COMP_POINT": str(len(line)), "_ARGCOMPLETE_IFS": "\n",
        "_ARGCOMPLETE_COMP_WORDBREAKS": " ", "_ARGCOMPLETE_STDOUT_FILENAME": str(out),
    }  # fmt: skip
    subprocess.run([EMPUJE], env=env, cwd=folder, timeout=PATIENCE, capture_output=True)
    return [word.strip() for word in out.read_text(encoding="utf-8").split("\n")] if out.exists() else []


def test_names_of_the_model_are_completed(tmp_path):
    (tmp_path / "m.toml").write_text(
        files("empuje.samples").joinpath("starters", "tower.toml").read_text(encoding="utf-8"), encoding="utf-8"
    )
    (tmp_path / "notes.txt").write_text("", encoding="utf-8")
    for line, words in (
        ("empuje stab", ["stability"]),
        ("empuje reactions m", ["m.toml"]),
        ("empuje reactions m.toml --und", ["--under"]),
        ("empuje reactions m.toml --under cas", ["cases"]),
        ("empuje forces m.toml --on l", ["legs"]),
        ("empuje forces m.toml --on legs/B", ["legs/B1/base-top", "legs/B2/base-top"]),
        ("empuje forces m.toml --on rings,t", ["rings,ties"]),
        ("empuje verdict m.toml --limit f", ["feet\\ stay\\ down"]),
        ("empuje check m.toml --set t", ["tank="]),
        ("empuje new x.toml --like t", ["truss", "tower"]),
        ("empuje forces gone.toml --on l", [""]),
    ):
        assert completed(line, tmp_path) == words, line


def test_every_shell_has_a_script(tmp_path):
    for shell in ("bash", "zsh", "fish", "powershell"):
        done = subprocess.run([EMPUJE, "completion", shell], capture_output=True, text=True, timeout=PATIENCE)
        assert done.returncode == 0 and "empuje" in done.stdout and "_ARGCOMPLETE" in done.stdout, shell
    if shutil.which("bash"):
        script = f'eval "$({EMPUJE} completion bash)"; complete -p empuje'
        done = subprocess.run(["bash", "-c", script], capture_output=True, text=True, timeout=PATIENCE)
        assert done.returncode == 0 and "_python_argcomplete" in done.stdout
