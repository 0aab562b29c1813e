"""The model file as a JSON Schema (2020-12), made of the description of its keys, so that editors complete and check.

>>> from .keys import MODEL
>>> schema_of(MODEL)["$defs"]["supports"]["properties"]["lift"]["type"]
'boolean'
"""

from __future__ import annotations

import re
from typing import Any

from .base.forms import (
    Choice,
    Choices,
    Flag,
    Form,
    Key,
    Missing,
    Names,
    Quantity,
    Table,
    Tables,
    Takes,
    Text,
    Written,
    with_inner,
)
from .base.quantities import KINDS

DIALECT = "https://json-schema.org/draft/2020-12/schema"
Schema = dict[str, Any]


def schema_of(form: Form) -> Schema:
    """Of a form, with those inside it as definitions."""
    inner = with_inner([form])
    top = _table(form)
    return {
        "$schema": DIALECT,
        "title": "Empuje model file",
        "description": "A building frame, its loads, combinations and limits. Every key is described in the guide.",
        **top,
        "$defs": {_name(name): _table(one) for name, one in sorted(inner.items()) if one is not form},
    }


def _name(form: str) -> str:
    return re.sub(r"[^A-Za-z0-9._-]", "-", form)


def _table(form: Form) -> Schema:
    """A table: its keys, and what it takes under names that the engineer gives."""
    out: Schema = {"type": "object"}
    if form.keys:
        properties: dict[str, list[Schema]] = {}
        for key in (key for one in (form, *form.beside) for key in one.keys):
            properties.setdefault(key.name, []).append(_key(key))
        out["properties"] = {name: _one_of(each) for name, each in properties.items()}
    out["additionalProperties"] = _takes(form.each) if form.each is not None else False
    every = [{key.name for key in one.keys if key.needed} for one in (form, *form.beside)]
    needed = (
        [key.name for key in form.keys if all(key.name in one for one in every)]
        if form.each is None and "." in form.name
        else []
    )
    # What a table of the whole model needs may stand in another file, or in a table beside it.
    return out | ({"required": needed} if needed else {})


def _one_of(each: list[Schema]) -> Schema:
    """What a key takes; where the table may be one thing or another, what it takes in any of them."""
    different = [one for i, one in enumerate(each) if one not in each[:i]]
    return different[0] if len(different) == 1 else {"anyOf": different}


def _key(key: Key) -> Schema:
    out = _takes(key.takes)
    words = [key.meaning] if key.meaning else []
    if key.left_out:
        words.append(f"Left out: {key.left_out}.")
    if words:
        # Beside $ref other words are allowed since 2019-09.
        out["description"] = " ".join(w if w.endswith(".") else f"{w}." for w in words).replace("`", "")
    if not isinstance(key.default, Missing) and key.default != "" and not isinstance(key.takes, Table | Tables):
        out["default"] = str(key.default) if isinstance(key.default, str) else key.default
    return out


def _takes(takes: Takes) -> Schema:
    match takes:
        case Quantity(kind, _):
            return _quantity(kind)
        case Choice(words, _, or_list):
            one: Schema = {"enum": list(words)}
            return {"anyOf": [one, {"type": "array", "items": {"type": "number"}}]} if or_list else one
        case Choices(words, _):
            some: Schema = {"enum": list(words)}
            return {"anyOf": [some, {"type": "array", "items": some, "minItems": 1}]}
        case Flag():
            return {"type": "boolean"}
        case Text():
            return {"type": "string"}
        case Names():
            return {"anyOf": [{"type": "string"}, {"type": "array", "items": {"type": "string"}, "minItems": 1}]}
        case Table(form):
            return {"$ref": f"#/$defs/{_name(form.name)}"}
        case Tables(form):
            one = {"$ref": f"#/$defs/{_name(form.name)}"}
            return {"anyOf": [{"type": "array", "items": one}, one]}
        case Written(written, _):
            return {"type": ["string", "number", "boolean", "array", "object"], "$comment": written.replace("`", "")}


def _quantity(kind: str) -> Schema:
    """A number in the project's units, where it means anything bare, or text with a unit."""
    bare = KINDS[kind][1] is not None
    text = {"type": "string", "minLength": 1, "maxLength": 120}
    return {"anyOf": [{"type": "number"}, text]} if bare else dict(text)
