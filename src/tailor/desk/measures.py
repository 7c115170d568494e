"""Which measures can be taken hold of at each stage, in the order Tab goes through them."""

from __future__ import annotations

from dataclasses import dataclass

from tailor.core.carried.zones import ZoneKind
from tailor.core.draft.built import Built
from tailor.core.draft.draft import Draft, Fitted
from tailor.core.job import Job
from tailor.core.keys import KEYS, PATCHES, Key, Kind
from tailor.core.leather.stitching import METHODS
from tailor.core.reason import Reason
from tailor.core.units import System, format_length, format_weight, parse_length, retold

STAGES = ("Object", "Leather", "Draft", "Stitch", "Carry")

LABELS = {
    "leather.thickness": "leather", "leather.temper": "temper", "leather.neutral": "neutral",
    "leather.fold_radius": "fold radius", "fit.clearance": "clearance", "fit.edge": "room at the edge",
    "fit.point": "room at the point", "fit.trigger": "cover over a trigger", "fit.control": "room beside a control",
    "fit.approach": "approach", "welt.layers": "welt layers",
    "welt.thickness": "welt layer", "welt.width": "welt width", "welt.proud": "welt proud", "welt.skive": "welt end",
    "seam.standoff": "standoff", "seam.stitch_inset": "stitch inset", "seam.margin": "margin",
    "seam.pitch": "stitch spacing", "fold.uneven": "uneven fold",
    "seam.toe": "toe", "seam.first_hole": "first hole", "seam.fold_hole": "last hole",
    "seam.hole": "hole", "seam.fairing": "fairing", "mouth.y": "mouth", "mouth.relief": "scoop",
    "belt.width": "belt", "belt.thickness": "belt thickness", "loop.width": "loop width", "loop.play": "loop play",
    "loop.rise": "loop rise", "loop.landing": "rides by", "hand": "hand", "seam.thread": "thread",
    "leather.stretch_along": "stretch along", "leather.stretch_across": "stretch across",
    "leather.gather": "takes up", "leather.turn": "hide turned", "mould.method": "moulded with",
    "mould.where": "moulded where", "mould.valley": "valley", "mould.stretch": "wet stretch",
    "mould.margin": "form margin",
    "seam.rivets": "rivets", "back.drain": "drain", "back.above": "back above", "back.tab": "thumb tab",
    "seam.lanyard": "lanyard", "holster.made": "holster of",
    "loop.ring": "ring", "loop.clip": "clip", "slots.length": "slot length", "slots.width": "slot width",
    "slots.web": "web", "slots.play": "slot play", "carry.side": "worn", "loop.tab": "ring tab",
    "keeper.way": "keeper", "keeper.button": "keeper closes by", "keeper.width": "keeper width",
    "keeper.at": "keeper height", "keeper.overlap": "overlap", "keeper.tab": "finger's tab",
    "keeper.length": "keeper length", "keeper.girth": "girth there", "flap.closing": "flap",
    "flap.width": "flap width", "flap.reach": "flap reach", "flap.length": "flap length",
    "strap.buckle": "shoulder strap", "strap.length": "ring to ring", "strap.reach": "let out by",
    "strap.cut": "longer half", "strap.pad": "pad",
    "loop.drop": "belt below mouth", "loop.foot": "lower foot", "carry.cant": "cant", "object.mass": "object weighs",
    "object.balance": "balances at", "leather.density": "leather weighs", "hang.rest": "hangs at",
    "hang.slack": "turns on the belt", "hang.foot": "steady foot", "hang.away": "pulls away",
    "seam.count": "holes", "seam.time": "sewing", "stitch.method": "stitch", "stitch.holes": "holed with",
    "stitch.marks": "holes marked", "stitch.thread": "thread size", "stitch.count": "holes odd",
    "stitch.back": "back-stitches", "stitch.wrap": "wrap the end", "stitch.bed": "machine",
    "seam.stack": "stack", "seam.faired": "faired by", "loop.length": "loop length", "seam.chord": "dividers",
}  # fmt: skip

LABELS |= {
    "inside.across": "inside across", "inside.up": "inside up", "inside.through": "inside through",
    "panel.corner": "corner", "panel.give": "gives in use", "panel.loop": "loop of leather",
    "panel.room": "room it leaves", "panel.traced": "traced along", "panel.lining": "lining",
    "lining.thickness": "lining thickness", "lining.feather": "feather", "foam.thickness": "foam",
    "board.thickness": "board", "gusset.flange": "flange", "gusset.length": "gusset length",
    "gusset.width": "gusset width", "rim.wire": "wire in the rim",
    "gusset.ease": "gusset shorter by", "zip.width": "zip",
    "wall.height": "wall", "corner.made": "corners", "corner.rivet": "corner held by",
    "pocket.count": "pockets", "pocket.depth": "pocket depth", "pocket.step": "step", "notch.radius": "thumb notch",

    "fold.space": "fold space", "cover.edge": "beyond the book", "pull.tab": "pull tab",
    "pull.length": "pull tab length", "tools.sizes": "tools", "tools.apart": "between tools", "tie.width": "tie width",
    "divider.count": "dividers", "divider.height": "divider height", "divider.room": "between dividers",
    "roll.turns": "rolled by", "roll.closing": "roll closes by", "roll.length": "roll takes", "rim.bar": "frame bar",
    "rim.length": "each bar",
    "under.ring": "straps under", "under.length": "strap under", "bottom.made": "bottom", "corner.boxed": "squares",
    "corner.dart": "opens",
    "tie.length": "tie length", "handle.kind": "handle", "handle.reach": "handle length",
}  # fmt: skip

ADDED = {
    "on": "added to", "kind": "what is added", "width": "its width", "height": "its height", "flap": "its flap",
    "fullness": "its fullness", "pleat": "its pleat", "depth": "its depth", "tool": "its tool", "ring": "its ring",
    "across": "moved across", "up": "moved up",
}  # fmt: skip
ORDINALS = dict(zip(PATCHES, ("", "2nd: ", "3rd: "), strict=True))
LABELS |= {f"{slot}.{last}": ORDINALS[slot] + said for slot in PATCHES for last, said in ADDED.items()}
PATCH = tuple(f"{slot}.{last}" for slot in PATCHES for last in ADDED)
POCKETS = ("pocket", "puckered pocket", "bellows pocket", "gusseted pocket")
ONLY_OF = {  # the measures that only some of what is added has
    "fullness": ("puckered pocket",), "pleat": ("bellows pocket",), "depth": ("gusseted pocket",),
    "tool": ("moulded pocket", "loop"), "ring": ("ring tab",), "flap": POCKETS,
    "width": (*POCKETS, "strap", "reinforcement"),
    "height": (*POCKETS, "moulded pocket", "loop", "strap", "reinforcement"),
}  # fmt: skip

AT_STAGE = {
    "Object": ("mouth.y", "fit.clearance", "hand", "fit.edge", "fit.point", "fit.trigger", "fit.control"),
    "Leather": (
        "leather.thickness", "leather.temper", "leather.neutral", "leather.fold_radius", "fit.clearance",
        "mould.method", "mould.where", "mould.valley", "mould.stretch", "leather.turn",
        "fit.approach", "welt.layers", "welt.thickness", "welt.width",
    ),
    "Draft": (
        "mouth.y", "mouth.relief", "seam.standoff", "seam.toe", "fold.uneven", "welt.width", "welt.proud",
        "mould.margin",
        "back.above", "back.tab", "holster.made", *PATCH,
    ),
    "Stitch": (
        "stitch.method", "stitch.holes", "stitch.thread", "stitch.marks", "stitch.back", "stitch.wrap", "stitch.count",
        "stitch.bed", "seam.rivets", "seam.lanyard", "back.drain",
        "seam.first_hole", "seam.pitch", "seam.hole", "seam.stitch_inset", "seam.margin", "seam.thread",
        "seam.stack", "seam.faired", "seam.fold_hole", "seam.chord", "seam.count", "seam.time",
    ),
    "Carry": (
        "loop.landing", "loop.foot", "loop.width", "loop.rise", "loop.drop", "loop.play", "loop.length", "belt.width",
        "belt.thickness", "carry.cant", "object.mass", "object.balance", "leather.density", "hang.rest", "hang.slack",
        "hang.foot", "hang.away", "loop.ring", "loop.clip", "slots.length", "slots.play", "slots.width", "slots.web",
        "carry.side", "keeper.way", "keeper.button", "keeper.width", "keeper.at", "keeper.overlap", "keeper.tab",
        "keeper.length", "flap.closing", "flap.width", "flap.reach", "flap.length", "strap.buckle", "strap.length",
        "strap.reach", "strap.cut", "strap.pad",
    ),
}  # fmt: skip


# The measures that belong to a kind of zone, there only where such a zone is marked.
OF_ZONE = {f"fit.{kind}": kind for kind in (ZoneKind.EDGE, ZoneKind.POINT, ZoneKind.TRIGGER, ZoneKind.CONTROL)}

# Told as a share of a hundred.
SHARES = (
    "mould.stretch",
    "leather.stretch_along",
    "leather.stretch_across",
    "leather.gather",
    "gusset.ease",
    "panel.give",
)


@dataclass(frozen=True)
class Reading:
    """A measure as it stands: its value, how it is said, whether it is pinned, and why it is what it is."""

    key: str
    value: float | str
    said: str
    pinned: bool
    reason: Reason | None

    @property
    def setting(self) -> Key | None:
        """The setting behind it; None for a number that only follows."""
        return KEYS.get(self.key)


def at_stage(made: Draft, stage: str) -> tuple[str, ...]:
    """The measures of a stage, in the order Tab goes through them, of whatever construction."""
    if not isinstance(made, Built):
        return AT_STAGE[stage]
    every = [*made.words, *(key for key in made.reasons if key in LABELS and key not in PATCH), *PATCH]
    return tuple(dict.fromkeys(key for key in every if _stage_of(key) == stage))


def _stage_of(key: str) -> str:
    """The stage that a measure of a thing of flat panels belongs to."""
    part = key.split(".")[0]
    if key in ("fit.clearance", "hand"):
        return "Object"
    return {
        "leather": "Leather", "lining": "Leather", "foam": "Leather", "board": "Leather", "stitch": "Stitch",
        "seam": "Stitch", "strap": "Carry", "handle": "Carry", "tie": "Carry", "keeper": "Carry", "flap": "Carry",
    }.get(part, "Draft")  # fmt: skip


def known(job: Job, made: Draft, name: str) -> bool:
    """Whether a measure exists in a draft: with no zone, loop, fold or moulding there is nothing of it to measure."""
    if name in PATCH:
        return _added(job, made, *name.split("."))
    if not isinstance(made, Fitted):
        return name in made.reasons or (isinstance(made, Built) and name in made.words)
    if name in OF_ZONE:
        return any(z.kind is OF_ZONE[name] for z in job.zones)
    if name.startswith(("loop.", "belt.", "hang.", "carry.", "object.")) or name == "leather.density":
        return _rides(job, made, name)
    if name.startswith(("keeper.", "flap.", "strap.", "slots.")):
        return _parted(job, made, name)
    if name in ("leather.fold_radius", "seam.fold_hole", "fold.uneven"):
        return made.plan.fold is not None
    if name == "fit.approach":
        return made.shell.moulding.taut
    if name == "holster.made":
        return job.style == "holster"
    if name == "back.above":
        return made.plan.fold is None
    if name == "back.tab":
        return any(piece.name == "back" for piece in made.pieces)
    if name == "back.drain":
        return made.plan.fold is None and made.shell.plane > 0
    if name == "stitch.bed":
        return METHODS[job.settings.word("stitch.method")].machine
    if name == "mould.margin":
        return name in made.reasons
    return name == "mould.method" or not name.startswith("mould.") or not made.shell.moulding.taut


def _added(job: Job, made: Draft, slot: str, last: str) -> bool:
    """Whether a measure of what is sewn on exists: of the next that may be, only where it goes."""
    word, name = job.settings.word, f"{slot}.{last}"
    if last == "on":
        before = PATCHES[: PATCHES.index(slot)]
        return word(f"{slot}.on") != "none" or all(word(f"{other}.on") != "none" for other in before)
    kind = word(f"{slot}.kind")
    worked_out = KEYS[name].default is not None or name in made.reasons
    return slot in made.added and worked_out and kind in ONLY_OF.get(last, (kind,))


def _rides(job: Job, made: Fitted, name: str) -> bool:
    """Whether a measure of the carriage exists: each way of riding on a belt has its own."""
    way = job.settings.word("loop.landing")
    only = {
        "loop.rise": ("back", "handle"), "loop.drop": ("sewn",), "loop.foot": ("sewn",), "loop.clip": ("clip",),
        "loop.ring": ("dangler",), "carry.cant": ("sewn", "slots"), "carry.side": ("sewn", "slots"),
        "loop.play": ("back", "handle", "sewn", "dangler"), "loop.length": ("back", "handle", "sewn", "dangler"),
        "loop.width": ("back", "handle", "sewn", "clip"),
        "belt.thickness": ("back", "handle", "sewn", "slots", "ear", "dangler"),
        "hang.slack": ("back", "handle", "sewn", "slots", "ear", "clip"),
        "hang.foot": ("back", "handle", "sewn", "slots", "ear", "clip"),
    }  # fmt: skip
    if made.carriage is None:
        return name == "loop.landing"
    return way in only.get(name, (way,))


def _parted(job: Job, made: Fitted, name: str) -> bool:
    """Whether a measure of a part exists: of one that is not there, only what asks for it."""
    part, asked = name.split(".")[0], {"keeper": "way", "flap": "closing", "strap": "buckle", "slots": ""}
    if name == f"{part}.{asked[part]}":
        return True
    if name in ("keeper.at", "keeper.overlap"):
        return job.settings.word("keeper.way") == "round"
    there = {"keeper": "keeper.length", "flap": "flap.length", "strap": "strap.cut", "slots": "slots.length"}
    return there[part] in made.reasons


def stands(job: Job, made: Draft, name: str) -> bool:
    """Whether a measure has a value in a job, though the draft may be of another."""
    return name in job.settings or name in made.reasons or (name in KEYS and job.settings.default(name) is not None)


def reading(job: Job, made: Draft, name: str) -> Reading:
    """How a measure stands in a job and its draft."""
    key = KEYS.get(name)
    reason = made.reasons.get(name)
    pinned = name in job.settings
    if pinned:
        value: float | str = job.settings.pinned[name]
    elif reason is not None:
        value = reason.value
    else:
        assert key is not None, name
        usual = job.settings.default(name)
        assert usual is not None, name
        value = usual
    return Reading(name, value, _said(name, key, value, job.units), pinned, reason)


def _said(name: str, key: Key | None, value: float | str, units: System) -> str:
    if key is None:
        value = float(value)
        if name == "seam.thread":
            return f"{value / 1000:.2f} m"
        if name in ("hang.rest", "hang.slack"):
            return f"{round(value, 1) + 0.0:.1f}°"
        if name == "hang.away":
            return f"{value:.0f} N·mm"
        if name == "seam.count":
            return f"{value:.0f}"
        if name == "seam.time":
            return f"{value:.0f} min"
        if name == "seam.chord" and units is System.MM:
            return f"{value:.2f} mm"  # dividers are set finer than a rule is read
        return format_length(value, units)
    if name in ("leather.thickness", "welt.thickness") and isinstance(value, float):
        return f"{format_length(value, units)} · {format_weight(value)}"
    if name in ("leather.fold_radius", "mould.valley"):
        return f"{value:.3g} × thick"
    if name in SHARES:
        return f"{100 * float(value):.3g} %"
    return key.say(value, units)


def told(text: str, units: System) -> str:
    """A sentence of the core's as the maker reads it: tags by their names, lengths in the maker's unit."""
    for key, label in LABELS.items():
        text = text.replace(key, label)
    return retold(text, units)


def why(reading: Reading, units: System) -> str:
    """Why a measure is what it is, in a few lines."""
    key, reason = reading.setting, reading.reason
    lines = [f"{LABELS[reading.key].capitalize()}: {reading.said}"]
    if reason is None:
        assert key is not None
        lines.append(f"{key.meaning.capitalize()}.")
        lines.append("Your own value." if reading.pinned else "The usual value; type your own to pin it.")
        return "\n".join(lines)

    def number(value: float) -> str:
        return format_length(value, units) if reason.unit == "mm" else f"{value:g}{reason.unit.replace('count', '')}"

    lines.append(f"Because {reason.rule}." if not reason.pinned else "Pinned: your own value.")
    if reason.inputs:
        fed = ", ".join(f"{k.replace('_', ' ')} {v:.4g}" for k, v in reason.inputs.items())
        lines.append(f"From {fed} (lengths in mm).")
    if reason.others:
        lines.append("The computed value:" if reason.pinned else "What the other rules ask for:")
    lines += [f"  {number(max(value, 0.0))}, {rule}" for rule, value in reason.others.items()]
    return retold("\n".join(lines), units)


def nudged(reading: Reading, job: Job, steps: int) -> str | None:
    """What to type to move a measure by so many of the maker's units; None where it cannot be nudged."""
    key = reading.setting
    if key is None or key.kind in (Kind.SIZES, Kind.WORD):
        return None
    if key.kind is Kind.CHOICE:
        return key.choices[(key.choices.index(str(reading.value)) + steps) % len(key.choices)]
    assert not isinstance(reading.value, str)
    step = {Kind.COUNT: 1.0, Kind.ANGLE: 1.0, Kind.RATIO: 0.05}.get(key.kind, job.units.nudge)
    value = min(max(reading.value + steps * step, key.low), key.high)
    return f"{value:.6g}" + ("mm" if key.kind in (Kind.LENGTH, Kind.PITCH) else "")


def typed(reading: Reading, job: Job, text: str) -> str:
    """What the maker typed, with a leading + or - taken as a change to the present value."""
    key = reading.setting
    plain = text.strip()
    if key is None or key.kind not in (Kind.LENGTH, Kind.PITCH) or plain[:1] not in ("+", "-"):
        return text
    if key.low < 0 and plain[:1] == "-":
        return text  # a place that may itself be below nought
    change = parse_length(plain, job.units.bare, key.name)
    return f"{float(reading.value) + change:.6f}mm"
