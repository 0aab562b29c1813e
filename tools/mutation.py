"""Faults put into chosen modules, one at a time, to see whether a test notices.

    python tools/mutation.py                            20 faults in the modules below
    python tools/mutation.py --faults 50 --seed 3 --only bearing,reduction

Each fault changes one sign, comparison, constant or logical word in a copy of the package; then that module's tests
run until the first that fails. What no test notices is printed with its line: a test is missing there, or the line does
nothing. Exit code 1 where a fault survived.
"""

from __future__ import annotations

import argparse
import ast
import copy
import os
import random
import shutil
import subprocess
import sys
import tempfile
from pathlib import Path

ROOT = Path(__file__).parents[1]
CHOSEN = {
    "core/answers/changes.py": "test_diff",
    "study/differences.py": "test_diff",
    "files/kept/revisions.py": "test_diff",
    "show/changes_text.py": "test_diff",
    "core/answers/strips.py": "test_pictures",
    "core/answers/slack.py": "test_pictures",
    "show/chart_text.py": "test_pictures",
    "show/drawings/symbols.py": "test_pictures test_drawings",
    "show/drawings/draw_solid.py": "test_pictures",
    "show/drawings/draw_reactions.py": "test_pictures",
    "show/drawings/parts.py": "test_pictures",
    "show/drawings/draw_strip.py": "test_pictures",
    "show/drawings/paper.py": "test_pictures test_drawings",
    "show/drawings/placing.py": "test_pictures test_drawings",
    "report/scene.py": "test_report",
    "report/as_pdf.py": "test_report",
    "report/as_html.py": "test_report",
    "show/blocks.py": "test_report",
    "report/answers.py": "test_report",
    "report/parts_input.py": "test_report",
    "report/parts_results.py": "test_report",
    "report/make.py": "test_report",
    "files/checks/report.py": "test_report",
    "core/findings/amounts.py": "test_slips",
    "core/load_path/taken.py": "test_take_down",
    "core/answers/overstress.py": "test_slips",
    "core/analysis/mechanism.py": "test_mechanisms",
    "core/findings/cases.py": "test_slips test_copies",
    "core/findings/frame.py": "test_slips",
    "core/findings/loads.py": "test_slips",
    "core/findings/surfaces.py": "test_slips",
    "files/makers/bracing.py": "test_makers",
    "files/makers/drawn.py": "test_makers",
    "files/makers/every.py": "test_makers",
    "files/makers/frames.py": "test_makers",
    "files/makers/purlins.py": "test_makers",
    "files/makers/truss.py": "test_makers",
    "files/plain/loads.py": "test_export",
    "files/plain/members.py": "test_export",
    "files/plain/model.py": "test_export",
    "files/plain/supports.py": "test_export",
    "files/plain/tables.py": "test_export",
    "files/base/spaced.py": "test_makers",
    "files/tables/wide.py": "test_tables test_cookbook",
    "files/base/values.py": "test_values",
    "core/model/moved.py": "test_copies",
    "files/copies/copies.py": "test_copies",
    "files/copies/copied_loads.py": "test_copies",
    "files/copies/copied_ways.py": "test_copies",
    "files/base/includes.py": "test_values",
    "core/model/limits.py": "test_verdict",
    "core/verdict/found.py": "test_verdict",
    "core/verdict/outcome.py": "test_verdict",
    "core/verdict/reactions.py": "test_verdict",
    "core/verdict/motions.py": "test_verdict",
    "core/verdict/members.py": "test_verdict",
    "core/steel/analysed.py": "test_steel",
    "core/steel/lengths.py": "test_steel",
    "core/steel/demand.py": "test_steel",
    "core/steel/use.py": "test_steel",
    "core/steel/en.py": "test_steel test_trying",
    "core/steel/aisc.py": "test_steel test_verification",
    "core/steel/elastic.py": "test_steel",
    "core/steel/shapes.py": "test_steel",
    "core/steel/en1993/classes.py": "test_steel",
    "core/steel/en1993/resistance.py": "test_steel",
    "core/steel/en1993/buckling.py": "test_steel",
    "core/steel/en1993/interaction.py": "test_steel",
    "core/steel/aisc360/slender.py": "test_steel test_verification",
    "core/steel/aisc360/compression.py": "test_steel test_verification",
    "core/steel/aisc360/flexure.py": "test_steel test_verification",
    "core/steel/aisc360/shear.py": "test_steel test_verification",
    "core/answers/stress_places.py": "test_stress",
    "study/sections.py": "test_trying",
    "files/checks/limits.py": "test_verdict",
    "files/checks/steel.py": "test_steel",
    "core/load_path/bearing.py": "test_take_down test_answers",
    "core/load_path/take_down.py": "test_take_down",
    "core/load_path/live_load_reduction.py": "test_take_down",
    "core/actions/surfaces/sources/findings.py": "test_surfaces",
    "core/actions/surfaces/distribution/to_nodes.py": "test_surfaces",
    "core/analysis/cuts.py": "test_second_order",
    "core/analysis/displaced.py": "test_second_order test_results",
    "core/analysis/axial.py": "test_second_order test_results",
    "core/analysis/unilateral.py": "test_one_way test_results test_ground",
    "core/analysis/bent.py": "test_second_order",
    "core/analysis/critical.py": "test_second_order test_study",
    "core/analysis/second_order.py": "test_second_order test_study",
    "core/analysis/tangent.py": "test_second_order test_study",
    "core/catalogue/fibres.py": "test_stress",
    "core/answers/deflection.py": "test_answers test_drawings",
    "core/answers/reactions.py": "test_results test_answers test_foundations",
    "core/answers/stability.py": "test_second_order test_commands",
    "core/combine/expand.py": "test_combinations test_lean",
    "show/drawings/draw_results.py": "test_drawings",
    "show/drawings/draw_band.py": "test_drawings",
    "show/drawings/draw_loads.py": "test_drawings",
    "show/drawings/draw_pressures.py": "test_drawings",
    "files/kept/store.py": "test_study",
    "files/tables/read.py": "test_tables test_sheets",
    "files/tables/sheets.py": "test_sheets test_tables",
    "files/loads/plain_rows.py": "test_sheets",
    "files/kept/written.py": "test_safety",
    "show/exchange.py": "test_safety test_output",
    "show/output.py": "test_safety test_output",
    "core/actions/direct.py": "test_beams test_answers test_reading test_results",
    "core/actions/surfaces/distribution/concentrated.py": "test_surfaces",
    "core/actions/wind/site/asce_site.py": "test_wind_pressure",
    "core/actions/wind/codes/asce_building.py": "test_wind_building test_wind_pressure test_wind_faults",
    "core/actions/wind/codes/asce_free_roof.py": "test_wind_open test_wind_pressure",
    "core/actions/wind/site/en_site.py": "test_wind_pressure test_wind_building",
    "core/actions/wind/codes/en_building.py": "test_wind_building test_wind_pressure",
    "core/actions/wind/codes/en_roof.py": "test_wind_building",
    "core/actions/wind/codes/en_inside.py": "test_wind_building",
    "core/actions/wind/codes/en_free_roof.py": "test_wind_open test_wind_pressure test_wind_faults",
    "core/actions/wind/bare.py": "test_wind_open test_wind_pressure",
    "core/actions/wind/shape/building.py": "test_wind_building test_wind_faults",
    "core/actions/wind/shape/roofs.py": "test_wind_building test_wind_faults",
    "core/actions/wind/shape/seen.py": "test_wind_building test_wind_faults",
    "core/actions/wind/cases/loaded.py": "test_wind_building test_wind_faults test_wind_open",
    "core/actions/wind/cases/eccentric.py": "test_wind_building",
    "core/actions/wind/shape/zones.py": "test_wind_building",
    "core/actions/wind/cases/spread.py": "test_wind_building test_wind_faults",
}
"""Modules that safety hangs on, and the tests that ought to guard them."""
SWAPPED: dict[type, type] = {
    ast.Add: ast.Sub, ast.Sub: ast.Add, ast.Mult: ast.Div, ast.Div: ast.Mult, ast.Lt: ast.GtE, ast.GtE: ast.Lt,
    ast.Gt: ast.LtE, ast.LtE: ast.Gt, ast.Eq: ast.NotEq, ast.NotEq: ast.Eq, ast.And: ast.Or, ast.Or: ast.And,
}  # fmt: skip
LONGEST = 240


def places(tree: ast.AST) -> list[tuple[ast.AST, str]]:
    """Every node that can be made wrong, and how."""
    out: list[tuple[ast.AST, str]] = []
    for node in ast.walk(tree):
        if isinstance(node, ast.BinOp | ast.BoolOp) and type(node.op) in SWAPPED:
            out.append((node, "op"))
        elif isinstance(node, ast.Compare) and type(node.ops[0]) in SWAPPED:
            out.append((node, "ops"))
        elif isinstance(node, ast.UnaryOp) and isinstance(node.op, ast.USub | ast.Not):
            out.append((node, "drop"))
        elif isinstance(node, ast.Constant) and type(node.value) in (int, float) and node.value not in (0, 1, -1):
            out.append((node, "value"))
    return out


def faulty(tree: ast.Module, which: int) -> tuple[ast.Module, int, str, str]:
    """A copy with one fault: its line, the words before and after."""
    tree = copy.deepcopy(tree)
    node, how = places(tree)[which]
    before = ast.unparse(node)
    if how == "op":
        node.op = SWAPPED[type(node.op)]()  # type: ignore[attr-defined]
    elif how == "ops":
        node.ops[0] = SWAPPED[type(node.ops[0])]()  # type: ignore[attr-defined]
    elif how == "value":
        node.value *= 2  # type: ignore[attr-defined]
    else:
        node.op = ast.UAdd() if isinstance(node.op, ast.USub) else ast.Not()  # type: ignore[attr-defined]
        if isinstance(node.op, ast.Not):  # type: ignore[attr-defined]
            node.operand = ast.UnaryOp(ast.Not(), node.operand)  # type: ignore[attr-defined]
    return tree, node.lineno, before, ast.unparse(node)  # type: ignore[attr-defined]


def noticed(package: Path, tests: str) -> bool:
    files = [str(ROOT / "tests" / f"{name}.py") for name in tests.split()]
    environment = os.environ | {"PYTHONPATH": str(package.parent), "PYTHONDONTWRITEBYTECODE": "1"}
    try:
        done = subprocess.run([sys.executable, "-m", "pytest", "-x", "-q", "-p", "no:cacheprovider", *files], cwd=ROOT,
                              env=environment, capture_output=True, timeout=LONGEST)  # fmt: skip
    except subprocess.TimeoutExpired:
        return True
    return done.returncode != 0


def main() -> int:
    parser = argparse.ArgumentParser(description="Faults put into chosen modules, to see whether a test notices.")
    parser.add_argument("--faults", type=int, default=20)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--only", default="", help="parts of module names, with commas between")
    arguments = parser.parse_args()
    wanted = [w for w in arguments.only.split(",") if w]
    missing = [m for m in CHOSEN if not (ROOT / "src" / "empuje" / m).exists()]
    if missing:
        parser.error(f"no such module: {', '.join(missing)}")
    modules = [m for m in CHOSEN if not wanted or any(w in m for w in wanted)]
    rng = random.Random(arguments.seed)
    survived = []
    with tempfile.TemporaryDirectory() as folder:
        package = Path(folder) / "empuje"
        shutil.copytree(ROOT / "src" / "empuje", package, ignore=shutil.ignore_patterns("__pycache__"))
        for k in range(arguments.faults):
            module = modules[k % len(modules)]
            text = (ROOT / "src" / "empuje" / module).read_text(encoding="utf-8")
            tree = ast.parse(text)
            wrong, line, before, after = faulty(tree, rng.randrange(len(places(tree))))
            (package / module).write_text(ast.unparse(wrong), encoding="utf-8")
            caught = noticed(package, CHOSEN[module])
            (package / module).write_text(text, encoding="utf-8")
            print(f"{'noticed ' if caught else 'SURVIVED'} {module}:{line}: {before}  ->  {after}", flush=True)
            survived += [] if caught else [module]
    print(f"{arguments.faults - len(survived)} of {arguments.faults} faults noticed")
    return 1 if survived else 0


if __name__ == "__main__":
    sys.exit(main())
