"""The recipes of the cookbook: each by its own commands in a folder of its own."""

import re
import shlex
from pathlib import Path

import pytest

from empuje.cli import main

BOOK = Path(__file__).parents[1] / "docs" / "cookbook.md"
RECIPES = dict(re.findall(r"^## (\d+\. .+?)\n(.*?)(?=^## |\Z)", BOOK.read_text(encoding="utf-8"), re.M | re.S))


def test_there_are_sixteen_and_the_contents_name_them():
    head = BOOK.read_text(encoding="utf-8").split("## 1.")[0]
    assert len(RECIPES) == 16 and [f"[{name.split('. ', 1)[1]}]" in head for name in RECIPES] == [True] * 16


@pytest.mark.parametrize("name", RECIPES)
def test_a_recipe_does_what_it_says(name, tmp_path, monkeypatch, capsys):
    """Exit codes are 0 unless told; what the commands print holds every line that the recipe shows."""
    text = RECIPES[name]
    monkeypatch.chdir(tmp_path)
    for file, content in re.findall(r"```(?:toml|csv) (\S+)\n(.*?)```", text, re.S):
        Path(file).write_text(content, encoding="utf-8")
    out = ""
    for line in re.findall(r"```sh\n(.*?)```", text, re.S)[0].splitlines():
        words, _, told = line.partition("#")
        code = main(shlex.split(words)[1:])
        said = capsys.readouterr()
        assert code == (1 if "exit code 1" in told else 0), said.err
        out += said.out + said.err
    plain = " ".join(out.split())
    lines = re.findall(r"```said\n(.*?)```", text, re.S)[0].splitlines()
    missing = [shown for shown in lines if " ".join(shown.split()) not in plain]
    assert lines and not missing, out


def test_the_first_hour_step_by_step(tmp_path, monkeypatch, capsys):
    """As a newcomer does it: what is added is added, what is changed is changed, every command says what the page shows."""
    page = (BOOK.parent / "first-hour.md").read_text(encoding="utf-8")
    monkeypatch.chdir(tmp_path)
    model, out, ran = Path("shelter.toml"), "", 0
    for kind, content in re.findall(r"```(toml shelter.toml|toml add|toml change|sh|said)\n(.*?)```", page, re.S):
        if kind == "toml shelter.toml":
            model.write_text(content, encoding="utf-8")
        elif kind == "toml add":
            model.write_text(model.read_text(encoding="utf-8") + content, encoding="utf-8")
        elif kind == "toml change":
            *project, sway = content.splitlines()
            text = model.read_text(encoding="utf-8")
            case = re.search(r"^W  = .*$", text, re.M)[0]
            text = text.replace(project[0], "\n".join(project)).replace(case, f"{case}\n{sway}", 1)
            model.write_text(text, encoding="utf-8")
        elif kind == "sh":
            out = ""
            for line in content.splitlines():
                words, _, told = line.partition("#")
                code = main(shlex.split(words)[1:])
                said = capsys.readouterr()
                assert code == (1 if "exit code 1" in told else 0), said.out + said.err
                out, ran = f"{out}{said.out}{said.err}\n", ran + 1
        else:
            plain = " ".join(out.split())
            assert not [shown for shown in content.splitlines() if " ".join(shown.split()) not in plain], out
    assert ran == 13 and Path("shelter.html").stat().st_size > 100_000
