"""Parts of a frame that are drawn by themselves: the elevation of a grid line, the plan of a level."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ...core.model.findings import did_you_mean
from ...core.model.project import Project
from .view import View

ON_LINE = 1e-3
"""Members whose ends are nearer to a plane than this [m] lie in it."""


class NoPart(LookupError):
    """There is no such line or level, or nothing lies in it; the message says so."""


def elevation(project: Project, line: str) -> tuple[NDArray[np.intp], View]:
    """The members in the upright plane of a grid line of x or y, and the view onto it: from the south for lines of y,
    from the east for lines of x; "x=A" where both have one of that name. Raises NoPart."""
    axis, name = _asked(line)
    found = [a for a in ("x", "y") if name in project.grid.get(a, {}) and axis in ("", a)]
    if len(found) == 2:
        raise NoPart(f"x and y both have a line {name}; write x={name} or y={name}")
    if not found:
        if name in project.grid.get("z", {}):
            raise NoPart(f"{name} is a level; --plan {name} shows it")
        raise NoPart(_unknown(project, line, name, ("x", "y"), "line of x or y"))
    view = View.named("yz" if found[0] == "x" else "xz")
    return _in_plane(project, found[0], name), view.part(f"elevation of line {name}")


def plan(project: Project, level: str) -> tuple[NDArray[np.intp], View]:
    """The members that lie in a level, seen from above. Raises NoPart."""
    _, name = _asked(level)
    if name not in project.grid.get("z", {}):
        if any(name in project.grid.get(a, {}) for a in ("x", "y")):
            raise NoPart(f"{name} is no level; --elevation {name} shows that line")
        raise NoPart(_unknown(project, level, name, ("z",), "level"))
    return _in_plane(project, "z", name), View.named("xy").part(f"plan of {name}")


def _asked(text: str) -> tuple[str, str]:
    axis, sign, name = text.partition("=")
    return (axis.strip(), name.strip()) if sign and axis.strip() in ("x", "y", "z") else ("", text.strip())


def _unknown(project: Project, text: str, name: str, axes: tuple[str, ...], what: str) -> str:
    known = [n for a in axes for n in project.grid.get(a, {})]
    if not known:
        return f"{project.file} has no [grid] with a {what}; --view and --on choose a part of it"
    return f"there is no {what} called {text}; {did_you_mean(name, known)}"


def _in_plane(project: Project, axis: str, name: str) -> NDArray[np.intp]:
    off = np.abs(project.xyz[:, "xyz".index(axis)] - project.grid[axis][name])
    members = np.flatnonzero((off[project.ends] <= ON_LINE).all(axis=1))
    if not len(members):
        raise NoPart(f"no member lies in {name}")
    return members
