"""The keys of a job: every measure and every choice a maker can settle, what it means and what it may hold.

A key that is not pinned has its value worked out by the draft (or, where nothing needs working out, its
stated default). Values are floats in mm or degrees, whole counts, or one of a few words.
"""

from __future__ import annotations

import math
import re
from collections.abc import Mapping
from dataclasses import dataclass
from enum import Enum
from types import MappingProxyType

from tailor.core.errors import InputError
from tailor.core.incoming import TYPED, quoted
from tailor.core.leather.fastenings import of_kind
from tailor.core.leather.machine import BEDS
from tailor.core.leather.moulding import EVERYWHERE, HOLLOWS
from tailor.core.leather.moulding import METHODS as MOULDINGS
from tailor.core.leather.stitching import MAKINGS, METHODS
from tailor.core.leather.trimmings import of_kind as trimmed
from tailor.core.units import System, format_length, format_mass, parse_length, parse_mass, parse_pitch

Value = float | int | str
AUTO = "auto"


class Kind(Enum):
    """What a setting holds, and so how it is read and written."""

    LENGTH = "length"
    PITCH = "length or stitches per inch"
    RATIO = "plain number or per cent"
    ANGLE = "degrees"
    COUNT = "whole number"
    MASS = "weight"
    DENSITY = "weight of a cubic centimetre"
    SIZES = "lengths parted by ;"
    WORD = "a name"
    CHOICE = "one of"


@dataclass(frozen=True)
class Key:
    """One setting. default None means: worked out by the draft, with a reason."""

    name: str
    kind: Kind
    default: Value | None
    meaning: str
    low: float = -math.inf
    high: float = math.inf
    choices: tuple[str, ...] = ()

    @property
    def unit(self) -> str:
        return {
            Kind.LENGTH: "mm",
            Kind.PITCH: "mm",
            Kind.ANGLE: "°",
            Kind.COUNT: "count",
            Kind.MASS: "g",
            Kind.DENSITY: "g/cm³",
        }.get(self.kind, "")

    def parse(self, text: str, system: System = System.MM) -> Value:
        """The value typed for this key. Raises InputError naming the key."""
        text = text.strip()
        if len(text) > TYPED:
            raise InputError(f"{quoted(text)} is too long", self.name, f"give {self.example}")
        if self.kind is Kind.CHOICE:
            if text.lower() not in self.choices:
                raise InputError(f"{quoted(text)} is not a choice", self.name, f"give {' or '.join(self.choices)}")
            return text.lower()
        if self.kind is Kind.WORD:
            return self.checked(text.lower())
        if self.kind is Kind.SIZES:
            sizes = [parse_length(part, system.bare, self.name) for part in text.split(";") if part.strip()]
            return self.checked(";".join(f"{size:g}" for size in sizes))
        if self.kind is Kind.LENGTH:
            value = parse_length(text, system.bare, self.name)
        elif self.kind is Kind.PITCH:
            value = parse_pitch(text, system.bare, self.name)
        elif self.kind is Kind.MASS:
            value = parse_mass(text, system.bare, self.name)
        else:
            value = self._plain(text)
        return self.checked(value)

    def _plain(self, text: str) -> float:
        number = re.fullmatch(r"([+-]?\d*\.?\d+)\s*(%|°|deg|degrees|g/cm³|g/cm3)?", text.replace(",", "."))
        fits = {
            "%": Kind.RATIO,
            "°": Kind.ANGLE,
            "deg": Kind.ANGLE,
            "degrees": Kind.ANGLE,
            "g/cm³": Kind.DENSITY,
            "g/cm3": Kind.DENSITY,
        }
        if number is None or (number[2] and fits[number[2]] is not self.kind):
            raise InputError(f"{quoted(text)} is not a {self.kind.value}", self.name, f"give {self.example}")
        return float(number[1]) / (100 if number[2] == "%" else 1)

    @property
    def example(self) -> str:
        return {Kind.COUNT: "a whole number such as 2", Kind.ANGLE: "degrees such as 35"}.get(
            self.kind, "a number such as 0.5 or 50%"
        )

    def checked(self, value: Value) -> Value:
        """The value itself when it is of the right kind and within limits; else InputError."""
        if self.kind is Kind.SIZES:
            return self._sizes(str(value))
        if self.kind is Kind.WORD:
            if not isinstance(value, str) or not 1 <= len(value) <= 40 or not value.isprintable():
                raise InputError(f"{quoted(value)} is no name", self.name, "give the name of a piece, or none")
            return value
        if self.kind is Kind.CHOICE:
            return self.parse(value) if isinstance(value, str) else self.parse(str(value))
        if isinstance(value, bool) or not isinstance(value, int | float) or not math.isfinite(value):
            raise InputError(f"{quoted(value)} is not a {self.kind.value}", self.name, "give a plain number")
        if not self.low <= value <= self.high:
            side = f"below the least, {self.say(self.low)}" if value < self.low else (
                f"above the most, {self.say(self.high)}"
            )  # fmt: skip
            raise InputError(
                f"{self.say(value)} is {side}", self.name, "change it, or give auto for the computed value"
            )
        if self.kind is Kind.COUNT:
            if value != int(value):
                raise InputError(f"{value:g} is not a whole number", self.name, f"give {self.example}")
            return int(value)
        return float(value)

    def _sizes(self, text: str) -> str:
        """A row of lengths, each within the limits."""
        try:
            found = [float(part) for part in text.split(";")]
        except ValueError:
            raise InputError(
                f"{quoted(text)} is no row of lengths", self.name, "part them by ;, such as 12; 9; 9"
            ) from None
        for size in found:
            if not self.low <= size <= self.high:
                raise InputError(
                    f"{size:g} mm in it is not between {self.low:g} and {self.high:g} mm", self.name, "change it"
                )
        return ";".join(f"{size:g}" for size in found)

    def say(self, value: Value, system: System = System.MM) -> str:
        """The value as the maker reads it."""
        if self.kind is Kind.SIZES:
            said = [format_length(float(part), system) for part in str(value).split(";")]
            if system is System.MM:  # the unit once, since it is a row
                return "; ".join(one.removesuffix(" mm").removesuffix(".0") for one in said) + " mm"
            return "; ".join(said)
        if isinstance(value, str):
            return value
        if self.kind in (Kind.LENGTH, Kind.PITCH):
            return format_length(value, system)
        if self.kind is Kind.MASS:
            return format_mass(value, system)
        return f"{value:g}" + {Kind.ANGLE: "°", Kind.DENSITY: " g/cm³"}.get(self.kind, "")


def _key(name: str, kind: Kind, default: Value | None, low: float, high: float, meaning: str) -> Key:
    return Key(name, kind, default, meaning, low, high)


def _pick(name: str, default: str, choices: tuple[str, ...], meaning: str) -> Key:
    return Key(name, Kind.CHOICE, default, meaning, choices=choices)


_L, _R, _A, _C = Kind.LENGTH, Kind.RATIO, Kind.ANGLE, Kind.COUNT
PATCHES = ("patch", "patch2", "patch3")  # what is sewn on pieces while they lie flat, one after another
SEWN_ON = ("pocket", "puckered pocket", "bellows pocket", "gusseted pocket", "moulded pocket", "loop", "strap",
           "ring tab", "reinforcement")  # fmt: skip


def _patched(slot: str) -> tuple[Key, ...]:
    """The settings of one thing that is sewn on a piece."""
    return (
        Key(f"{slot}.on", Kind.WORD, "none", "the piece that a pocket or the like is sewn on"),
        _pick(f"{slot}.kind", "pocket", SEWN_ON, "what is sewn on"),
        _key(f"{slot}.width", _L, None, 8, 600, "width of what is sewn on"),
        _key(f"{slot}.height", _L, None, 8, 1500, "height of what is sewn on"),
        _key(f"{slot}.across", _L, 0.0, -500, 500, "how far it is moved across its piece"),
        _key(f"{slot}.up", _L, 0.0, -500, 500, "how far it is moved up its piece"),
        _key(f"{slot}.fullness", _R, 0.25, 0.02, 1, "share by which a puckered pocket is wider at its top"),
        _key(f"{slot}.pleat", _L, 12.0, 3, 80, "depth of the pleats of a bellows pocket"),
        _key(f"{slot}.depth", _L, 20.0, 5, 150, "room in a gusseted pocket, through its depth"),
        _key(f"{slot}.tool", _L, 12.0, 2, 80, "thickness of the small tool in a moulded pocket or a loop"),
        _pick(f"{slot}.ring", "d-ring 20", trimmed("ring"), "the ring in a tab"),
        _pick(f"{slot}.flap", "none", ("none", "plain", *of_kind("snap", "stud")),
              "a flap over a pocket: plain, or closed with a button"),
    )  # fmt: skip


KEYS: Mapping[str, Key] = MappingProxyType({
    key.name: key
    for key in (
        _key("leather.thickness", _L, 3.0, 0.2, 10, "thickness of the body leather"),
        _pick("leather.temper", "firm", ("firm", "soft"), "firm holds a shape when wetted, soft drapes"),
        _key("leather.neutral", _R, 0.5, 0, 1, "unstretched surface, as a share of thickness from the flesh"),
        _key("leather.fold_radius", _R, 0.5, 0.05, 5, "inside radius of a fold, in thicknesses"),
        _key("leather.stretch_along", _R, 0.10, 0.01, 0.6, "wet stretch it bears along the backbone of the hide"),
        _key("leather.stretch_across", _R, 0.16, 0.01, 0.6, "wet stretch it bears across the hide"),
        _key("leather.gather", _R, 0.08, 0.01, 0.5, "share that wet leather takes up before it wrinkles"),
        _key("leather.turn", _A, 0.0, -90, 90, "angle from the draw to the backbone of the hide"),
        _pick("mould.method", "taut", ("taut", *MOULDINGS), "drawn taut, or moulded wet: with what it is pressed on"),
        _pick("mould.where", EVERYWHERE, (EVERYWHERE, HOLLOWS), "moulded all over, or only round the hollows marked"),
        _key("mould.valley", _R, None, 0.25, 6, "grain-side radius of a moulded valley, in thicknesses"),
        _key("mould.stretch", _R, None, 0, 0.2, "share that the leather gives in moulding, and is cut shorter by"),
        _key("mould.end", _L, None, 0, 150, "how far from the end moulding passes to taut; 0 presses it over the end"),
        _key("mould.margin", _L, None, 0, 80, "form margin: leather outside the blank's cut line, trimmed when dry"),
        _key("fit.clearance", _L, 0.5, 0, 20, "room between object and leather all round"),
        _key("fit.edge", _L, 2.0, 0, 30, "least room between a sharp edge and the welt"),
        _key("fit.point", _L, 3.0, 0, 60, "least room between the point and the welt"),
        _key("fit.trigger", _L, 10.0, 2, 60, "least cover over a trigger"),
        _key("fit.control", _L, 5.0, 0, 60, "least room kept free beside a button, aerial or lens"),
        _key("fit.approach", _A, None, 5, 85, "steepest angle at which the leather may come down to the welt"),
        _key("fit.toe", _A, None, 5, 85, "steepest angle at which the leather may come down over the end"),
        _key("welt.layers", _C, None, 1, 12, "layers in the welt"),
        _key("welt.thickness", _L, None, 0.3, 15, "thickness of one welt layer"),
        _key("welt.width", _L, None, 3, 60, "welt from its inner edge to the cut line"),
        _key("welt.proud", _L, 3.0, 0, 15, "extra welt outside the cut line, trimmed after gluing"),
        _key("welt.skive", _R, 0.5, 0.1, 1, "share of its thickness left where the welt runs into the fold"),
        _key("seam.standoff", _L, None, 0.1, 150, "object to the welt's inner edge, straight across"),
        _key("seam.stitch_inset", _L, None, 1, 60, "welt's inner edge to the stitch line"),
        _key("seam.margin", _L, None, 1, 40, "stitch line to the cut line"),
        _key("fold.uneven", _R, 0.0, -1, 1,
             "how much nearer to the back the seam lies: at 1 the front goes over it all, at -1 the back"),
        _key("seam.pitch", Kind.PITCH, None, 1.5, 15, "stitch spacing aimed at; holes come out equal and near it"),
        _key("seam.toe", _L, None, 1, 150, "tip to the welt's inner edge along the fold"),
        _key("seam.first_hole", _L, None, 0.5, 60, "first hole to the mouth"),
        _key("seam.fold_hole", _L, None, 0.5, 60, "last hole to the fold line"),
        _key("seam.hole", _L, None, 0.3, 6, "diameter of a stitch hole"),
        _pick("stitch.method", "saddle", tuple(METHODS), "the school of stitch"),
        _pick("stitch.holes", "awl", tuple(MAKINGS), "what the holes are made with"),
        _pick("stitch.marks", "all", ("all", "front"), "holes on every piece, or on the front only, to pierce through"),
        _key("stitch.thread", _L, None, 0.2, 4, "thickness of the thread, or width of the lace"),
        _pick("stitch.count", "any", ("any", "odd"), "whether the holes must be odd in number"),
        _key("stitch.back", _R, 2.0, 0, 8, "back-stitches at the end: 2 is usual, 1.5 gives matching ends"),
        _pick("stitch.wrap", "yes", ("yes", "no"), "whether a stitch wraps over each open end"),
        _pick("stitch.bed", "flat bed", tuple(BEDS), "the sewing machine, where one is used"),
        _pick("seam.rivets", "none", ("none", *of_kind("rivet", "screw")), "set at the open ends of the seam"),
        _key("back.above", _L, 0.0, 0, 80, "how far the back stands above the front's mouth"),
        _key("back.tab", _L, 0.0, 0, 60, "height of a tab on the back above the mouth, for the thumb; 0 for none"),
        _pick("back.drain", "none", ("none", *of_kind("grommet")), "drain in a flat back, at the tip"),
        _key("seam.fairing", _L, 0.25, 0, 3, "greatest distance fairing may move a line"),
        _key("mouth.y", _L, None, -1e4, 1e4, "height of the mouth on the object"),
        _key("mouth.relief", _L, None, 0, 60, "depth of the scoop in the front of the mouth"),
        _key("belt.width", _L, 40.0, 5, 150, "width of the belt"),
        _key("belt.thickness", _L, 4.0, 0.5, 20, "thickness of the belt"),
        _key("loop.width", _L, None, 4, 200, "width of the loop along the belt"),
        _key("loop.play", _L, 3.0, 0, 60, "free play of the belt in the loop"),
        _key("loop.rise", _L, None, 0, 400, "top of the loop above the mouth"),
        _pick("loop.landing", "back", ("back", "handle", "sewn", "slots", "ear", "dangler", "clip", "none"),
              "where a loop out of the back is sewn; or a loop of its own, a slotted plate, an ear, a dangler, a clip"),
        _pick("loop.ring", "d-ring 25", trimmed("ring"), "the ring a dangler hangs on"),
        _pick("loop.clip", "belt clip 45", trimmed("clip"), "the clip on the back"),
        _key("slots.play", _L, 1.5, 0, 10, "how much longer than the belt is wide a slot is"),
        _key("slots.length", _L, None, 5, 160, "length of a belt slot"),
        _key("slots.width", _L, None, 1, 25, "width of a belt slot: of the punch for its ends"),
        _key("slots.web", _L, None, 4, 60, "leather left round a belt slot"),
        _pick("loop.foot", "sewn", ("sewn", *of_kind("snap")), "lower foot of a loop of its own: sewn, or snapped"),
        _key("loop.drop", _L, None, 0, 400, "mouth down to the middle of the belt in a sewn loop"),
        _pick("strap.buckle", "none", ("none", *trimmed("buckle")), "a shoulder strap, by its buckle"),
        _key("strap.length", _L, 1100.0, 200, 2500, "shoulder strap from ring to ring, buckled in its first hole"),
        _key("strap.reach", _L, 150.0, 0, 600, "how far the strap can be let out"),
        _key("strap.pad", _L, 0.0, 0, 20, "foam in a pad for the shoulder; 0 for none"),
        _pick("seam.lanyard", "none", ("none", *of_kind("grommet")), "a grommet at the toe of the seam, for a lanyard"),
        _pick("keeper.way", "none", ("none", "over", "round"), "a keeper strap: over the top, or round the object"),
        _pick("keeper.button", "snap 10", of_kind("snap", "stud"), "what the keeper closes with"),
        _key("keeper.width", _L, None, 6, 80, "width of the keeper"),
        _key("keeper.at", _L, None, -1e4, 1e4, "height of a keeper round the object"),
        _key("keeper.overlap", _L, 30.0, 8, 120, "how far the ends of a keeper round the object lie on one another"),
        _key("keeper.tab", _L, 14.0, 0, 60, "keeper beyond its button, for a finger to pull"),
        _pick("flap.closing", "none", ("none", "plain", *of_kind("snap", "stud")),
              "a flap over the mouth: plain, or closed with a button"),
        _key("flap.width", _L, None, 8, 400, "width of the flap where it is sewn on"),
        _key("flap.reach", _L, None, 4, 400, "how far the flap comes down over the front"),
        _pick("carry.side", "strong", ("strong", "cross"), "worn on the drawing hand's side, or across the body"),
        _key("carry.cant", _A, None, -60, 60, "angle the case is to hang at, its tip towards the seam side"),
        _pick("object.sharp", "unknown", ("unknown", "none"), "whether anything on it is sharp where no zone says so"),
        _key("object.mass", Kind.MASS, None, 1, 20000, "what the object weighs"),
        _key("object.balance", _L, None, -1e4, 1e4, "height at which the object balances on a finger"),
        _key("leather.density", Kind.DENSITY, 0.95, 0.3, 2, "weight of the leather"),
        _pick("hand", "right", ("right", "left"), "the hand that draws; left mirrors every piece"),
        _pick("holster.made", "two panels", ("two panels", "folded"), "of two panels, or of one folded"),
        _key("inside.across", _L, None, 5, 1500, "room inside, across"),
        _key("inside.up", _L, None, 5, 1500, "room inside, from the bottom up"),
        _key("inside.through", _L, None, 0.5, 1000, "room inside, through its thickness"),
        _key("panel.corner", _L, None, 0, 200, "radius of a panel's corners at the stitch line"),
        _pick("panel.traced", "cut", ("cut", "stitch"), "what was traced: its cut edge, or its stitch line"),
        _key("panel.loop", _L, 0.0, 0, 2000,
             "loop of leather laid round it, once round from mark to mark where its seams fall; 0 for none"),
        _key("panel.give", _R, None, 0, 0.15, "share that the leather gives in use, and is cut smaller by"),
        _pick("panel.lining", "none", ("none", "lined"), "whether the panels are lined"),
        _key("lining.thickness", _L, 0.8, 0.2, 5, "thickness of the lining"),
        _key("lining.feather", _L, 3.0, 0, 15, "lining cut proud of its panel, trimmed after gluing"),
        _key("foam.thickness", _L, None, 0, 40, "padding between the panels and what is inside"),
        _key("board.thickness", _L, 2.0, 0.5, 12, "stiff board inside"),
        _pick("gusset.flange", "out", ("out", "in"), "whether the edges of a gusset are turned out or in"),
        _key("gusset.ease", _R, None, 0, 0.06, "share by which a gusset is cut shorter than its panel"),
        _key("zip.width", _L, 20.0, 6, 60, "width of a zip between its strips"),
        _key("wall.height", _L, None, 5, 300, "height of the walls"),
        _pick("corner.made", "pinched", ("pinched", "slit"), "how the corners of a tray are made"),
        _pick("corner.rivet", "none", ("none", *of_kind("rivet", "snap", "screw")), "what holds a corner"),
        _key("pocket.count", _C, None, 0, 12, "how many pockets"),
        _key("pocket.depth", _L, None, 5, 800, "depth of a pocket"),
        _key("pocket.step", _L, None, 3, 80, "from the top of one pocket to the next"),
        _key("notch.radius", _L, None, 0, 60, "thumb notch at the mouth"),
        _pick("pull.tab", "none", ("none", "under"), "a strip under what is inside, to draw it out by"),
        _key("fold.space", _L, None, 0, 80, "room kept free of pockets in the fold of a cover"),
        _key("cover.edge", _L, None, 0, 40, "cover beyond the book all round"),
        _key("tools.sizes", Kind.SIZES, "14;9;9;9;9", 2, 120, "diameters of the tools, parted by ;"),
        _key("tools.apart", _L, 6.0, 0, 80, "leather left flat between two tools"),
        *(key for slot in PATCHES for key in _patched(slot)),
        _key("divider.count", _C, None, 0, 8, "how many dividers part the inside"),
        _key("divider.height", _L, None, 10, 800, "height of a divider"),
        _key("roll.turns", _C, None, 0, 8, "half turns that a roll top is rolled down by; 0 for none"),
        _pick("roll.closing", "none", ("none", *of_kind("snap")), "what holds the ends of a roll top"),
        _key("rim.bar", _L, 0.0, 0, 12, "bar of a frame in a tunnel at either rim; 0 for none"),
        _pick("under.ring", "none", ("none", *trimmed("ring")), "straps under the body, by the rings in their ends"),
        _pick("bottom.made", "board", ("board", "laminated"), "a board in the bottom, or leather glued in bent layers"),
        _key("corner.dart", _A, 90.0, 40, 90, "angle that the corners of a bag are cut out at: a square, or a dart"),
        _pick("corner.boxed", "cut out", ("cut out", "left"),
              "the squares of boxed corners: cut out, or left on and trimmed when they are sewn"),
        _key("tie.width", _L, 10.0, 3, 40, "width of a tie"),
        _key("tie.length", _L, None, 50, 2500, "length of a tie"),
        _pick("handle.kind", "none", ("none", "strap", "wrapped"), "a handle over the top: a folded strap, or wrapped"),
        _key("handle.reach", _L, None, 40, 800, "length of the handle between its ends"),
    )
})  # fmt: skip


def key(name: str) -> Key:
    """The key of that name. Raises InputError with the nearest name when there is none."""
    if name in KEYS:
        return KEYS[name]
    import difflib  # only wanted for a key that is misspelled

    near = difflib.get_close_matches(name, KEYS, n=1)
    hint = f"perhaps {near[0]} was meant" if near else "see tailor new --help for the list"
    raise InputError("no such setting", quoted(name), hint)
