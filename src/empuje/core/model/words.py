"""Closed vocabularies: every choice is one enum, used by files, commands and Python alike.

>>> Acts.read("pull")
Traceback (most recent call last):
    ...
empuje.core.model.words.UnknownWord: there is no pull: write both, tension, compression
"""

from __future__ import annotations

from enum import StrEnum
from typing import Self


class UnknownWord(ValueError):
    """A word that is none of those known; the message names them."""


class Word(StrEnum):
    """Words that equal their text."""

    @classmethod
    def read(cls, text: str) -> Self:
        """The word that is meant. Raises UnknownWord."""
        try:
            return cls(text)
        except ValueError:
            raise UnknownWord(f"there is no {text}: write {', '.join(cls)}") from None


class Acts(Word):
    """The axial force a member can take."""

    BOTH = "both"
    TENSION = "tension"
    COMPRESSION = "compression"


class PlateActs(Word):
    """What a structural surface resists."""

    BOTH = "bending and stretching"
    BENDING = "bending"
    STRETCHING = "stretching"


class Carry(Word):
    """What a surface brings its loads to."""

    MEMBERS = "members"
    NODES = "nodes"


class Stage(Word):
    """When a case is there: in combinations of construction, in all others, in both; or in none, being a mass."""

    ANY = ""
    CONSTRUCTION = "construction"
    FINAL = "final"
    MASS = "mass"


class Set(Word):
    """What a combination is for."""

    STRENGTH = "strength"
    SERVICE = "service"
    STABILITY = "stability"
    CONSTRUCTION = "construction"
    COMPONENTS = "components"
    COMPONENTS_SERVICE = "components service"


class Expansion(Word):
    """Whether every variable action may also be absent, or each rule is taken as it is written."""

    COMPLETE = "complete"
    AS_WRITTEN = "as written"


class Order(Word):
    """The theory by which a set of combinations is analysed."""

    FIRST = "first-order"
    SECOND = "second-order"
    DIRECT = "direct analysis"


class How(Word):
    """How a result came about: a sum of cases, or analysed by itself, by first order or by second."""

    SUMMED = "summed"
    AS_ONE = "as one"
    SECOND_ORDER = "second order"


class Reference(Word):
    """What deflections are measured against: the chord of every bay, of the whole member, one of its ends, or where the
    member was before anything moved."""

    CHORD = "chord"
    WHOLE = "whole"
    START = "start"
    END = "end"
    GROUND = "ground"


class LimitKind(Word):
    """What a limit is about."""

    REACTION = "reaction"
    FORCE = "force"
    STRESS = "stress"
    DEFLECTION = "deflection"
    DISPLACEMENT = "displacement"
    DRIFT = "drift"
    TILT = "tilt"
    PLATE = "plate"
    CUT = "cut"
    STABILITY = "stability"
    STEEL = "steel"


class Holds(Word):
    """What a limit, or a check, comes to."""

    PASSES = "passes"
    NEAR = "near"
    FAILS = "fails"
    UNANSWERED = "no answer"


class Made(Word):
    """How a section is made: buckling curves and shear areas differ."""

    ROLLED = "rolled"
    WELDED = "welded"
    HOT = "hot finished"
    COLD = "cold formed"


class SteelCode(Word):
    """The code by which steel members are checked."""

    EN = "EN 1993-1-1"
    AISC = "AISC 360-22"


class Design(Word):
    """Whether strengths are held against factored loads, or allowable strengths against those of service."""

    LRFD = "LRFD"
    ASD = "ASD"


class Lateral(Word):
    """How lateral-torsional buckling is reduced: the general case, or that of rolled sections and equivalent welded
    ones."""

    GENERAL = "general"
    ROLLED = "rolled"


class Stress(Word):
    """The stress that leads an envelope."""

    NORMAL = "normal"
    SHEAR = "shear"
    MISES = "mises"


class Level(Word):
    """What loads a code states: those of the limit state itself, characteristic ones that it still multiplies, or those
    of serviceability."""

    STRENGTH = "strength"
    CHARACTERISTIC = "characteristic"
    SERVICE = "service"


class Stance(Word):
    """On which side a decision of the program lies."""

    UNSAFE = "may be unsafe"
    GUESS = "a guess"
    USUAL = "as usual"
    SAFE = "safe"


class Sense(Word):
    """Which extreme is asked about: in magnitude, the greatest, the least."""

    LARGEST = "largest"
    MAX = "max"
    MIN = "min"


class Picture(Word):
    """What can be drawn."""

    FRAME = "frame"
    SOLID = "solid"
    AXES = "axes"
    LOADS = "loads"
    PRESSURES = "pressures"
    REACTIONS = "reactions"
    DEFLECTED = "deflected"
    BUCKLED = "buckled"
    BAND = "band"
    UTILISATION = "utilisation"
    STRESS = "stress"
    STRIP = "strip"
    PLATES = "plates"
    MESH = "mesh"
    N = "N"
    VY = "Vy"
    VZ = "Vz"
    T = "T"
    MY = "My"
    MZ = "Mz"


class Part(Word):
    """A part of a model, or of what follows from it, that may differ from another's."""

    MODEL = "model"
    NODE = "node"
    MATERIAL = "material"
    SECTION = "section"
    MEMBER = "member"
    SUPPORT = "support"
    CASE = "case"
    LOAD = "load"
    COMBINATION = "combination"
    WRITTEN = "written"
    DECISION = "decision"
    REACTION = "reaction"
    FORCE = "force"
    DISPLACEMENT = "displacement"
    LIMIT = "limit"


class ReportPart(Word):
    """A part of the report, in the order in which a checker reads."""

    BASIS = "basis"
    FRAME = "frame"
    VIEW = "view"
    CASES = "cases"
    DERIVATIONS = "derivations"
    COMBINATIONS = "combinations"
    BALANCE = "balance"
    DISPLACEMENTS = "displacements"
    ENVELOPES = "envelopes"
    SURFACES = "surfaces"
    REACTIONS = "reactions"
    LIMITS = "limits"
    FINDINGS = "findings"
    VALIDITY = "validity"
    WHY = "why"


class Label(Word):
    """What may be written beside members and nodes of a picture."""

    NAMES = "names"
    FAMILIES = "families"
    SECTIONS = "sections"
    NODES = "nodes"
    BAYS = "bays"


class WindCode(Word):
    """The code by which wind is worked out."""

    ASCE_16 = "ASCE 7-16"
    ASCE_22 = "ASCE 7-22"
    EN = "EN 1991-1-4"


class Enclosure(Word):
    """How open a building is: what its inside gets of the wind."""

    ENCLOSED = "enclosed"
    PARTIALLY_ENCLOSED = "partially enclosed"
    PARTIALLY_OPEN = "partially open"
    OPEN = "open"


class Flow(Word):
    """Whether wind passes freely below a free roof, or is held up by what is stored there."""

    CLEAR = "clear"
    OBSTRUCTED = "obstructed"


class Upward(Word):
    """How a pressure follows the height: in linear pieces, or in the code's steps."""

    LINEAR = "linear"
    STEPS = "steps"


class RoofForm(Word):
    """What roofs of many faces are taken for."""

    ARCHED = "arched"
    FOLDED = "folded"


class Tower(Word):
    """The plan of a trussed tower."""

    SQUARE = "square"
    TRIANGULAR = "triangular"


class Chimney(Word):
    """The shape of what stands by itself as a chimney, tank or pole does, and the surface of a round one."""

    SMOOTH = "smooth"
    ROUGH = "rough"
    VERY_ROUGH = "very rough"
    SQUARE = "square"
    DIAGONAL = "diagonal"
    POLYGONAL = "polygonal"


class Rise(Word):
    """What speeds the wind up."""

    RIDGE = "ridge"
    ESCARPMENT = "escarpment"
    HILL = "hill"


class WindPart(Word):
    """A table of the wind's sheet."""

    FOUND = "found"
    HEIGHTS = "heights"
    COEFFICIENTS = "coefficients"
    ZONES = "zones"
    UNCLAD = "unclad"
    TOTALS = "totals"
    SUMS = "sums"
    COMPONENTS = "components"


class SnowCode(Word):
    """A code for snow loads."""

    ASCE_16 = "ASCE 7-16"
    ASCE_22 = "ASCE 7-22"
    EN = "EN 1991-1-3"


class SnowPart(Word):
    """A table of the snow's sheet."""

    FOUND = "found"
    ROOFS = "roofs"
    DRIFTS = "drifts"
    ARRANGEMENTS = "arrangements"
    TOTALS = "totals"


class Falling(Word):
    """What an arrangement of snow is: on all roofs alike, unbalanced by wind, drifted against what is taller, slid
    from roofs above, or partial on continuous members."""

    BALANCED = "balanced"
    UNBALANCED = "unbalanced"
    DRIFTED = "drifted"
    SLIDING = "sliding"
    EXCEPTIONAL = "drifted exceptionally"
    PARTIAL = "partial"


class RoofExposure(Word):
    """How the wind reaches a roof (ASCE 7, table 7.3-1)."""

    FULL = "fully exposed"
    PARTIAL = "partially exposed"
    SHELTERED = "sheltered"


class Side(Word):
    """What a face of a building, or a load of wind, is to the wind of a direction."""

    WINDWARD = "windward"
    LEEWARD = "leeward"
    SIDE = "side"
    ROOF = "roof"
    FREE_ROOF = "free roof"
    PARAPET = "parapet"


class Heading(Word):
    """Which way traffic goes along its way."""

    FORWARD = "forward"
    BACKWARD = "backward"
    BOTH = "both"


class Entering(Word):
    """How a vehicle comes onto its way: axle by axle, or it stands wholly on it from the beginning."""

    AXLES = "axle by axle"
    WHOLLY = "wholly"


class Beside(Word):
    """What wheels beside the members of a way do: share by the lever rule between the two members next to them, or
    twist the member of the way."""

    LEVER = "lever"
    TWIST = "twist"


class CraneCode(Word):
    """The code that cranes are loaded by."""

    EN = "EN 1991-3"
    ASCE_16 = "ASCE 7-16"
    ASCE_22 = "ASCE 7-22"


class Hoisting(Word):
    """Classes of hoists (EN 1991-3, annex B)."""

    NONE = ""
    HC1 = "HC1"
    HC2 = "HC2"
    HC3 = "HC3"
    HC4 = "HC4"


class Operated(Word):
    """How a crane is operated (ASCE 7, 4.9.3): powered, from a cab or from afar; powered, from a pendant; by hand."""

    NONE = ""
    CAB = "cab"
    PENDANT = "pendant"
    HAND = "hand"


class RailSide(Word):
    """One of the two rails of a crane."""

    NONE = ""
    FIRST = "first"
    SECOND = "second"


class LanePart(Word):
    """Where a lane load stands: wherever it is adverse, or on parts of the way as seen from the vehicle."""

    ADVERSE = "adverse"
    BEFORE = "before"
    UNDER = "under"
    BEHIND = "behind"
