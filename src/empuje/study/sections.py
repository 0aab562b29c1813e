"""Other sections tried: the model analysed anew with each, with its own stiffness and weight, and held against its
limits and its code.

>>> found = tried(Path("packing-house.toml"), ["joists"], ["IPE 300", "IPE 330"], 20)     # doctest: +SKIP
"""

from __future__ import annotations

import os
from collections.abc import Callable, Iterator, Mapping, Sequence
from concurrent.futures import ProcessPoolExecutor
from contextlib import contextmanager
from dataclasses import dataclass, replace
from itertools import islice, product
from multiprocessing import active_children, get_context
from pathlib import Path

import numpy as np

from ..core.answers.patterns import TooMany
from ..core.catalogue.catalogue import find_section
from ..core.model.frame import Section
from ..core.model.project import Project
from ..core.model.telling import Tell, quiet
from ..core.model.words import Holds, LimitKind
from ..files.kept.workers import end_with_parent
from ..files.reader import NONE_GIVEN, Reading, read_model
from .study import ModelError, NothingMeant, Study
from .verdicts import checked_members, judged

Choice = tuple[str, ...]
"""A section for each family."""


@dataclass(frozen=True)
class Trial:
    """A choice: its mass [kg] in the families and in all; the largest share of any resistance that members of the
    families use, by which check, member and result; the limit that uses most, how much, and what it comes to; what went
    wrong. NaN where nothing was checked."""

    choice: Choice
    mass: float
    whole: float
    used: float = np.nan
    check: str = ""
    member: str = ""
    case: str = ""
    limit: str = ""
    limit_used: float = np.nan
    passes: bool = False
    wrong: str = ""
    fails: tuple[bool, ...] = ()
    """Of each family, whether its own members fail."""


def named_sections(words: Sequence[str], own: Sequence[str]) -> list[str]:
    """Sections by name, and all of a series from one to another, `IPE 240 .. IPE 400`. Raises LookupError with the word
    that means nothing."""
    from ..core.catalogue.catalogue import catalogue

    series: dict[str, list[str]] = {}
    of: dict[str, str] = {}
    for one in catalogue().values():
        series.setdefault(one.series, []).append(one.name)
        of[one.name] = one.series
    out: list[str] = []
    for word in (w.strip() for w in words):
        ends = [part.strip() for part in word.split("..")]
        names = [_known(end, own) for end in ends]
        if len(names) == 1:
            out.append(names[0])
            continue
        if len(names) != 2 or of.get(names[0], "") != of.get(names[1], "?"):
            raise LookupError(f"{word}: write two sections of one series")
        row = series[of[names[0]]]
        i, k = sorted((row.index(names[0]), row.index(names[1])))
        out += row[i : k + 1]
    return list(dict.fromkeys(out))


def _known(word: str, own: Sequence[str]) -> str:
    if word in own:
        return word
    found = find_section(word)
    if found is None:
        raise LookupError(f"no section is called {word}")
    return found.name


def with_sections(reading: Reading, families: Sequence[str], choice: Choice) -> Reading:
    """A model with other sections for some families. Raises LookupError where there is none of a name."""
    own = {m.section.name: m.section for m in reading.project.members}
    sections: dict[str, Section] = {}
    for family, name in zip(families, choice, strict=True):
        found = own.get(name) or find_section(name)
        if found is None:
            raise LookupError(f"no section is called {name}")
        sections[family] = found
    members = tuple(replace(m, section=sections.get(m.family, m.section)) for m in reading.project.members)
    return replace(reading, project=replace(reading.project, members=members))


OF_THE_FRAME = (LimitKind.DISPLACEMENT, LimitKind.DRIFT, LimitKind.TILT, LimitKind.STABILITY)
"""Limits that every member has a part in."""


def unchecked_families(project: Project, families: Sequence[str]) -> list[str]:
    """Families with a member that neither [steel] nor a limit on members is about: nothing would say that it fails."""
    checked = set(project.steel.on) if project.steel is not None else set()
    on_members = (LimitKind.FORCE, LimitKind.STRESS, LimitKind.DEFLECTION, LimitKind.STEEL)
    checked |= {m for limit in project.limits if limit.kind in on_members for m in limit.on}
    loose = {one.family for m, one in enumerate(project.members) if m not in checked}
    return [f for f in families if f in loose]


def frame_limited(project: Project) -> bool:
    """Whether a limit is about the frame's motions or stability, which every member has a share in."""
    return any(limit.kind in OF_THE_FRAME for limit in project.limits)


def masses(reading: Reading, families: Sequence[str]) -> tuple[float, float]:
    """Of the members of some families, and of all [kg]."""
    project = reading.project
    each = project.masses
    chosen = np.array([m.family in families for m in project.members])
    return float(each[chosen].sum()), float(each.sum())


def trial(reading: Reading, path: Path, families: Sequence[str], choice: Choice) -> Trial:
    """One choice analysed and held against everything the model asks for."""
    changed = with_sections(reading, families, choice)
    mass, whole = masses(changed, families)
    found = Trial(choice, mass, whole)
    study = Study(path, changed, cache=False)
    if not study.sound:
        return replace(found, wrong=next(f.message for f in study.findings if f.level == "error"))
    passes = True
    fails = [False] * len(families)
    checked = None
    try:
        if study.project.steel is not None:
            members = sorted(study.project.steel.on)
            if members:  # all of them: another section of one family moves forces to others
                _, checked, _ = checked_members(study, members)
                family = [study.project.members[m].family for m in members]
                own = np.array([f in families for f in family], bool)
                m = int(np.where(own, checked.use.max(axis=1), -1.0).argmax())
                c = checked.worst(m)
                for k, one in enumerate(checked.holds(k) for k in range(len(members))):
                    if one in (Holds.FAILS, Holds.UNANSWERED):
                        passes = False
                        if own[k]:
                            fails[families.index(family[k])] = True
                passes &= not checked.failed
                name = study.project.members[checked.members[m]].name
                case = checked.results[int(checked.result[m, c])].name if checked.results else ""
                found = replace(found, used=float(checked.use[m, c]), check=checked.checks[c], member=name, case=case)
        steel = study.project.steel
        limits = [x.name for x in study.project.limits if steel is None or x.place != steel.place]
        if limits:
            verdict = judged(study, limits, checked=checked)
            worst = verdict.outcomes[0]
            passes &= not verdict.fails
            found = replace(found, limit=f"{worst.limit.name} {worst.bound.of}", limit_used=float(worst.used))
    except (ModelError, TooMany, NothingMeant) as error:
        return replace(found, wrong=str(error).splitlines()[0], fails=tuple(fails))
    return replace(found, passes=passes, fails=tuple(fails))


_reading: dict[str, Reading] = {}
THREADS = ("OPENBLAS_NUM_THREADS", "MKL_NUM_THREADS", "OMP_NUM_THREADS")


@contextmanager
def _one_thread_each() -> Iterator[None]:
    """New processes load libraries of linear algebra that use one thread: several of them in each process wait for one
    another by spinning, which took five times as long. Forked ones would have those of their parent, hence spawned.
    """
    before = {name: os.environ.get(name) for name in THREADS}
    os.environ.update(dict.fromkeys(THREADS, "1"))
    try:
        yield
    finally:
        for name, value in before.items():
            os.environ.pop(name) if value is None else os.environ.update({name: value})


def _in_worker(path: str, given: dict[str, str], families: tuple[str, ...], choice: Choice) -> Trial:
    if path not in _reading:
        _reading[path] = read_model(path, given)
    return trial(_reading[path], Path(path), families, choice)


def choices(project: Project, families: Sequence[str], names: Sequence[str]) -> list[Choice]:
    """Every mix of sections for the families, the lightest first."""
    length = dict.fromkeys(families, 0.0)
    for m, span in zip(project.members, project.lengths.tolist(), strict=True):
        if m.family in length:
            length[m.family] += span * m.material.density
    own = {m.section.name: m.section for m in project.members}
    area = {name: (own.get(name) or find_section(name)).A for name in names}  # type: ignore[union-attr]
    every = list(product(names, repeat=len(families)))
    return sorted(every, key=lambda c: sum(area[n] * length[f] for n, f in zip(c, families, strict=True)))


def tried(
    path: Path, families: Sequence[str], names: Sequence[str], most: int, tell: Tell = quiet,
    workers: int | None = None, given: Mapping[str, str] = NONE_GIVEN,
) -> list[Trial]:  # fmt: skip
    """Choices by mass, the lightest that passes first, then others that pass, then those that do not; `most`: so many
    analyses at most.

    Of one family every section is tried. Of several all mixes where there are not more than `most`; else from the
    lightest on, families whose own members fail taking the next heavier section, all of them where only limits do; and
    once a mix passes, each family one step lighter. What analyses are left go to mixes lighter than the lightest that
    passed, since a family with a heavier section may let another have a much lighter one.
    """
    reading = read_model(path, given)
    every = choices(reading.project, families, names)
    by_choice: dict[Choice, Trial] = {}
    count, others = workers or os.cpu_count() or 1, set(active_children())
    many, spawn = min(count, max(len(every), 1)), get_context("spawn")
    with _one_thread_each(), ProcessPoolExecutor(many, spawn, initializer=end_with_parent) as pool:

        def look(some: Sequence[Choice]) -> list[Trial]:
            new = [c for c in some if c not in by_choice][: max(most - len(by_choice), 0)]
            jobs = [pool.submit(_in_worker, str(path), dict(given), tuple(families), c) for c in new]
            for c, job in zip(new, jobs, strict=True):
                tell("trying sections", len(by_choice), min(most, len(every)))
                by_choice[c] = job.result()
            return [by_choice[c] for c in some if c in by_choice]

        try:
            if len(every) <= most:
                look(every)
            else:
                _climb(reading, families, names, look)
                while some := _likely(lighter_left(every, list(by_choice.values())), by_choice, every, count):
                    if not look(some):
                        break
        except BaseException:
            for process in set(active_children()) - others:
                process.terminate()  # nothing they do is wanted, and the pool would wait for it
            raise
    return sorted(by_choice.values(), key=lambda t: (not t.passes, t.mass if t.passes else _badness(t), t.choice))


def lighter_left(every: Sequence[Choice], found: Sequence[Trial]) -> list[Choice]:
    """Mixes not tried that are lighter than the lightest that passes, of all by mass; all not tried where none does."""
    known = {t.choice: t.passes for t in found}
    first = next((i for i, c in enumerate(every) if known.get(c)), len(every))
    return [c for c in every[:first] if c not in known]


def _likely(left: list[Choice], known: dict[Choice, Trial], every: Sequence[Choice], count: int) -> list[Choice]:
    """The heaviest of them first, and of those before others that are in no family heavier than a mix that fails."""
    rung = {n: i for i, n in enumerate(dict.fromkeys(c[0] for c in every))}
    failed = [[rung[n] for n in c] for c, t in known.items() if not t.passes]

    def hopeless(c: Choice) -> bool:
        return any(all(rung[n] <= top for n, top in zip(c, one, strict=True)) for one in failed)

    chosen = list(islice((c for c in reversed(left) if not hopeless(c)), count))
    return chosen or left[: -count - 1 : -1]


def _badness(t: Trial) -> float:
    both = [v for v in (t.used, t.limit_used) if not np.isnan(v)]
    return np.inf if t.wrong or not both else max(both)


def _climb(
    reading: Reading, families: Sequence[str], names: Sequence[str], look: Callable[[Sequence[Choice]], list[Trial]]
) -> None:
    """From the lightest mix on: whoever fails takes the next heavier section; then each family one step lighter; until
    a mix can no more be looked at."""
    ladder = {f: [c[0] for c in choices(reading.project, [f], names)] for f in families}
    rung = [0] * len(families)
    tops = [len(ladder[f]) - 1 for f in families]

    def mix(at: Sequence[int]) -> Choice:
        return tuple(ladder[f][k] for f, k in zip(families, at, strict=True))

    while True:
        found = look([mix(rung)])
        if not found:
            return
        if found[0].passes:
            break
        fails = found[0].fails
        up = [i for i in range(len(families)) if fails and fails[i]] or list(range(len(families)))
        raised = [i for i in up if rung[i] < tops[i]] or [i for i in range(len(families)) if rung[i] < tops[i]]
        if not raised:
            return
        for i in raised:
            rung[i] += 1
    while True:
        lighter = {mix(at): at for at in ([k - (i == j) for j, k in enumerate(rung)] for i in range(len(families))
                   if rung[i] > 0)}  # fmt: skip
        passing = [(t.mass, lighter[t.choice]) for t in look(list(lighter)) if t.passes]
        if not passing:
            return
        rung = min(passing)[1]
