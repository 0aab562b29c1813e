"""Vehicles in rows and at variable distances: against brute force, against their own named positions as static cases, and
by change: more vehicles, less room, more headings and ways never less."""

import random
import re

import numpy as np
import pytest

from empuje.core.actions.traffic.laid import loads_of_train
from empuje.core.analysis.moving.mover import Mover
from empuje.core.analysis.solve import respond
from empuje.core.answers.envelope import extremes
from empuje.core.answers.foundations import displacement_envelope, reaction_envelope
from empuje.core.answers.moving import moving_of, stood
from empuje.core.answers.moving_envelope import station_extremes
from empuje.core.model.traffic import Spot, Standing
from empuje.core.verdict.found import lengths
from moving import beam, case, forces_under, random_frame, study

SHARES = np.array([0.0, 0.25, 0.5, 0.6, 1.0])


def row_of(r, count=1, clear=1.0, heading="forward", ranges=False):
    """A vehicle of random axles, so many in a row."""
    gap = "[{0} m .. {1} m]" if ranges else "{0} m"
    axles = []
    for k in range(r.randint(1, 3)):
        low = r.choice([1, 1.5, 2, round(r.uniform(0.5, 4), 3)]) if k else 0
        axles.append(f'["{gap.format(low, low + 2).strip("[]") if k else "0 m"}", "{r.uniform(10, 150):.1f} kN"]')
    row = f"count = {count}\nclear = {clear}\n" if count > 1 else ""
    return f'[vehicles.v]\naxles = [{", ".join(axles)}]\n[traffic.T]\nvehicle = "v"\nway = "b"\nheading = "{heading}"\n{row}'


def stations(spans):
    return np.array([s * SHARES for s in spans])


def alone(s, x):
    """Places of one vehicle on both sides of whatever it passes, and forces (stations, 2 sides, 6, places) of them."""
    solution, _ = case(s)
    (mover,) = s.movers.values()
    (train,) = mover.trains
    ends = mover.stepped(train)
    t = np.unique(np.concatenate([np.linspace(0, ends[-1], 301), ends, ends + 1e-7, ends - 1e-7]))
    t = t[(t >= 0) & (t <= ends[-1])]
    columns = respond(mover.equations, loads_of_train(mover.laid.ways[0], train, t, np.arange(len(t))), len(t))
    forces = [forces_under(columns, m, v, np.eye(len(t))) for m in range(len(x)) for v in x[m]]
    return solution, t, np.array(forces), train.length


@pytest.mark.parametrize("seed", range(6))
def test_rows_by_brute_force(seed, tmp_path):
    """Of two and of three vehicles no places of each, at least `clear` apart, make more than what is found: forces at the
    ends and inside of continuous beams, on both sides of wheels at supports and at the beginning of the way."""
    r = random.Random(seed)
    spans = [r.choice([4, 5, 6, 7.5, round(r.uniform(3, 9), 3)]) for _ in range(r.randint(1, 3))]
    clear = r.choice([1, 2, 3, 5])
    x, state = stations(spans), r.getstate()
    _, t, f, length = alone(study(beam(spans, row_of(r)), tmp_path), x)
    for count in (2, 3):
        r.setstate(state)
        solution, results = case(study(beam(spans, row_of(r, count, clear)), tmp_path))
        found = station_extremes(solution, results, np.arange(len(spans)), x)[0].reshape(-1, 6, 2)
        behind = np.searchsorted(t, t - length - clear + 1e-12, side="right")
        for c in (2, 4):
            for side, sign in ((0, -1), (1, 1)):
                own = sign * f[:, :, c, :]
                best = np.maximum(own, 0)
                for _ in range(count - 1):
                    most = np.concatenate([np.zeros((*own.shape[:2], 1)), np.maximum.accumulate(best, -1)], -1)
                    best = own + np.maximum(most, 0)[..., behind]
                    best = np.maximum(best, 0)
                least = best.max(axis=(1, 2))
                assert (sign * found[:, c, side] >= least - 1e-6 * least.max() - 1e-3).all()


@pytest.mark.parametrize("seed", range(4))
def test_every_governing_value_is_that_of_its_name(seed, tmp_path):
    """What an envelope names is analysed again as a static case found by that name alone, and agrees to 1e-8."""
    r = random.Random(seed)
    text = re.sub(r"step = 0\.\d+", 'step = "exact"', random_frame(seed))
    if seed % 3:
        text = text.replace("[traffic.T]", f"[traffic.T]\ncount = {1 + seed % 3}\nclear = {r.choice([1, 2, 3.5])}")
        text = text.replace('enters = "wholly"', 'enters = "axle by axle"')
    s, again = study(text, tmp_path), study(text, tmp_path)
    assert s.sound, [str(f) for f in s.findings]
    solution, project = s.solution(), s.project
    results = [one for one in solution.results if one.moving]

    def static(name):
        (one,) = again.under([name], mixes=True)
        solved = again.solution([one])
        return solved, solved.weights([one])

    found, moving = extremes(solution, results, np.arange(len(project.members))), moving_of(solution, results)
    scale = np.repeat([np.abs(found.forces[..., part]).max() for part in (slice(3), slice(3, 6))], 3)
    for flat in r.sample(range(found.result.size), 10):
        m, f, side = np.unravel_index(flat, found.result.shape)
        one = results[found.result[m, f, side]]
        name = stood(solution, one, moving.stands(found.picks, flat, one)).name
        if "@away" not in name:
            both = forces_under(static(name)[0], m, found.x[m, f, side], static(name)[1])[:, :, 0]
            off = np.abs(both - found.forces[m, f, side]) / scale
            assert off.max(axis=1).min() < 1e-8, name
    reactions = reaction_envelope(solution, results)
    moved = displacement_envelope(solution, results, np.arange(len(project.nodes)))
    for table in (reactions, moved):
        heads = [c.name for c in table.columns]
        rows = list(zip(*(c.values for c in table.columns), strict=True))
        size = {h: max(abs(row[heads.index(h)]) for row in rows) for h in {row[1] for row in rows}}
        for row in r.sample(rows, min(8, len(rows))):
            node, which, name = row[0], row[1], str(row[heads.index("case")])
            if "@away" in name:
                continue
            solved, weights = static(name)
            if table is reactions:
                held = [project.nodes[n].name for n in solved.support_node]
                value = solved.reaction[held.index(node), "FFFMMM".index(which[0]) + "xyz".index(which[1])] @ weights
            else:
                value = solved.displacement[[n.name for n in project.nodes].index(node),
                                            "uuurrr".index(which[0]) + "xyz".index(which[1])] @ weights  # fmt: skip
            assert abs(value[0] - row[heads.index(which)]) < 1e-8 * size[which] + 1e-9, name


def least_and_greatest(text, tmp_path):
    s = study(text, tmp_path)
    assert s.sound, [str(f) for f in s.findings if f.level == "error"]
    solution, results = case(s)
    forces = extremes(solution, results, np.arange(len(s.project.members))).forces
    forces = forces[:, np.arange(6), :, np.arange(6)].ravel()
    nodes = displacement_envelope(solution, results, np.arange(len(s.project.nodes)))
    heads = [c.name for c in nodes.columns]
    moved = [row[heads.index(row[1])] for row in zip(*(c.values for c in nodes.columns), strict=True)]
    up = reaction_envelope(solution, results, of=("Fz", "My"))
    heads = [c.name for c in up.columns]
    held = [row[heads.index(row[1])] for row in zip(*(c.values for c in up.columns), strict=True)]
    return [np.abs(v) for v in (forces, np.array(moved, float), np.array(held, float))]


@pytest.mark.parametrize("seed", range(3))
def test_more_is_never_less(seed, tmp_path):
    """Two vehicles against one, less room between them, both headings against either, and one more way; on beams and on
    cantilevers whose free end is where the way begins. Coordinates rounded off by 1e-10 change nothing."""
    r = random.Random(seed)
    spans = [r.choice([3, 4, 6, round(r.uniform(3, 8), 3)]) for _ in range(1 + seed % 2)]

    def text(**own):
        state = random.Random(seed + 100)
        out = beam(spans, row_of(state, **own))
        if seed % 4 == 0:  # free at A, where vehicles come
            out = out.replace('[[supports]]\nat = "A"\nfix = "x z"\n', "").replace(
                'at = ["B"]\nfix = "z"', 'at = ["B"]\nfix = "fixed"'
            )
        return out

    def never_less(more, less):
        for a, b in zip(more, less, strict=True):
            assert (a >= b - 1e-8 * b.max(initial=0)).all()

    one, two = least_and_greatest(text(), tmp_path), least_and_greatest(text(count=2, clear=2), tmp_path)
    never_less(two, one)
    never_less(least_and_greatest(text(count=3, clear=2), tmp_path), two)
    near = least_and_greatest(text(count=2, clear=1.3), tmp_path)
    never_less(near, two)
    both = least_and_greatest(text(count=2, clear=2, heading="both"), tmp_path)
    never_less(both, two)
    never_less(both, least_and_greatest(text(count=2, clear=2, heading="backward"), tmp_path))
    ways = text(count=2, clear=2).replace('way = "b"', 'ways = ["b", "b"]\npresence = [1, 1]')
    never_less(least_and_greatest(ways, tmp_path), two)
    rough = re.sub(r"^([A-G]) = \[([\d.]+), 0\]", lambda f: f"{f[1]} = [{float(f[2]) * (1 + 1e-10)!r}, 0]",
                   text(count=2, clear=2), flags=re.M)  # fmt: skip
    for a, b in zip(least_and_greatest(rough, tmp_path), two, strict=True):
        assert a == pytest.approx(b, rel=1e-7, abs=1e-7 * b.max(initial=0))


@pytest.mark.parametrize("roll", [0, 30, 90, 180, -17.3])
def test_unit_answers_know_rolled_and_sloping_members(roll, tmp_path):
    """Wheels anywhere on rolled members, with horizontal forces and lane loads, are solved as sums of unit answers just as
    they are by themselves, whichever freedoms a place happens to load."""
    text = f"""
[project]
units = "kN m"
[nodes]
A = [0, 0, 0]
B = [4, 0, 0]
C = [4, 5, 0]
D = [9, 5, 1.5]
[members.b]
section = "HEB 300"
material = "S355"
roll = {roll}
pieces = {{ b1 = "A > B", b2 = "B > C", b3 = "C > D" }}
[[supports]]
at = ["A", "C", "D"]
fix = "fixed"
[vehicles.v]
axles = [[0, 50], [1.7, 30]]
gauge = 1
lane = 5
lane_on = ["under", "behind"]
along = 0.2
across = 0.1
height = 1
[traffic.T]
vehicle = "v"
way = "b"
off_member = "twist"
aside = 0.4
"""
    s = study(text, tmp_path)
    assert s.sound, [str(f) for f in s.findings]
    (mover,) = s.movers.values()
    train, r = mover.trains[0], np.random.default_rng(3)
    t = np.sort(r.uniform(0, mover.laid.ways[0].length, 40))
    loads = loads_of_train(mover.laid.ways[0], train, t, np.arange(len(t)))
    direct = respond(mover.equations, loads, len(t))
    sums = mover.units.columns(mover.units.put(loads, len(t)))
    for a, b in ((sums.reaction, direct.reaction), (sums.displacement, direct.displacement)):
        assert np.abs(a - b).max() < 1e-9 * np.abs(b).max()
    just_one = mover.units.put(loads_of_train(mover.laid.ways[0], train, np.array([2.0]), np.array([0])), 1)
    assert np.isfinite(just_one.at_freedoms).all()


def lifting(seed):
    """A continuous beam whose supports may lift, stayed by ties, with a vehicle or two headings of it."""
    r = random.Random(seed)
    n = r.randint(2, 3)
    x, names = np.round(np.cumsum([0.0, *(r.uniform(3, 8) for _ in range(n))]), 2), "ABCDE"
    ties = [i for i in range(n + 1) if r.random() < 0.4]
    lines = ['[project]\nunits = "kN m"\nspace = "plane"\n[nodes]']
    lines += [f"{names[i]} = [{v}, 0]" for i, v in enumerate(x)]
    lines += [f"T{i} = [{x[i] + 0.4}, {r.choice([3, -3])}]" for i in ties]
    pieces = ", ".join(f'b{i} = "{names[i]} > {names[i + 1]}"' for i in range(n))
    lines.append(f'[members.b]\nsection = "HEB 300"\nmaterial = "S355"\npieces = {{ {pieces} }}')
    if ties:
        pieces = ", ".join(f't{i} = "{names[i]} > T{i}"' for i in ties)
        lines.append('[members.tie]\nsection = "L 70x70x7"\nmaterial = "S235"\nacts = "tension"\nbar = true')
        held = ", ".join(f'"T{i}"' for i in ties)
        lines.append(f'pieces = {{ {pieces} }}\n[[supports]]\nat = [{held}]\nfix = "pinned"')
    for i in range(n + 1):
        fix = 'fix = "x z"' if i == 0 else 'fix = "z"\nlift = true' if r.random() < 0.7 else 'fix = "z"'
        lines.append(f'[[supports]]\nat = "{names[i]}"\n{fix}')
    axles = ", ".join(
        f"[{0 if k == 0 else round(r.uniform(1, 4), 2)}, {r.uniform(20, 120):.1f}]" for k in range(r.randint(1, 3))
    )
    lines.append(f'[cases]\nG = {{ action = "dead" }}\n[loads]\nG = [{{ on = "b", line = {r.uniform(0.5, 6):.2f} }}]')
    lines.append(f'[vehicles.v]\naxles = [{axles}]\n[traffic.T]\nvehicle = "v"\nway = "b"\nuse = "storage"')
    lines.append('[combinations.custom]\nC1 = "1.2 G + 1.5 T"\nC2 = "0.9 G + 1.5 T"\n')
    return "\n".join(lines)


def as_one(s, results):
    """Least and greatest of forces along members (6, members, 2), of reactions (supports, 6, 2), and of displacements of
    nodes (nodes, 6, 2)."""
    solution = s.solution(results)
    assert not [r for r in results if r in solution.failed]
    found = extremes(solution, results, np.arange(len(s.project.members)))
    forces = found.forces[:, np.arange(6), :, np.arange(6)]
    weights = solution.weights(results)
    moved = solution.displacement[[n for n, node in enumerate(s.project.nodes) if node.xyz[2] == 0]]
    each = (np.einsum("sic,cr->sir", table, weights) for table in (solution.reaction, moved))
    return forces, *(np.stack([e.min(axis=2), e.max(axis=2)], axis=-1) for e in each)


@pytest.mark.parametrize("seed", range(4))
def test_positions_are_chosen_in_the_state_that_each_leaves(seed, tmp_path):
    """Where supports lift and ties go slack: no position of some 240 analysed one by one makes more than those chosen, by
    over 1 % of any force, reaction or displacement that counts; the traffic that is away is among them."""
    text = lifting(seed)
    s, every = study(text, tmp_path), study(text, tmp_path)
    assert s.sound, [str(f) for f in s.findings]
    assert len(s.project.standings) < 82 and any(not one.spots for one in s.project.standings)
    laid = every.resolved.laid[0]
    gaps = tuple(a.gap[0] for a in laid.traffic.vehicles[0].axles[1:])
    end, nodes = laid.ways[0].length, np.array([n.xyz[0] for n in every.project.nodes if n.xyz[2] == 0])
    at = (nodes[:, None] + np.cumsum([0.0, *gaps])).ravel()
    t = np.unique(np.concatenate([np.linspace(0, end + sum(gaps), 220), at - 2e-9, at + 2e-9]))
    swept_over = [Standing("", 0, (Spot(0, 0, float(v), 1, 0, 0, gaps),)) for v in t[(t >= 0) & (t <= end + sum(gaps))]]
    moving = [r for r in every._not_placed if r.combination is not None]
    assert len(moving) == 2
    dense = as_one(every, every.stand_at(moving, {"T": swept_over}))
    found = as_one(s, s.under(["C1", "C2"]))
    for axis, own, whole in zip((0, 1, 1), found, dense, strict=True):
        for own_kind, kind in zip(np.split(own, 2, axis), np.split(whole, 2, axis), strict=True):
            size = np.where(np.abs(kind) > 0.05 * np.abs(kind).max(), np.abs(kind), np.inf)
            short = np.stack([own_kind[..., 0] - kind[..., 0], kind[..., 1] - own_kind[..., 1]], axis=-1) / size
            assert short.max() < 0.01


def test_every_step_is_analysed_where_it_is_asked_for(tmp_path):
    """On both sides of nodes: what each makes by itself, and never less than chosen positions do."""
    text = lifting(1).replace("[traffic.T]\n", "[traffic.T]\nstep = 0.7\n")
    chosen, every = (
        study(text.replace("step = 0.7\n", f"step = 0.7\n{more}"), tmp_path) for more in ("", "every_step = true\n")
    )
    assert len(chosen.project.standings) < len(every.project.standings)
    mover = Mover(every.resolved.laid[0], every.prepared.equations)
    stood = np.sort([one.spots[0].t for one in every.project.standings if one.spots])
    steps = np.concatenate([mover.stepped(train) for train in mover.trains])
    assert np.abs(steps[:, None] - stood).min(axis=1).max() < 3e-9 and len(stood) > len(steps)
    for one, all_ in zip(
        as_one(chosen, chosen.under(["C1", "C2"])), as_one(every, every.under(["C1", "C2"])), strict=True
    ):
        near = 1e-7 * np.abs(all_).max()
        assert (all_[..., 0] <= one[..., 0] + near).all() and (all_[..., 1] >= one[..., 1] - near).all()
    for old, new, code in (("step = 0.7", "", "wrong-key"), ("step = 0.7", "step = 0.001", "too-many")):
        wrong = text.replace(old, f"{new}\nevery_step = true")
        assert code in [f.code for f in study(wrong, tmp_path).findings if f.level == "error"]


@pytest.mark.parametrize("seed", [0, 1, 3, 7])
def test_horizontal_resultants_are_exact(seed, tmp_path):
    """The greatest horizontal reaction under a vehicle that brakes and pushes: no position has a greater one, and the
    greatest of many comes close to it."""
    text = re.sub(r"step = 0\.\d+", 'step = "exact"', random_frame(seed))
    text = re.sub(r"(along|across|height|lane|lane_on) = .*", "", text).replace(
        "[traffic.T]", "along = 0.3\nacross = 0.2\n[traffic.T]"
    )
    s = study(text, tmp_path)
    assert s.sound and not s.project.plane
    solution, results = case(s)
    found, _ = lengths(solution, results, lambda table: table.reaction[:, :2])
    most = np.zeros(len(found))
    (mover,) = s.movers.values()
    for train in mover.trains:
        low, high = train.reach(mover.laid.traffic.entering)
        ends = mover.stepped(train)
        t = np.unique(np.clip(np.concatenate([np.linspace(low, high, 301), ends - 1e-8, ends + 1e-8]), low, high))
        columns = respond(mover.equations, loads_of_train(mover.laid.ways[0], train, t, np.arange(len(t))), len(t))
        most = np.maximum(most, np.hypot(columns.reaction[:, 0], columns.reaction[:, 1]).max(axis=1))
    for i in range(len(found)):  # each is what it is by itself
        alone, _ = lengths(solution, results, lambda table, i=i: table.reaction[[i], :2])
        assert alone[0] == pytest.approx(found[i], rel=1e-9)
    assert (most <= found[:, 1] * (1 + 1e-9) + 1e-6).all() and found[:, 1] == pytest.approx(most, rel=1e-4)
