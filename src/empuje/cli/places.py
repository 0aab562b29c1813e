"""Places as options write them: positions along members, and points."""

from __future__ import annotations

from typing import TYPE_CHECKING

from . import Refusal, common, flags

if TYPE_CHECKING:
    import numpy as np

    from ..core.model.loads import Position


def positions(text: str, units: tuple[str, str], option: str = "--at") -> list[Position]:
    from ..files.base.positions import parse_position
    from ..files.base.quantities import Units

    out = []
    for word in flags.split([text]):
        try:
            out.append(parse_position(word, Units(*units)))
        except ValueError as error:
            remedy = 'write a length such as "2.5 m" or a share such as "40%"'
            raise Refusal(f'{option} "{word}" {error}; {remedy}') from None
    return out


def point_meant(model: common.Model, text: str, option: str) -> np.ndarray:
    """The point that is meant; empty for the centre of the supports, which --about may name."""
    import numpy as np

    if text == "centre" and option == "--about":
        return np.zeros(0)
    words = text.split(",")
    if len(words) == 1:
        nodes = model.nodes([text], option)
        if len(nodes) != 1:
            raise Refusal(f"{option} {text} is {len(nodes)} nodes; name one, or write x,y,z")
        return np.asarray(model.project.xyz[nodes[0]])
    if model.project.plane and len(words) == 2:
        words.insert(1, "0")
    places = [at for word in words for at in positions(word, model.project.units, option)]
    if len(places) != 3 or any(p.share for p in places):
        or_centre = ", or centre" if option == "--about" else ""
        raise Refusal(f"{option} {text}: write three lengths x,y,z, or a node{or_centre}")
    return np.array([p.offset for p in places])
