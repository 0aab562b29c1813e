"""From a model file to a project: everything read, resolved and checked in one pass.

>>> reading = read_text('[project]\\nunits = "kN m"\\n', "m.toml")
>>> reading.findings[0].code
'missing-key'
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import numpy as np

from ..core.model.cases import CUSTOM, Case
from ..core.model.findings import Finding, Place, did_you_mean, in_order
from ..core.model.project import Project
from ..core.model.words import Order, Set
from .base.entry import Entry, Notes, refuse_control_characters
from .base.includes import UnusableFile, join_included, parsed
from .base.plain_file import NoPlainFile, bytes_in
from .base.quantities import Units, is_unit, unit_names
from .base.selectors import Names
from .base.values import read_values, say_unused
from .checks.accepting import read_accepted, read_plausible
from .checks.limits import implied_limits, read_limits
from .checks.report import read_report, read_title_block
from .checks.steel import read_steel
from .combos.combining import read_combining, read_formula
from .copies.copied_loads import copied_line_supports, copied_loads, copied_supports, refuse_unknown_cases
from .copies.copied_ways import copied_ways, cranes_left_out
from .copies.copies import OwnGrounds, OwnNames, copied_floors, copied_surfaces, read_copies
from .frame.diaphragms import read_diaphragms
from .frame.members import Family, members_of, read_families, read_members, refuse_bad_lengths, say_empty
from .frame.nodes import NodeBook, read_grid, read_node_rows, read_nodes, snap_nodes
from .frame.parts import read_parts
from .frame.plates import plates_by, read_line_supports
from .frame.supports import read_supports
from .frame.surfaces import read_surfaces
from .keys import ANALYSIS, MODEL, ROWS
from .loads.cases import read_cases
from .loads.floors import read_floors
from .loads.loading import read_loads
from .loads.reduction import read_reduction
from .makers.every import read_makers
from .snow.rain import read_rain
from .snow.snow import read_snow
from .tables.read import read_tables
from .traffic.cranes import read_cranes
from .traffic.traffic import read_traffic
from .wind.wind import read_wind

Orders = dict[Order, tuple[str, ...]]
LARGEST = 50_000_000
NONE_GIVEN: Mapping[str, str] = {}
DISPLAY = {"length": "mm", "stress": "MPa"}, {"length": "in", "stress": "ksi"}


@dataclass(frozen=True)
class Reading:
    """What came of a model file: the project as far as it could be read, what was found on the way, the names in it,
    and a digest of all files read."""

    project: Project
    findings: list[Finding]
    names: Names
    digest: bytes
    files: tuple[Path, ...] = ()
    """The tables, rule files and further files beside it."""
    values: tuple[str, ...] = ()
    """The names of its values."""
    written: Mapping[str, Any] = field(default_factory=dict)
    """The data of its files, joined."""
    families: Mapping[str, Family] = field(default_factory=dict)
    made: Mapping[str, tuple[tuple[int, ...], tuple[int, ...]]] = field(default_factory=dict)
    """Nodes and members by the maker that laid them."""
    book: NodeBook | None = None

    def is_crossing(self, node: str) -> bool:
        """Whether a node is a crossing of the grid."""
        return self.book is not None and self.book.crossing(node) is not None

    @property
    def rule_files(self) -> list[str]:
        """The rule files it names."""
        named = self.written.get("combinations", {}).get("rule_files", [])
        return [named] if isinstance(named, str) else list(named)

    def with_more(self, findings: Iterable[Finding]) -> list[Finding]:
        """All findings in order, with those of what follows from the project. Members that could not be laid are missed
        by surfaces too: one slip, one finding."""
        more = [f for f in findings if not (self.names.unread and f.code in FOLLOW_FROM_MISSING)]
        return in_order([*self.findings, *more])


FOLLOW_FROM_MISSING = ("not-carried", "no-bearing", "unsupported-bay")


def read_model(path: str | Path, given: Mapping[str, str] = NONE_GIVEN) -> Reading:
    """Read a model file; `given`: values in place of those in it, by name. Raises UnusableFile where it is missing, no
    text, or no TOML, and NoSuchValue."""
    path = Path(path)

    def unusable(message: str, remedy: str) -> UnusableFile:
        name = (path.name or str(path)).encode("utf-8", "replace").decode()
        return UnusableFile(Finding("error", "unusable-file", message, remedy, Place(name)))

    if path.name.encode("utf-8", "replace").decode() != path.name:
        raise unusable(
            f"a name that is not UTF-8: {path.name.encode('utf-8', 'backslashreplace').decode()}", "rename it"
        )
    try:
        text = bytes_in(path, LARGEST).decode("utf-8-sig")
    except FileNotFoundError:
        raise unusable(f"there is no file {path}", "check the name, or write a starter with `empuje new`") from None
    except NoPlainFile as error:
        raise unusable(str(error), "name a model file; put long lists into tables") from None
    except OSError as error:
        raise unusable(f"cannot be read: {error.strerror or error}", "check its name and permissions") from None
    except ValueError as error:
        if not isinstance(error, UnicodeDecodeError):  # a name that no file can have
            raise unusable(f"cannot be read: {error}", "check its name") from None
        raise unusable(f"is not UTF-8 text (byte {error.start})", "save it as UTF-8") from None
    return read_text(text, path.name, path.parent, given)


def read_text(text: str, file: str, folder: Path | None = None, given: Mapping[str, str] = NONE_GIVEN) -> Reading:
    """Read the text of a model file, called `file` in findings, with tables in `folder`, and other values than those
    written, by name.

    Raises UnusableFile where it is no TOML, and NoSuchValue.
    """
    data, lines = parsed(text, file)
    notes = Notes(file, lines)
    notes.came_from(f"{file}\0{text}\0{sorted(given.items())}".encode())
    model = Entry(data, (), notes, MODEL)
    join_included(model, folder)
    model.known()
    refuse_control_characters(data, notes)
    title, plane, display, orders = _project(model, notes)
    read_values(model, given)
    book = read_grid(model, plane)
    tables = read_tables(model, folder, ROWS)
    read_nodes(model, book)
    read_node_rows(tables["nodes"], book, notes)
    snap_nodes(model, book)
    parts = read_parts(model, plane)
    families = read_families(model, parts, plane)
    makers = read_makers(model, book, families)
    laid, unread = read_members(model, book, parts, families, tables["members"])
    makers.lay(laid)
    members = members_of(families, laid, parts)
    copies = read_copies(model, book, members)
    members += members_of(families, makers.lay_over(copies, members), parts)
    unread += makers.lacking()
    say_empty(families, members, unread)
    refuse_bad_lengths(members, model)
    crossings = book.some_crossings() if unread else ()
    names = Names(book.nodes, members, unread, crossings)
    own = OwnNames(book.nodes, members, unread, crossings) if copies else names
    grounds = copied_surfaces(copies, read_surfaces(model, book, own, plane, plates_by(parts, book)))
    cases = read_cases(model, names, grounds, plane)
    of_floors, cases = read_floors(model, cases, grounds)
    wind, cases = read_wind(model, cases, names, grounds, plane, copies)
    supports, settled = read_supports(model, own, [c.name for c in cases], plane, tables["supports"])
    copied_supports(copies, supports, settled)
    units = (notes.units.force, notes.units.length)

    def frame() -> Project:
        return Project(file, title, plane, units, display, tuple(book.nodes), tuple(members), tuple(supports), (), (),
                       surfaces=grounds.surfaces)  # fmt: skip

    snow, cases = read_snow(model, cases, names, grounds, wind, plane, copies, frame)
    rain, cases = read_rain(model, cases, grounds, plane)
    mine = OwnGrounds(grounds.surfaces, grounds.index, grounds.unread, grounds.book) if copies else grounds
    traffic, cases = read_traffic(model, cases, own, book, mine, plane)
    cranes, cases = read_cranes(model, cases, own, plane)
    traffic = (*copied_ways(copies, traffic, book.nodes), *cranes)
    cranes_left_out(copies, cranes)
    along_lines = copied_line_supports(copies, read_line_supports(model, mine, plane), grounds.surfaces)
    diaphragms = copied_floors(copies, read_diaphragms(model, own, book.nodes, supports))
    loads, surface_loads = read_loads(model, cases, own, mine, plane, tables["loads"])
    refuse_unknown_cases(copies, [c.name for c in cases])
    if copies:
        rolls = np.array([m.roll for m in members])
        copied_loads(copies, loads, surface_loads, book.nodes, names.ends, rolls, cases)
    loads += settled
    some = any(model.has(key) for key in ("cases", "wind", "snow", "rain", "traffic", "cranes")) or model.child(
        "tables"
    ).has("cases")
    if not cases and not some:
        model.error("missing-key", "the model has no cases", 'add [cases] with G = { action = "dead" }')
    _refuse_shared_names(model, book.index, names, [c.name for c in cases], list(grounds.index))
    combining = read_combining(model, cases, folder, wind)
    reduction = read_reduction(model, cases, names)
    limits = read_limits(model, names, grounds, diaphragms, book.lines.get("z", {}), plane)
    steel = read_steel(model, names)
    parts_in_wind = {m for entry in wind.components for m in entry.members} if wind is not None else set()
    limits += implied_limits(steel, limits, parts_in_wind if combining.sets else ())
    say_unused(model)
    parts.say_unused(model)
    second_order = (*orders[Order.SECOND], *orders[Order.DIRECT])
    project = Project(
        file, title, plane, units, display, tuple(book.nodes), tuple(members), tuple(supports), tuple(cases),
        tuple(loads), combining, book.lines, tuple(diaphragms), second_order, _mass(model, cases),
        grounds.surfaces, (*of_floors, *surface_loads), reduction, wind, traffic,
        limits=tuple(limits), steel=steel, direct=orders[Order.DIRECT],
        line_supports=tuple(along_lines), plausible=read_plausible(model), accepted=read_accepted(model),
        about=read_title_block(model), report=read_report(model), snow=snow, rain=rain,
    )  # fmt: skip
    return Reading(
        project, notes.all_found(), names, notes.digest, tuple(notes.files), tuple(notes.units.values),
        {**data, "values": {**data["values"], **given}} if given else data, families,
        makers.made(names.member_index), book,
    )  # fmt: skip


def _project(model: Entry, notes: Notes) -> tuple[str, bool, tuple[str, str, str, str], Orders]:
    """Title, plane or not, display units, sets by their theory; sets the units that bare numbers have from here on."""
    entry = model.child("project").known()
    title = entry.text("title") or ""
    plane = entry.text("space") == "plane"
    force, length = "kN", "m"
    if entry.text("units") is not None:
        words = entry.data["units"].replace(",", " ").split()
        if len(words) == 2 and is_unit(words[0], "force") and is_unit(words[1], "length"):
            force, length = words
        else:
            unknown = [w for w in words if not is_unit(w, "force") and not is_unit(w, "length")]
            hints = [f"for {w} {did_you_mean(w, unit_names())}" for w in unknown]
            entry.error("bad-units", f'project.units = "{entry.data["units"]}"', "; ".join(
                        ['write a force and a length, such as "kN m" or "kip ft"', *hints[:2]]), "units")  # fmt: skip
    notes.units = Units(force, length)
    small = DISPLAY[length in ("ft", "in")]
    display = [force, length, small["length"], small["stress"]]
    if entry.has("display") and entry.text("display") is not None:
        words = entry.data["display"].replace(",", " ").split()
        kinds = ["force", "length", "length", "stress"]
        if 2 <= len(words) <= 4 and all(is_unit(w, k) for w, k in zip(words, kinds, strict=False)):
            display[: len(words)] = words
        else:
            entry.error("bad-units", f'project.display = "{entry.data["display"]}"',
                        'write force, length, displacement and stress, such as "kN m mm MPa"', "display")  # fmt: skip
    return title, plane, tuple(display), _orders(entry)  # type: ignore[return-value]


def _orders(entry: Entry) -> Orders:
    """The sets of combinations by the theory of their analysis, "*" for every one: one word for all, or a word for each
    set."""
    if not isinstance(entry.data.get("analysis"), dict):
        word = entry.word("analysis", Order)
        return {order: ("*",) if word == order else () for order in Order}
    table = entry.child("analysis", ANALYSIS).known([*Set, CUSTOM])
    words = {name: table.word(name, Order) for name in table.data}
    return {order: tuple(name for name, word in words.items() if word == order) for order in Order}


def _mass(model: Entry, cases: list[Case]) -> tuple[tuple[str, float], ...]:
    """The cases whose vertical loads are masses, with their factors."""
    project = model.data.get("project")
    if not isinstance(project, dict) or "mass" not in project:
        return ()
    entry = model.child("project")
    formula = entry.text("mass")
    return read_formula(entry, "mass", "mass", formula, [c.name for c in cases]) or () if formula is not None else ()


def _refuse_shared_names(
    model: Entry, nodes: dict[str, int], names: Names, cases: list[str], surfaces: list[str]
) -> None:
    """A name may belong to one thing only."""
    owner = {name: ("node", ("nodes", name)) for name in nodes}
    for kind, words, table in (
        ("family", names.of_family, "members"), ("case", cases, "cases"), ("surface", surfaces, "surfaces"),
    ):  # fmt: skip
        for word in words:
            if word in owner:
                model.error("name-clash", f"{word} is both a {owner[word][0]} and a {kind}", "rename one of them",
                            table, word)  # fmt: skip
            owner.setdefault(word, (kind, (table, word)))
