"""The keys of limits."""

from __future__ import annotations

from ...core.model.limits import COMPONENTS, WARN_AT
from ...core.model.words import LimitKind, Reference
from ..base.forms import ABSENT, REQUIRED, Choice, Form, Key, Names, Quantity, Takes, Text, Written

STOREY = ("worst", "mean")


def read_as(kind: LimitKind, name: str) -> str:
    """The kind of quantity that a bound is read as."""
    quantity = COMPONENTS[kind][name]
    return "number" if name == "tilt" else {"displacement": "length"}.get(quantity, quantity)


SHARES = {LimitKind.DEFLECTION: "span", LimitKind.DRIFT: "height"}
"""The length of which a bound may be a share."""
AT_LEAST, AT_MOST = ("alpha_cr",), ("uplift",)
"""Components of which a bare value is the least, or the most; of others it is the most in magnitude."""
ABOUT = {
    "Fx": "of a reaction, along x", "Fy": "of a reaction, along y", "Fz": "of a reaction, upward",
    "Mx": "of a reaction, about x", "My": "of a reaction about y, or of a member about its y",
    "Mz": "of a reaction about z, or of a member about its z",
    "H": "of a reaction: the resultant of Fx and Fy",
    "uplift": "of a reaction: tension on the foundation, -Fz; `\"none\"` for none",
    "H_to_V": "of a reaction: H over Fz, which has to be compression",
    "e_x": "of a reaction: eccentricity of Fz along x, My over Fz", "e_y": "the same along y, Mx over Fz",
    "N": "of a member, or across a cut, tension positive", "Vy": "of a member", "Vz": "of a member",
    "T": "of a member, or twisting a cut", "V": "along a cut of surfaces, in their plane",
    "Q": "of a cut, out of the plane", "M": "bending about a cut", "M_in": "of a cut, bending in the plane",
    "normal": "stress at fibres, tension positive", "shear": "stress at fibres", "mises": "von Mises stress at fibres",
    "across": "deflection across the member's axis", "y": "deflection along the member's y",
    "z": "deflection along the member's z",
    "ux": "displacement of nodes along x", "uy": "along y", "uz": "along z", "u": "their resultant",
    "u_level": "the resultant of ux and uy", "rx": "rotation of nodes about x", "ry": "about y", "rz": "about z",
    "drift": "between the levels of plumb lines, the resultant of x and y", "drift_x": "along x", "drift_y": "along y",
    "tilt": "of a floor or surface: the slope of the plane through its displaced nodes, `\"1/500\"` or `\"2 mrad\"`",
    "n_x": "of a structural surface, force along its own x per length", "n_y": "along y", "n_xy": "shear in its plane",
    "m_x": "of a structural surface, moment per length, positive with tension away from the normal", "m_y": "about x",
    "m_xy": "twisting", "v_x": "of a structural surface, shear across per length", "v_y": "along y",
    "w": "of a structural surface, displacement along its normal",
    "sag": "of a structural surface, the same against the plane through what holds it",
    "p": "of a structural surface, pressure on its bed",
    "alpha_cr": "critical load factor; a value without a sign is its minimum",
    "utilisation": "demand over resistance of a steel member, by `[steel]`",
}  # fmt: skip


def _takes(kind: LimitKind, name: str) -> Takes:
    quantity = read_as(kind, name)
    share = f', `"{SHARES[kind]}/300"`' if kind in SHARES else ""
    if name == "uplift":
        return Written('bound, or `"none"`', quantity)
    return Written(f"bound{share}", quantity)


BOUNDS = tuple(
    Key(name, _takes(kind, name), ABSENT, ABOUT[name], "free")
    for name, kind in {name: kind for kind, own in reversed(COMPONENTS.items()) for name in own}.items()
)

LIMIT = Form("limits", (
    Key("name", Text("a word"), REQUIRED, "what the verdict calls it"),
    Key("check", Choice.of(LimitKind), REQUIRED, "what it is about"),
    Key("at", Names("selector of nodes"), REQUIRED, "of `reaction` (supports among them) and `displacement`",
        "for other checks"),
    Key("on", Names("selector of members; floors or surfaces"), REQUIRED, "members of `force`, `stress`, "
        "`deflection` and `steel`; of `tilt` rigid floors and surfaces; of `plate` structural ones; of `cut` too",
        "for other checks; of `cut` all that it goes through"),
    Key("cut", Written("two points", "length"), ABSENT, "of `cut`: from one point, a node or `[x, y, z]`, to another "
        "in the plane of a structural surface", "for other checks"),
    Key("under", Names("cases, combinations or sets"), REQUIRED, "the results it must hold under, as `--under`"),
    Key("warn_at", Quantity("number"), WARN_AT, "from this part of a bound on it is reported as near"),
    Key("against", Choice.of(Reference), Reference.CHORD, "of `deflection`: against the chord of each bay between "
        "places that hold the member, of the whole member, its start or end, or the ground: the total"),
    Key("span", Quantity("length"), ABSENT, "of `deflection`: in place of the bay's or member's own",
        "their own"),
    Key("fibre", Text("name of a fibre"), "", "of `stress`: at this one only"),
    Key("levels", Names("list of grid lines or heights"), ABSENT, "of `drift`: between these, from node to node of "
        "every plumb line", "every z line of the grid"),
    Key("storey", Choice(STOREY), "worst", "of `drift`: the worst plumb line, or the mean of those of a storey"),
    *BOUNDS,
))  # fmt: skip
