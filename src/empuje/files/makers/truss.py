"""Plane trusses: two chords, and webs between them in a pattern.

    pratt      howe       warren     warren with posts   K
    u--u--u    u--u--u    u--u--u    u--u--u             u--u--u
    |\\ | /|    | /|\\ |    |\\  /|     |\\ | /|             | /|\\ |
    | \\|/ |    |/ | \\|    | \\/ |     | \\|/ |             |< | >|
    l--l--l    l--l--l    l--l--l    l--l--l             | \\|/ |

Under loads that act down a truss on two supports has its diagonals in tension as a Pratt truss, in compression as a
Howe truss. What chords carry, M/d, grows towards the middle of a parallel truss, and falls towards that of a pitched
one with points at its ends: there the diagonals of both run the other way.
"""

from __future__ import annotations

import itertools

import numpy as np

from .drawn import Asking, Drawn, Floats

SAME = 1e-9
SHALLOW = 0.2
"""Of a pitched truss whose ends are shallower than so much of its middle, M/d = w x (L - x)/2 / (e + 2 (h - e) x/L)
falls from a quarter of the span on."""


def truss(asking: Asking) -> Drawn | None:
    """A plane truss by its entry."""
    entry = asking.entry
    ends = asking.two_places()
    panels, depths = asking.count("panels", 2), asking.lengths("depth", 0.0)
    shape, pattern = entry.text("shape"), entry.text("pattern")
    chord = asking.family("chord")
    other = asking.family("other_chord", chord)
    webs = asking.family("webs")
    posts = asking.family("posts", webs)
    if ends is None or panels is None or depths is None or None in (shape, pattern, chord, other, webs, posts):
        return None
    toward = asking.toward(ends[1] - ends[0])
    if toward is None:
        return None
    d = depth_at(np.linspace(0.0, 1.0, panels + 1), depths, str(shape))
    if d is None:
        few = "one depth, or one at each end" if shape == "straight" else "the middle's depth, or [end, middle, end]"
        entry.error("bad-quantity", f"{entry.what}.depth has {len(depths)} values", f"write {few}", "depth")
        return None
    if (d[1:-1] <= 1e-3).any() or (shape == "straight" and d.max() <= 1e-3):
        entry.error("bad-quantity", f"{entry.what}.depth is too small for webs", "make it deeper", "depth")
        return None
    if pattern in ("pratt", "howe", "K") and panels % 2:
        entry.error("bad-quantity", f"{entry.what}: a {pattern} truss turns in its middle, with {panels} panels there "
                    "is none", "take an even number", "panels")  # fmt: skip
        return None
    if shape == "pitched" and (panels % 2 or (pattern == "warren" and panels % 4 == 0)):
        take = "2, 6, 10, ... of them, or posts" if pattern == "warren" else "an even number"
        entry.error("bad-quantity", f"{entry.what}: with {panels} panels the ridge is at no joint", f"take {take}",
                    "panels")  # fmt: skip
        return None
    if shape == "pitched" and max(d[0], d[-1]) < SHALLOW * d.max():
        pattern = {"pratt": "howe", "howe": "pratt"}.get(str(pattern), pattern)
    closed = entry.flag("end_posts")
    letters = "bt" if toward[2] > 0.5 else "tb" if toward[2] < -0.5 else "nf"
    # Without posts the first diagonal has to begin where the truss is held.
    begins = pattern not in ("K", "howe" if letters == "tb" else "pratt")
    begins &= not (str(pattern).startswith("warren") and panels % 2)
    if not closed and not begins and max(d[0], d[-1]) > 1e-3:
        words = f"{entry.what}: without end posts a {entry.text('pattern')} truss with {panels} panels would not stand"
        entry.error("wrong-key", words, "take end_posts out, or another pattern", "end_posts")
        return None
    near = ends[0] + np.linspace(0.0, 1.0, panels + 1)[:, None] * (ends[1] - ends[0])
    return _drawn(asking, near, near + d[:, None] * toward, str(pattern), closed, letters, (chord, other, webs, posts))


def depth_at(s: Floats, depths: list[float], shape: str) -> Floats | None:
    """Depths [m] at shares s of the length: straight from one to the other, pitched or bowed (a parabola) from
    an end to the middle; None where there are too many or too few.

    >>> depth_at(np.array([0.0, 0.25, 0.5]), [2.0], "pitched").tolist()
    [0.0, 1.0, 2.0]
    """
    if shape == "straight":
        return depths[0] + s * (depths[-1] - depths[0]) if len(depths) <= 2 else None
    if len(depths) not in (1, 3):
        return None
    first, middle, last = depths if len(depths) == 3 else (0.0, depths[0], 0.0)
    if shape == "pitched":
        return np.interp(s, [0.0, 0.5, 1.0], [first, middle, last])
    return first + s * (last - first) + (middle - (first + last) / 2) * 4 * s * (1 - s)


def webs_of(pattern: str, n: int) -> tuple[list[tuple[str, int, str, int]], list[int]]:
    """The diagonals of n panels as joints (row, panel point) at both ends, and where posts are; rows: near l and far u,
    and m in the middle of posts.

    >>> webs_of("howe", 2)
    ([('l', 0, 'u', 1), ('u', 1, 'l', 2)], [0, 1, 2])
    """
    middle = n // 2
    everywhere = list(range(n + 1))
    if pattern.startswith("warren"):
        zigzag = [("l" if i % 2 == 0 else "u", i, "u" if i % 2 == 0 else "l", i + 1) for i in range(n)]
        return zigzag, everywhere if pattern.endswith("posts") else [0, n]
    if pattern == "K":
        left = [("m", i, row, i + 1) for i in range(middle) for row in "ul"]
        right = [("m", i, row, i - 1) for i in range(n, middle, -1) for row in "ul"]
        return left + right, everywhere
    a, b = ("u", "l") if pattern == "pratt" else ("l", "u")
    return [(a, i, b, i + 1) if i < middle else (b, i, a, i + 1) for i in range(n)], everywhere


def _drawn(
    asking: Asking, near: Floats, far: Floats, pattern: str, closed: bool, letters: str,
    families: tuple[str | None, ...],
) -> Drawn:  # fmt: skip
    chord, other, webs, posts = (str(f) for f in families)
    n = len(near) - 1
    met = np.linalg.norm(far - near, axis=1) <= 1e-3
    # The pattern is told of what is above and below: of a truss that hangs, the chord on the line is above.
    hangs = letters == "tb" and not pattern.startswith("warren")  # which begins on the line
    rows = {"l": far, "u": near} if hangs else {"l": near, "u": far}
    label = dict(zip("lu", letters[::-1] if hangs else letters, strict=True))
    rows["m"], label["m"] = (near + far) / 2, "m"
    diagonals, at = webs_of(pattern, n)
    # In a panel that ends in a point webs would lie on a chord.
    diagonals = [w for w in diagonals if not met[w[1]] and not met[w[3]]]
    at = [i for i in at if not met[i] and (closed or 0 < i < n)]
    out = Drawn()

    def joint(row: str, i: int) -> str:
        if met[i]:
            return out.point(f"{letters[0]}{i}", near[i])
        return out.point(f"{label[row]}{i}", rows[row][i])

    web_style, post_style = asking.style(webs, ends="web_ends"), asking.style(posts, ends="web_ends")
    used: set[str] = set()
    for k, (a, i, b, j) in enumerate(diagonals):
        ends = joint(a, i), joint(b, j)
        used |= set(ends)
        out.line(webs, f"d{k + 1}", *ends, web_style)
    halved = asking.families[posts].style.bar
    for i in at:
        ends = joint("l", i), joint("u", i)
        used |= set(ends)
        if pattern == "K" and halved and f"m{i}" in out.points:
            out.line(posts, f"p{i}.1", ends[0], f"m{i}", post_style)
            out.line(posts, f"p{i}.2", f"m{i}", ends[1], post_style)
        else:
            out.line(posts, f"p{i}", *ends, post_style)
    words = {"b": "bottom", "t": "top", "n": "near", "f": "far"}
    for family, row, letter, roll in ((chord, near, letters[0], "roll"), (other, far, letters[1], "other_roll")):
        names = [f"{letters[0] if met[i] else letter}{i}" for i in range(n + 1)]
        on = [i for i in range(n + 1) if names[i] in used or (row is near and i in (0, n)) or met[i]]
        style = asking.style(family, roll=roll)
        by_panel = asking.families[family].style.bar
        stops = [on[0], *(j for i, j, k in _threes(on) if by_panel or _turns(row[i], row[j], row[k])), on[-1]]
        for i in on:
            out.point(names[i], row[i])
        for k, (i, j) in enumerate(itertools.pairwise(stops)):
            out.line(family, words[letter] + (str(k + 1) if len(stops) > 2 else ""), names[i], names[j], style)
    return out


def _threes(on: list[int]) -> list[tuple[int, int, int]]:
    return list(zip(on, on[1:], on[2:], strict=False))


def _turns(a: Floats, b: Floats, c: Floats) -> bool:
    """Whether the way from a over b to c turns there."""
    u, v = b - a, c - b
    return bool(np.linalg.norm(np.cross(u, v)) > SAME * np.linalg.norm(u) * np.linalg.norm(v))
