"""A regular building of any size: our solution beside the bare factorisation and solve of the same equations.

    python benchmarks/building.py 20 10            # 20 x 20 bays, 10 storeys, 40 cases
    python benchmarks/building.py 21 11 30 200     # and 200 crossed ties that can only pull, 200 combinations
    python benchmarks/building.py 21 11 8 0 4      # and 4 combinations by second order
    EMPUJE_SOLVER=scipy python benchmarks/building.py 12 10

Prints ratios. "Bare" is the library called directly with the matrix and right-hand sides that our own solution uses.
"""

from __future__ import annotations

import resource
import sys
import time
from dataclasses import replace

import numpy as np
from scipy import sparse
from telling import tell

from empuje.core.analysis import equations, factor, solve
from empuje.core.answers.envelope import extremes
from empuje.core.answers.stability import lowest_critical
from empuje.core.catalogue.catalogue import find_material, find_section
from empuje.core.load_path.take_down import take_down
from empuje.core.model.cases import Case, Combination
from empuje.core.model.combining import Combining
from empuje.core.model.findings import Place
from empuje.core.model.frame import Member, Node, Support
from empuje.core.model.loads import END, START, Direction, LineLoad
from empuje.core.model.project import Project
from empuje.core.model.words import Acts
from empuje.core.resolve import resolve

HERE = Place("building")
TIMES = 5
HINGED = ((np.inf,) * 4 + (0.0, 0.0)) * 2


def building(bays: int, storeys: int, cases: int) -> Project:
    """bays x bays of 6 m, storeys of 3.5 m, rigid joints, fixed feet, braces in the corner bays of the faces; every
    beam loaded in every case."""
    n, levels = bays + 1, storeys + 1
    xyz = [(6.0 * i, 6.0 * j, 3.5 * k) for k in range(levels) for j in range(n) for i in range(n)]
    nodes = tuple(Node(f"n{i}", p, HERE) for i, p in enumerate(xyz))
    column, beam, steel = find_section("HEB 300"), find_section("IPE 400"), find_material("S355")
    assert column and beam and steel

    def at(i: int, j: int, k: int) -> int:
        return (k * n + j) * n + i

    ends = [(at(i, j, k), at(i, j, k + 1), column) for k in range(storeys) for j in range(n) for i in range(n)]
    columns = len(ends)
    ends += [(at(i, j, k), at(i + 1, j, k), beam) for k in range(1, levels) for j in range(n) for i in range(bays)]
    ends += [(at(i, j, k), at(i, j + 1, k), beam) for k in range(1, levels) for j in range(bays) for i in range(n)]
    members = [Member(f"m/{m}", "m", a, b, s, steel, HERE) for m, (a, b, s) in enumerate(ends)]
    angle = find_section("L 100x100x10")
    assert angle
    for k in range(storeys):
        for i, j in ((0, 0), (bays - 1, 0), (0, bays), (bays - 1, bays)):
            for a, b in ((at(i, j, k), at(i + 1, j, k + 1)), (at(j, i, k), at(j, i + 1, k + 1))):
                members.append(Member(f"b/{len(members)}", "b", a, b, angle, steel, HERE, joints=HINGED, bar=True))
    supports = tuple(Support(at(i, j, 0), (True,) * 6, HERE) for j in range(n) for i in range(n))
    ways = [(0.0, 0.0, -1.0), (1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.6, 0.0, -0.8)]
    beams = tuple(range(columns, len(ends)))
    loads = tuple(
        LineLoad(f"C{c}", beams, ((START, 1e3 + 10 * c), (END, 2e3)), Direction(ways[c % 4]), False, "line", HERE)
        for c in range(cases)
    )
    rng = np.random.default_rng(0)
    names = tuple(Case(f"C{c}", "live", "", 0.0, HERE) for c in range(cases))
    combinations = tuple(
        Combination(
            f"U{k}", tuple((f"C{c}", float(rng.choice([0.9, 1.2, 1.6]))) for c in range(k % 7, cases, 3)), "", HERE
        )
        for k in range(40)
    )
    units = ("kN", "m"), ("kN", "m", "mm", "MPa")
    return Project(
        "building", "", False, *units, nodes, tuple(members), supports, names, loads, Combining(combinations)
    )


def with_ties(frame: Project, bays: int, storeys: int, ties: int) -> Project:
    """The building with crossed ties in random bays, and 200 combinations with factors of either sign."""
    rng = np.random.default_rng(0)
    n = bays + 1
    angle, steel = find_section("L 100x100x10"), find_material("S355")
    assert angle and steel
    more: list[Member] = []
    while len(more) < ties:
        foot = int((rng.integers(storeys) * n + rng.integers(n)) * n + rng.integers(bays))
        for a, b in ((foot, foot + n * n + 1), (foot + 1, foot + n * n)):
            more.append(
                Member(f"t/{len(more)}", "t", a, b, angle, steel, HERE, joints=HINGED, bar=True, acts=Acts.TENSION)
            )
    combinations = tuple(
        Combination(f"U{k}", tuple((c.name, float(rng.uniform(-1, 1.6))) for c in frame.cases), "", HERE)
        for k in range(200)
    )
    return replace(frame, members=frame.members + tuple(more), combining=Combining(combinations))


def watched() -> tuple[list, list]:
    """Lists that fill with the matrices our own solution factorises and the blocks of right-hand sides it solves."""
    real, matrices, blocks = factor.factorise, [], []

    def watching(matrix):
        matrices.append(matrix)
        inner = real(matrix)

        def solver(right):
            if right.ndim == 2:
                blocks.append(right)
            return inner(right)

        return solver

    equations.factorise = watching
    return matrices, blocks


def bare_work(matrices: list, blocks: list) -> tuple[float, float, float]:
    """Times [s] of one factorisation, of one solution of all cases with it, by the library as it comes, and of the
    solution with its settings of our choice.

    PyPardiso is told that the matrix is symmetric and positive; by itself it refines every solution twice. A second
    step on residuals, or a trial for mechanisms, is our own work.
    """
    matrix, block = matrices[0], blocks[0]
    chosen = factor.factorise(matrix)
    start = time.perf_counter()
    chosen(block)
    quick = time.perf_counter() - start
    if factor.backend() == "scipy":
        start = time.perf_counter()
        factor.factorise(matrix)
        return time.perf_counter() - start, quick, quick
    from pypardiso import PyPardisoSolver

    upper = sparse.triu(matrix, format="csr")
    solver = PyPardisoSolver(mtype=2)
    start = time.perf_counter()
    solver.factorize(upper)
    between = time.perf_counter()
    solver.solve(upper, block)
    end = time.perf_counter()
    solver.free_memory(everything=True)
    return between - start, end - between, quick


def main(bays: int = 12, storeys: int = 10, cases: int = 40, ties: int = 0, bent: int = 0) -> None:
    frame = building(bays, storeys, cases)
    if ties:
        frame = with_ties(frame, bays, storeys, ties)
    model = resolve(frame)
    solve.solve(resolve(building(2, 2, 2)))  # load the libraries
    work = watched()
    ours, bare, peak = np.inf, np.full(3, np.inf), 0
    for _ in range(TIMES):  # in turns, the least of each: what else the machine does strikes both alike
        solution = None
        start = time.perf_counter()
        solution = solve.solve(model)
        ours = min(ours, time.perf_counter() - start)
        peak = peak or resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
        bare = np.minimum(bare, bare_work(*work))
    alone = bare[0] + bare[1]
    start = time.perf_counter()
    combined = [r for r in solution.results if not r.is_case]
    extremes(solution, combined, np.arange(len(frame.members)))
    envelope = time.perf_counter() - start
    start = time.perf_counter()
    take_down(frame, model.loads, cases)
    down = time.perf_counter() - start
    if bent:
        custom = frame.combining.custom[:bent]
        fifth = tuple(replace(c, factors=tuple((n, f / 5) for n, f in c.factors)) for c in custom)
        prepared = solve.first_order(resolve(replace(frame, combining=Combining(fifth))))
        asked = [r for r in prepared.solution.results if not r.is_case]
        start = time.perf_counter()
        second = solve.with_second_order(prepared, asked)
        took = time.perf_counter() - start
        start = time.perf_counter()
        lowest_critical(prepared, asked)
        lowest = time.perf_counter() - start
        print(
            f"second order of {bent} combinations, {len(second.failed)} beyond their critical loads: {took:.2f} s = "
            f"{took / bent / alone:.2f} x bare for each; the lowest critical load: {lowest / alone:.2f} x bare"
        )
        tell("each combination of second order", took / bent / alone)
        tell("the lowest critical load", lowest / alone)
        return
    print(
        f"{factor.backend()}: {len(frame.members)} members, {ties} of them one-way, "
        f"{6 * len(frame.nodes)} equations, {cases} cases; "
        f"solution {ours:.2f} s = {ours / alone:.2f} x bare ({bare[0]:.2f} + {bare[1]:.2f} s), "
        f"{ours / (bare[0] + bare[2]):.2f} x with our settings ({bare[0]:.2f} + {bare[2]:.2f} s); "
        f"envelope of {len(combined)} combinations {envelope / alone:.2f} x bare; "
        f"taking down {down / ours:.2f} x ours; "
        f"peak {peak / 1e6:.2f} GB"
    )
    if ties:
        tell(f"{ties} one-way ties", ours / alone)
        return
    tell("solution", ours / alone)
    tell("envelope of combinations", envelope / alone)
    tell("taking down", down / ours)


if __name__ == "__main__":
    main(*map(int, sys.argv[1:]))
