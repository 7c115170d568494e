"""Style: a construction: how it is drafted, what it is for, and why it does or does not suit an object."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field

from tailor.core.carried.loft import Loft
from tailor.core.carried.stations import Station
from tailor.core.carried.traced import Traced
from tailor.core.carried.zones import Zone
from tailor.core.draft.draft import Draft
from tailor.core.settings import Settings

WHAT = ("blade", "head on a handle", "tool with a trigger", "tool", "round thing", "device", "slab", "book", "papers",
        "cards", "small tools", "loose kit")  # fmt: skip
MANY = ("papers", "cards", "small tools", "loose kit")  # what is more than one
LIKE: Mapping[str, tuple[str, ...]] = {  # what holds one of these holds the other too; a trigger wants its own
    "blade": ("tool",), "head on a handle": ("tool",), "tool with a trigger": (), "tool": ("device",),
    "round thing": ("tool",), "device": ("slab", "tool"), "slab": ("device",), "book": ("slab",),
    "papers": ("book", "slab"), "cards": ("papers", "slab"), "small tools": ("tool",), "loose kit": ("small tools",),
}  # fmt: skip
WORN = ("on the belt", "from the shoulder", "in the hand", "in a pocket", "left standing")
MOULDED = ("none", "some", "close")
MOULDS = {
    "none": ("only sewn", "wants moulding"), "some": ("eased while wet", "not eased while wet"),
    "close": ("moulded closely", "not moulded closely"),
}  # fmt: skip


@dataclass(frozen=True)
class Order:
    """What is to be made.

    before: the draft of a job much like it. rough: on wider grids, for a glance. traced: panels of an old one.
    """

    settings: Settings
    loft: Loft
    zones: tuple[Zone, ...] = ()
    before: Draft | None = None
    rough: bool = False
    traced: Traced = field(default_factory=Traced)

    @property
    def sharp(self) -> bool:
        """Whether what no zone tells of may be sharp."""
        return self.settings.word("object.sharp") == "unknown"


@dataclass(frozen=True)
class Asked:
    """What a maker is asked before choosing: what it is, how it is worn, how closely it is moulded."""

    what: str
    worn: str
    moulded: str


@dataclass(frozen=True)
class Style:
    """A construction. said: its name as makers say it. family: what it stands with in the menu.

    draft: makes it. what, worn, moulded: what it is for. unless: why it cannot hold an object; None where it can.
    usual: choices that are usual for it, where they are not those of its keys. beside: further ones beside what the
    maker has pinned, and for what was measured.
    """

    said: str
    family: str
    draft: Callable[[Order], Draft]
    what: tuple[str, ...]
    worn: tuple[str, ...]
    moulded: tuple[str, ...]
    unless: Callable[[Loft, Sequence[Zone]], str | None] = lambda loft, zones: None
    usual: Mapping[str, str] = field(default_factory=dict)
    beside: Callable[[Settings, tuple[Station, ...]], Mapping[str, str]] = lambda settings, stations: {}


@dataclass(frozen=True)
class Suited:
    """How a construction suits: its name, a mark out of 1, and in words why. unfit: why not, in words, where it is for
    something else. never: it cannot be, and why says so.
    """

    style: str
    mark: float
    why: str
    never: bool
    unfit: str = ""


def _one(what: str) -> str:
    return what if what in MANY else f"a {what}"


def suited(name: str, style: Style, asked: Asked, loft: Loft, zones: Sequence[Zone]) -> Suited:
    """How a construction suits an object and what is asked of it."""
    refused = style.unless(loft, zones)
    if refused is not None:
        return Suited(name, 0.0, refused, True)
    like = next((what for what in LIKE[asked.what] if what in style.what), None)
    thing = asked.what if asked.what in style.what or like is None else like
    made_for = f"made for {_one(thing)}" + (f", which is much like {_one(asked.what)}" if thing != asked.what else "")
    marks = (
        (0.6 if thing == asked.what else 0.3, thing in style.what, made_for, f"not for {_one(asked.what)}"),
        (0.2, asked.worn in style.worn, f"worn {asked.worn}", f"not worn {asked.worn}"),
        (0.2, asked.moulded in style.moulded, *MOULDS[asked.moulded]),
    )
    mark = sum(weight for weight, fits, _, _ in marks if fits)
    why = [yes for _, fits, yes, _ in marks if fits]
    not_ = [no for _, fits, _, no in marks if not fits]
    return Suited(name, mark, "; ".join([*why, *not_]), False, "; ".join(not_))
