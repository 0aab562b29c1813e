"""Models with mistakes of every sort, thousands of them: each is read and analysed, or refused with findings.

pytest tests/test_fuzz.py --mistakes 20000 --seed 5 -s
"""

import random
import re
import tomllib
import warnings
from importlib.resources import files

import pytest

from empuje.files.reader import UnusableFile
from empuje.study.study import ModelError, Study
from models import MADE, PORTAL
from test_sheets import MODEL
from test_study import TIED

DEMO = files("empuje.samples").joinpath("packing_house", "packing-house.toml").read_text(encoding="utf-8")
TABLE = 'case,on,line [N/m],force,at,dir\nQ,beams,300,,,\nQ,beams/AB,,2 kN,"25%, 1.5",down\nQ,beams/AB,,1,50%,+x\n'
ODD = [
    "0", "-1", "1e308", "1e-308", "nan", "inf", "true", '""', "[]", "{}", "[[]]", '"\\u0000"', '"$x$"', '"=1+1"', "1979-05-27",
    '"1/0 m"', '"9"', "-0.0", '"*"', '"!"', '"A>A / 1 / base"', '"../../x.csv"', '"\u4e2d"', "9" * 30, '"' + "(" * 60 + '"', '"50%"',
    '"1 kN"', '"2 m"', '["", 1]', "0x10", "'''a'''", '"local z"', '"two-way"', '"@"', '"/"', '"[a"', "1_000", '"1e400 m"',
]  # fmt: skip
TOKEN = re.compile(r'"[^"\n]*"|[-+\w.]+|[^\s\w]')


def slipped(text, rng):
    """The text with one to four mistakes: words, lines and marks lost, doubled, swapped, or something odd instead."""
    for _ in range(rng.randint(1, 4)):
        lines = text.split("\n")
        i = rng.randrange(len(lines))
        tokens = list(TOKEN.finditer(lines[i]))
        what = rng.randrange(8)
        if what == 0:
            del lines[i]
        elif what == 1:
            lines.insert(rng.randrange(len(lines)), lines[i])
        elif what == 2:
            j = rng.randrange(len(lines))
            lines[i], lines[j] = lines[j], lines[i]
        elif tokens:
            token = rng.choice(tokens)
            other = rng.choice(TOKEN.findall(rng.choice(lines)) or ["x"])
            new = ("", token[0] * 2, other, rng.choice(ODD), rng.choice(ODD))[what - 3]
            lines[i] = lines[i][: token.start()] + new + lines[i][token.end() :]
        text = "\n".join(lines)
    return text


def still_toml(text, rng):
    """With mistakes that leave it TOML, four times in five: what is none is refused before anything is looked at."""
    for _ in range(20):
        other = slipped(text, rng)
        try:
            tomllib.loads(other)
        except ValueError:
            if rng.random() < 0.2:
                return other
        else:
            return other
    return text


def test_slips_end_in_results_or_findings(tmp_path, request, capsys):
    slips, seed = request.config.getoption("--mistakes"), request.config.getoption("--seed")
    rng = random.Random(seed)
    count = {"refused": 0, "found": 0, "moved": 0, "solved": 0}
    for k in range(slips):
        text = rng.choice([PORTAL, TIED, MODEL, DEMO] if k % 5 == 0 else [PORTAL, TIED, MODEL, MADE])
        table = slipped(TABLE, rng) if text == MODEL and rng.random() < 0.7 else TABLE
        model = still_toml(text, rng) if text != MODEL or rng.random() < 0.5 else text
        (tmp_path / "loads.csv").write_text(table, encoding="utf-8", newline="")
        (tmp_path / "m.toml").write_text(model, encoding="utf-8", newline="")
        try:
            with warnings.catch_warnings():
                warnings.simplefilter("error")
                study = Study.read(tmp_path / "m.toml", cache=False)
                assert all(f.message and f.place.file for f in study.findings)
                if not study.sound:
                    count["found"] += 1
                    continue
                study.checked(deep=False)
                count["solved"] += 1
        except UnusableFile:
            count["refused"] += 1
        except ModelError as error:
            assert error.findings
            count["moved"] += 1
        except Exception:
            pytest.fail(f"slip {k} of seed {seed}: {tmp_path}/m.toml")
    with capsys.disabled():
        print(f"\n{slips} models with mistakes: " + ", ".join(f"{n} {what}" for what, n in count.items()))
    assert min(count["refused"], count["found"], count["solved"]) > slips / 50
