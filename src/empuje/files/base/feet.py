"""Lengths in feet and inches, as they are written on drawings.

    5'-6 1/2"     5' 6.5"     6 1/2"     5'     5 ft 6 in     6 1/2 in

Each becomes a sum in brackets. With words and a minus it may be a difference as well, which is refused.
"""

from __future__ import annotations

import re

PART = r"\d+(?:\.\d+)?"
INCHES = rf"(?:(?P<whole>{PART})(?:\s+|-(?=\d+/)))??(?P<top>\d+)\s*/\s*(?P<bottom>\d+)|(?P<inches>{PART})"
MARKS = re.compile(rf"(?<![\w.])(?P<feet>{PART})\s*'(?:\s*-?\s*(?:{INCHES})\s*\")?")
INCH_MARKS = re.compile(rf"(?<![\w.])(?:{INCHES})\s*\"")
WORDS = re.compile(rf"(?<![\w.])(?P<feet>{PART})\s*ft\s+(?:{INCHES})\s*in\b")
INCH_WORDS = re.compile(r"(?<![\w.])(?P<whole>\d+)\s+(?P<top>\d+)\s*/\s*(?P<bottom>\d+)\s*in\b")
EITHER = re.compile(rf"(?<![\w.]){PART}\s*ft\s*-\s*(?:\d+\s+)?{PART}(?:/\d+)?\s*in\b")
INCHES_OF_A_FOOT = 12
QUOTES = str.maketrans({"’": "'", "′": "'", "”": '"', "″": '"', "“": '"'})


def with_feet(text: str) -> str:
    """The text with feet and inches as sums. Raises ValueError where a minus may mean either, and
    for what is no such length."""
    text = text.translate(QUOTES)
    if "'" in text or '"' in text:
        for pattern in (MARKS, INCH_MARKS):
            text = pattern.sub(_sum, text)
        left = next((c for c in text if c in "'\""), "")
        if left:
            raise ValueError(f"cannot hold {left} that belongs to no number: write 5'-6 1/2\", 5' or 6 1/2\"")
    if "ft" in text or "in" in text:
        found = EITHER.search(text)
        if found:
            raise ValueError(f"may be a sum or a difference: {found[0]}; write 5 ft 6 in, or (5 ft) - (6 in)")
        for pattern in (WORDS, INCH_WORDS):
            text = pattern.sub(_sum, text)
    return text


def _sum(found: re.Match[str]) -> str:
    groups = found.groupdict()
    parts = [f"{groups['feet']} ft"] if groups.get("feet") else []
    if parts and float(groups.get("whole") or groups.get("inches") or 0) >= INCHES_OF_A_FOOT:
        raise ValueError(f"has more inches than a foot beside feet: {found[0]}")
    for key in ("whole", "inches"):
        if groups.get(key):
            parts.append(f"{groups[key]} in")
    if groups.get("top"):
        parts.append(f"{groups['top']}/{groups['bottom']} * 1 in")
    return f"({' + '.join(parts)})"
