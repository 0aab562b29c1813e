"""The JSON Schema of the model file against models that are right and wrong; and the starters that name it."""

import json
import re
import tomllib
from importlib.resources import files
from pathlib import Path

import pytest
from jsonschema import Draft202012Validator

from empuje.api import read
from empuje.cli import main
from empuje.cli.new import STARTERS
from empuje.files.base.forms import Table, Tables, with_inner
from empuje.files.keys import MODEL
from models import PORTAL

GUIDE = (Path(__file__).parents[1] / "docs" / "model-file.md").read_text(encoding="utf-8")


@pytest.fixture(scope="module")
def schema(tmp_path_factory):
    path = tmp_path_factory.mktemp("schema") / "empuje.schema.json"
    assert main(["schema", "-o", str(path)]) == 0
    return json.loads(path.read_text(encoding="utf-8"))


def test_it_is_a_schema_and_knows_every_key(schema):
    Draft202012Validator.check_schema(schema)
    assert schema["$schema"] == "https://json-schema.org/draft/2020-12/schema"
    inner = with_inner([MODEL])
    assert len(inner) > 50 and len({re.sub(r"[^A-Za-z0-9._-]", "-", n) for n in inner}) == len(inner)
    for name, form in inner.items():
        own = schema if form is MODEL else schema["$defs"][re.sub(r"[^A-Za-z0-9._-]", "-", name)]
        assert set(form.names) <= set(own.get("properties", {})), name
        for key in form.keys:
            words = json.dumps(own["properties"][key.name])
            assert key.meaning.replace("`", "").rstrip(".") in json.loads(f"[{words}]")[0].get("description", words), (
                key
            )
            if isinstance(key.takes, Table | Tables):
                assert "#/$defs/" in words


def test_models_that_are_right_are_valid(schema):
    check = Draft202012Validator(schema)
    samples = files("empuje.samples")
    texts = [PORTAL, "\n".join(re.findall(r"```toml\n(.*?)```", GUIDE, re.S))]
    texts += [samples.joinpath("starters", f"{name}.toml").read_text(encoding="utf-8") for name in STARTERS]
    texts += [samples.joinpath(*path).read_text(encoding="utf-8") for path in (
        ("packing_house", "packing-house.toml"), ("sorting_frame", "sorting-frame.toml"))]  # fmt: skip
    for text in texts:
        assert [e.message for e in check.iter_errors(tomllib.loads(text))] == []


@pytest.mark.parametrize(
    ("old", "new", "path"),
    [
        ('"fixed"', "3", ["supports", 0, "fix"]),
        ("[[supports]]", "[[supports]]\nfx = 1", ["supports", 0]),
        ('"IPE 300"', "300", ["members", "rafters", "section"]),
        ('action = "dead"', 'action = "deed"', ["cases", "G", "action"]),
        ('on = "rafters", ', "", ["loads", "G", 0]),
        ("[project]", "[projekt]", []),
    ],
)
def test_slips_are_seen_where_they_are(schema, old, new, path):
    assert old in PORTAL
    found = list(Draft202012Validator(schema).iter_errors(tomllib.loads(PORTAL.replace(old, new, 1))))
    deep = [*found, *(c for e in found for c in e.context)]
    assert found and path in [list(e.absolute_path) for e in deep]


@pytest.mark.parametrize("name", STARTERS)
def test_every_starter_works_and_says_what_it_is(name, tmp_path, capsys, monkeypatch):
    monkeypatch.chdir(tmp_path)
    assert main(["new", "m.toml", "--like", name]) == 0
    said = capsys.readouterr().err
    text = (tmp_path / "m.toml").read_text(encoding="utf-8")
    assert text.startswith("#:schema ./empuje.schema.json\n# ") and text.count("\n") < 100 and text.count("#") > 8
    assert main(["check", "m.toml", "--deep"]) == 0
    assert "0 errors, 0 warnings" in capsys.readouterr().out
    for words in re.findall(r"^  empuje (.*?)(?:   .*)?$", said, re.M):  # what it proposes
        assert main(words.split()) == 0, words
    assert (tmp_path / "empuje.schema.json").exists() and (tmp_path / "loads.png").stat().st_size > 10_000
    capsys.readouterr()
    assert main(["new", "m.toml", "--like", name]) == 2 and "is there already" in capsys.readouterr().err


def test_a_starters_totals_by_hand(tmp_path):
    """The purlin: sheeting and snow over 2 x 5.4 + 1.1 m, apart 1.8 m; and its own weight of 20.1 cm2."""
    (tmp_path / "b.toml").write_text(
        files("empuje.samples").joinpath("starters", "beam.toml").read_text(encoding="utf-8"), encoding="utf-8"
    )
    found = read(tmp_path / "b.toml", cache=False, values={"spacing": "2 m"}).solve().reactions(under=["G", "S1", "S2"])
    total = found.groupby("case")["Fz [kN]"].sum()
    assert total["G"] == pytest.approx((0.35 * 2 + 20.1e-4 * 7850 * 9.80665 / 1e3) * 11.9, rel=2e-3)
    assert [total["S1"], total["S2"]] == pytest.approx([0.9 * 2 * 5.4, 0.9 * 2 * 6.5], rel=1e-9)
