"""Frames that can move: which nodes, in which freedoms, and why.

Three questions in turn: can a part move as one rigid body past its supports; does a moment act on a rotation that
nothing restrains; and is there a motion of the nodes that strains no member (the null vectors of the stiffness)?
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray
from scipy import sparse
from scipy.sparse import csgraph

from ..model.findings import Finding, Place, listed
from ..model.frame import FREEDOMS
from ..model.project import Project
from .assembly import Freedoms, steadied
from .mesh import Mesh

Floats = NDArray[np.float64]
MOST_MOTIONS = 6


MOST_NAMED = 1000


def _error(place: Place, message: str, remedy: str, *about: str) -> Finding:
    return Finding("error", "mechanism", message, remedy, place, about=about)


def one_of_each(findings: Sequence[Finding]) -> list[Finding]:
    """Findings with the same remedy made one: that of the first, with the others' nodes or members."""
    alike: dict[str, list[Finding]] = {}
    for f in dict.fromkeys(findings):
        alike.setdefault(f.remedy, []).append(f)
    out = []
    for first, *more in alike.values():
        about = tuple(dict.fromkeys(name for f in (first, *more) for name in f.about))
        others = [name for name in about if name not in first.about]
        words = f"; likewise {listed(others)}" if others else "; and in other ways" if more else ""
        out.append(replace(first, message=first.message + words, about=about[:MOST_NAMED]))
    return out


def loose_members(project: Project, mesh: Mesh, elements: NDArray[np.intp]) -> list[Finding]:
    """Members whose own ends free so much that they can move between their nodes."""
    return one_of_each([
        _error(
            project.members[m].place, f"{project.members[m].name} can move between its own ends: both let go of it",
            "fix the degree of freedom at one end, or give it a spring", project.members[m].name,
        )
        for m in np.unique(mesh.member[elements])
    ])  # fmt: skip


def free_motions(project: Project, mesh: Mesh, freedom: Freedoms, axes: Floats) -> list[Finding]:
    """Parts of the frame that their supports leave free to move as a rigid body, from the supports' geometry alone."""
    n = len(project.nodes)
    floors = np.array([(f.nodes[0], node) for f in project.diaphragms for node in f.nodes], np.intp).reshape(-1, 2)
    pairs = [np.column_stack([mesh.start, mesh.end]), floors]
    if project.plates is not None:
        pairs += [np.stack([g.node, np.roll(g.node, 1, axis=1)], axis=2).reshape(-1, 2) for g in project.plates.groups]
        pairs.append(np.column_stack([project.plates.hinges.node, project.plates.hinges.other]))
    near, far = np.concatenate(pairs).T
    links = sparse.coo_matrix((np.ones(len(near)), (near, far)), shape=(n, n))
    count, part = csgraph.connected_components(links, directed=False)
    used = freedom.active.any(axis=1)
    findings = []
    for p in range(count):
        nodes = np.flatnonzero((part == p) & used)
        if len(nodes) == 0:
            continue
        centre = project.xyz[nodes].mean(axis=0)
        size = max(float(np.abs(project.xyz[nodes] - centre).max()), 1.0)
        motion = _rigid_motions(project.xyz[nodes] - centre, size, axes[nodes])
        possible = [0, 2, 4] if project.plane else [0, 1, 2, 3, 4, 5]
        held = (freedom.held | (freedom.spring > 0))[nodes].ravel()
        stopped = motion[:, possible][held]
        gram = stopped.T @ stopped if len(stopped) else np.zeros((len(possible),) * 2)
        value, vector = np.linalg.eigh(gram)
        free = np.zeros((6, int((value < 1e-12 * max(value.max(), 1.0)).sum())))
        free[possible] = vector[:, : free.shape[1]]
        if free.size:
            findings.append(_rigid_finding(project, nodes, free.T, count > 1))
    return one_of_each(findings)


def _rigid_motions(from_centre: Floats, size: float, axes: Floats) -> Floats:
    """Six rigid motions (6 nodes, 6) in the nodes' own axes: three shifts, three turns scaled by the part's size."""
    n = len(from_centre)
    out = np.zeros((n, 6, 6))
    out[:, range(3), range(3)] = 1
    for axis in range(3):
        turn = np.eye(3)[axis]
        out[:, :3, 3 + axis] = np.cross(turn, from_centre) / size
        out[:, 3 + axis, 3 + axis] = 1 / size
    out = np.concatenate([axes @ out[:, :3], axes @ out[:, 3:]], axis=1)
    return out.reshape(6 * n, 6)


def _rigid_finding(project: Project, nodes: NDArray[np.intp], motions: Floats, part: bool) -> Finding:
    """One finding for all motions (k, 6) of a part, those along the axes first."""
    names = [project.nodes[i].name for i in nodes]
    what = f"the part with nodes {listed(names, 4)}" if part else "the whole frame"
    shifts, turns = _apart(motions)
    words, remedy = [], []
    if len(shifts):
        words.append(f"move along {' and '.join(_direction(v) for v in shifts)}")
        remedy.append(f"there is no support in {_axes(shifts)}: add one")
    if len(turns):
        words.append(f"turn about {' and '.join(_direction(v) for v in turns)}")
        rotations = ", ".join(f"r{axis}" for axis in _axes(turns).split(", "))
        remedy.append(f"add supports that stop this turn, or fix a rotation ({rotations})")
    place = next((s.place for s in project.supports), project.nodes[nodes[0]].place)
    return _error(place, f"{what} is free to {' and to '.join(words)}: nothing holds it", "; ".join(remedy), *names)


def _apart(motions: Floats) -> tuple[Floats, Floats]:
    """Of rigid motions (k, 6) the pure shifts among their mixtures (n, 3), and the axes of the other ones' turns; each
    along axes where that spans the same."""
    ways, size, mix = np.linalg.svd(motions[:, 3:].T)
    rank = int((size > 1e-6).sum())
    return _along_axes(mix[rank:] @ motions[:, :3]), _along_axes(ways[:, :rank].T)


def _along_axes(vectors: Floats) -> Floats:
    """A base of what vectors (n, 3) span: axes, where these lie in it; else the vectors."""
    if not len(vectors):
        return vectors
    base = np.linalg.svd(vectors, full_matrices=False)[2]
    own = np.eye(3)[np.linalg.norm(np.eye(3) @ base.T, axis=1) > 1 - 1e-9]
    return own if len(own) == len(base) else base


def _axes(vectors: Floats) -> str:
    return ", ".join(dict.fromkeys("xyz"[int(np.abs(v).argmax())] for v in vectors))


def _direction(vector: Floats) -> str:
    """An axis name where the vector runs along one, else its components."""
    v = vector / np.linalg.norm(vector)
    main = int(np.abs(v).argmax())
    if abs(v[main]) > 1 - 1e-6:
        return "xyz"[main]
    v = v * np.sign(v[main])
    return "(" + ", ".join(f"{c:.3g}" for c in np.where(np.abs(v) < 1e-9, 0.0, v)) + ")"


def loaded_hinges(project: Project, mesh: Mesh, freedom: Freedoms, right: Floats) -> list[Finding]:
    """Moments on nodes that turn freely because every member there is hinged; loads that a plate does not resist."""
    if not len(freedom.loose_node):
        return []
    right = right.reshape(len(project.nodes), 6, -1)
    along = np.abs(np.einsum("ki,kic->kc", freedom.loose_axis, right[freedom.loose_node])).max(axis=1, initial=0)
    findings = []
    loaded = along > 1e-9 * max(np.abs(right).max(initial=0), 1.0)
    plates, first = project.plates, len(project.nodes) if project.plates is None else project.plates.first
    of_plates = freedom.loose_node[loaded] - first
    for i in np.unique(plates.made_for[of_plates[of_plates >= 0]]) if plates is not None else ():
        surface = project.surfaces[int(i)]
        acts = surface.plate.acts if surface.plate is not None else ""
        message = f"surface {surface.name} has a load that it does not resist: it acts by {acts} alone"
        findings.append(_error(surface.place, message, "take the load off, or let the surface bend and stretch",
                               surface.name))  # fmt: skip
    for node in np.unique(freedom.loose_node[loaded & (freedom.loose_node < first)]):
        record = project.nodes[node]
        findings.append(
            _error(
                record.place, f"a moment acts on node {record.name}, where every member is hinged",
                "make one member's end rigid, or put the moment on a member", record.name,
            )
        )  # fmt: skip
    return findings


STRAINLESS = 1e-26
"""Energy, as a share of what the same motions of ends would meet one by one, below which a motion strains nothing."""


def loose_parts(
    project: Project, mesh: Mesh, freedom: Freedoms, stiff: sparse.csr_matrix, motion: Callable[[Floats], Floats],
    strain: Callable[[Floats], Floats],
) -> list[Finding]:  # fmt: skip
    """What moves when the free equations have no unique solution, from their null vectors; or, where these strain
    members after all, which very stiff and very soft parts leave no digits.

    `motion` turns a motion of the free freedoms into that of all nodes (nodes, 6) in global axes, `strain` into the
    energy of every element (2, elements), and what its ends' motions would meet one by one.
    """
    free = freedom.free
    findings, soft = [], []
    for vector in _null_vectors(stiff, 1 / np.sqrt(steadied(free, stiff.diagonal())[0])):
        energy, alone = strain(vector)
        if energy.sum() > STRAINLESS * alone.sum():
            soft.append((float(energy.sum() / alone.sum()), int(alone.argmax()), int(energy.argmax())))
        else:
            findings.append(_loose_finding(project, mesh, freedom, motion(vector)))
    found = one_of_each(findings)
    if found:
        return found
    if soft:
        return [_ill_conditioned(project, mesh, *min(soft))]
    place = project.members[0].place if project.members else Place(project.file)
    return [
        _error(place, "the stiffness of the frame cannot be relied on: it is next to a mechanism",
               "look for very soft or very stiff sections, and for members much shorter than the others")
    ]  # fmt: skip


def _ill_conditioned(project: Project, mesh: Mesh, share: float, stiff: int, soft: int) -> Finding:
    """The frame stands, but the stiffest part drowns the softest one in rounding."""
    lost = min(int(-np.log10(max(share, 1e-16))), 16)
    (stiffest, size, place), (softest, _, _) = _part(project, mesh, stiff), _part(project, mesh, soft)
    return Finding(
        "error", "ill-conditioned", f"the frame stands, but about {lost} of 16 digits of its stiffness are lost: a "
        f"piece of {stiffest}, {size:.3g} m long, is so stiff beside what holds {softest}",
        "join nodes that nearly coincide, use `offsets` for rigid lengths, and free ends that are next to free",
        place,
    )  # fmt: skip


def _part(project: Project, mesh: Mesh, element: int) -> tuple[str, float, Place]:
    """Whose an element is (those of members first, then those of structural surfaces), its size [m] and place."""
    if element < len(mesh.member):
        member = project.members[mesh.member[element]]
        return member.name, float(mesh.length[element]), member.place
    element -= len(mesh.member)
    assert project.plates is not None
    for group in project.plates.groups:
        if element < len(group.surface):
            surface = project.surfaces[group.surface[element]]
            around = np.roll(group.flat[element], -1, axis=0) - group.flat[element]
            return f"surface {surface.name}", float(np.linalg.norm(around, axis=1).min()), surface.place
        element -= len(group.surface)
    raise IndexError(element)


def _null_vectors(stiff: sparse.csr_matrix, scale: Floats) -> Floats:
    """Up to six motions that strain nothing (k, n), each made as local as it can be."""
    from scipy.linalg import qr
    from scipy.sparse.linalg import splu

    n = stiff.shape[0]
    scaling = sparse.diags(scale)
    scaled = (scaling @ stiff @ scaling).tocsc()
    lu = splu((scaled + 1e-10 * sparse.identity(n)).tocsc(), permc_spec="MMD_AT_PLUS_A")
    x = np.random.default_rng(1).standard_normal((n, min(MOST_MOTIONS, n)))
    for _ in range(4):
        x = np.linalg.qr(lu.solve(x))[0]
    value, mix = np.linalg.eigh(x.T @ (scaled @ x))
    null = (x @ mix)[:, value < 1e-11]
    if not null.shape[1]:
        return np.zeros((0, n))
    # Unit motion at as many freedoms as there are motions: each vector then moves little else.
    null = scale[:, None] * null
    _, _, pivot = qr(null.T, pivoting=True, mode="economic")
    local = null @ np.linalg.inv(null[pivot[: null.shape[1]]])
    return np.asarray((local / np.abs(local).max(axis=0)).T)


def _loose_finding(project: Project, mesh: Mesh, freedom: Freedoms, u: Floats) -> Finding:
    size = max(float(np.ptp(project.xyz, axis=0).max()), 1.0)
    shift, turn = np.abs(u[:, :3]).max(axis=1), np.abs(u[:, 3:]).max(axis=1) * size
    largest = max(shift.max(), turn.max())
    shifted = np.flatnonzero(shift > 1e-3 * largest)
    turned = np.flatnonzero(turn > 1e-3 * largest)
    moving = np.union1d(shifted, turned)
    moves = list(dict.fromkeys(_freedom_words(project, int(i), u[i], size) for i in moving))
    names = list(dict.fromkeys(_called(project, int(i)) for i in shifted))
    what = f"these nodes can move freely: {listed(moves)}"
    first = project.nodes[moving[0]]
    if len(shifted) == 0:
        spinning = [
            e for e in range(len(mesh.start))
            if mesh.start[e] in turned and mesh.end[e] in turned
            and abs(mesh.axes[e, 0] @ u[mesh.start[e], 3:]) > 0.99 * np.linalg.norm(u[mesh.start[e], 3:])
        ]  # fmt: skip
        if spinning:
            member = project.members[mesh.member[spinning[0]]]
            return _error(
                member.place, f"{member.name} can spin about its own axis; {what}",
                "hold the rotation about its axis at one support (add r"
                f"{'xyz'[int(np.abs(mesh.axes[spinning[0], 0]).argmax())]}), or make an end rigid", member.name,
            )  # fmt: skip
        remedy = "hold the rotation at a support, or make a member's end rigid there"
        return _error(first.place, what, remedy, *(project.nodes[i].name for i in moving))
    if len(shifted) == 1:
        node = int(shifted[0])
        touching = np.flatnonzero((mesh.start == node) | (mesh.end == node))
        hinged = bool(len(touching)) and all(
            (mesh.joint[e, 4:6] == 0).all() if mesh.start[e] == node else (mesh.joint[e, 10:] == 0).all()
            for e in touching
        )
        cause = (
            "the members that meet there are hinged or bars and lie in one line or plane"
            if hinged else "a chain of hinges lets it move"
        )  # fmt: skip
        return _error(
            first.place, f"{what}; {cause}", "add a member or support in that direction, or make a joint rigid", *names
        )
    hinged_starts = mesh.start[(mesh.joint[:, 4:6] == 0).any(axis=1)]
    hinged_ends = mesh.end[(mesh.joint[:, 10:] == 0).any(axis=1)]
    of_edges = np.zeros(0, np.intp) if project.plates is None else project.plates.hinges.node
    turns = np.unique(np.concatenate([hinged_starts, hinged_ends, of_edges]))
    hinges = list(dict.fromkeys(_called(project, int(n)) for n in shifted[np.isin(shifted, turns)]))
    cause = f"hinges at {listed(hinges)}" if hinges else f"too few connections at {listed(names)}"
    return _error(
        first.place, f"{what}; {cause} make a chain", "make one of these joints rigid, or add a brace or a support",
        *names,
    )  # fmt: skip


def _called(project: Project, node: int) -> str:
    """The name of a node; of those that elements have for themselves that of their surface."""
    plates = project.plates
    if plates is None or node < plates.first:
        return project.nodes[node].name
    return f"surface {project.surfaces[plates.made_for[node - plates.first]].name}"


def _freedom_words(project: Project, node: int, u: Floats, size: float) -> str:
    scaled = u * np.array([1, 1, 1, size, size, size])
    main = scaled[:3] if np.abs(scaled[:3]).max() > 1e-3 * np.abs(scaled).max() else scaled
    chosen = [FREEDOMS[i] for i in np.flatnonzero(np.abs(main) > 0.05 * np.abs(main).max())]
    return f"{_called(project, node)} ({' '.join(chosen)})"
