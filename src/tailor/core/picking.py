"""Picking: which constructions suit an object and what is asked of it, each proposed as a whole case and drafted.

A proposal is complete: leather that suits its weight, a way to carry it, and what holds the thing in. Only what drafts
without a stop is offered; of the rest it is said why they cannot be, and what serves instead.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from tailor.core.carried.loft import Loft
from tailor.core.carried.roundness import is_round
from tailor.core.carried.stations import Shape
from tailor.core.carried.weight import solid
from tailor.core.carried.zones import Zone, ZoneKind, of_kind
from tailor.core.checks.verdict import Ruling, Verdict
from tailor.core.draft import styles
from tailor.core.draft.draft import Draft
from tailor.core.draft.style import Asked, Suited, suited
from tailor.core.draft.worn.hang import GUESSED
from tailor.core.errors import InputError
from tailor.core.job import Job, draft, judge
from tailor.core.keys import Value
from tailor.core.measure import STYLE
from tailor.core.righting import FACT, graveness, put_right

THIN = 0.15  # of its width, below which a plain thing is taken for cards
FLAT = 0.25  # below which for a book; up to twice that for a slab
CARD, CARD_LONG = 95.0, 130.0  # mm wide and long, the most that a card is
SLIM = 12.0  # mm of thickness that cards and books stay under and over
PLAIN, MOST_OF_IT = 0.9, 0.75  # share of its greatest width that a plain thing keeps over so much of its length
BOOKISH = 1.7  # times as long as it is wide, that a book is no more than
STOUT = 30.0  # mm: a plain thing as thick as this that is round is taken for a bottle or a torch
POCKET = 26.0  # mm of thickness that go in a pocket
LONG = 3.2  # times as long as it is wide, that a thing for the pocket is no more than
BULKY = 90.0  # mm: thicker than this, a plain thing is loose kit
LIGHT, MIDDLING = 80.0, 400.0  # g: what thin and what middling leather carries
LOOSE = 0.2  # of its mark that a case loses that is to hang on a belt and cannot
GOES, ENOUGH, MOST = 0.55, 2, 6  # mark of what is made for it; how many are offered at least and at most
CUTTING, FINISHING, SETTING = 5.0, 6.0, 2.0  # minutes for a piece to be cut, a metre of edge finished, a fastening set


Drafted = tuple[Job, Draft, tuple[Verdict, ...]]


@dataclass(frozen=True)
class Offer:
    """A whole case that drafts without a stop.

    settings: what it pins beyond the job. said_of: its verdicts. leather: cm². minutes: of cutting, edges, fastenings
    and sewing, a practised hand's. holds: what holds the thing in; hangs: what it hangs by.
    """

    style: str
    said: str
    mark: float
    settings: Mapping[str, Value]
    job: Job
    made: Draft
    said_of: tuple[Verdict, ...]
    stops: int
    looks: int
    leather: float
    minutes: float
    holds: str
    hangs: str
    why: str


@dataclass(frozen=True)
class Refusal:
    """A construction that is not offered, and why."""

    style: str
    said: str
    why: str


def ranked(asked: Asked, loft: Loft, zones: Sequence[Zone]) -> tuple[Suited, ...]:
    """Every construction, the best suited first; those that cannot be come last, with the reason."""
    found = [suited(name, styles.style(name), asked, loft, zones) for name in styles.names()]
    return tuple(sorted(found, key=lambda s: (s.never, -s.mark)))


def guessed(loft: Loft, zones: Sequence[Zone]) -> Asked:
    """What a measured object looks like, for a maker to put right."""
    rows = loft.sizes(np.linspace(loft.tip, loft.top, 200))
    wide, thick = float(rows[:, 1].max()), float((rows[:, 2] + rows[:, 3]).max())
    long = loft.top - loft.tip
    plain = float((rows[:, 1] > PLAIN * wide).mean()) > MOST_OF_IT
    slim, square = min(wide, thick), all(station.shape is Shape.SLAB for station in loft.stations)
    if of_kind(zones, ZoneKind.TRIGGER):
        what = "tool with a trigger"
    elif of_kind(zones, ZoneKind.EDGE, ZoneKind.POINT):
        what = "head on a handle" if _headed(loft) else "blade"
    elif of_kind(zones, ZoneKind.CONTROL):
        what = "device"
    elif plain and thick < SLIM and wide < CARD and long < CARD_LONG and thick < THIN * wide:
        what = "cards"
    elif plain and square and thick < FLAT * wide and wide >= CARD and long < BOOKISH * wide:
        what = "book" if thick >= SLIM / 2 else "papers"
    elif plain and slim >= STOUT and is_round(loft):
        what = "round thing"
    elif plain and slim > BULKY:
        what = "loose kit"
    elif plain and thick < min(2 * FLAT * wide + SLIM, POCKET) and long < LONG * wide:
        what = "slab"
    else:
        what = "tool"
    belt = what in ("blade", "tool with a trigger", "tool", "device")
    worn = "on the belt" if belt else "in a pocket" if what in ("slab", "cards", "papers") else "in the hand"
    return Asked(what, worn, "none")


def _headed(loft: Loft) -> bool:
    """Whether it is a head on a handle: broad at its tip, and no more than half as broad over most of its length."""
    size = loft.sizes(np.linspace(loft.tip, loft.top, 200))[:, 1]
    return int(size.argmax()) < len(size) / 2 and float(size.max()) > 60 and float(np.median(size)) < 0.5 * size.max()


def picks(job: Job, asked: Asked | None = None, tell: Callable[[str, float], None] = lambda said, share: None) -> tuple[
    tuple[Offer, ...], tuple[Refusal, ...]
]:  # fmt: skip
    """What is offered for an object, the best first, and what is not. job: the object and what is settled of it."""
    offered, refused = list[Offer](), list[Refusal]()
    for found in proposed(job, asked, tell):
        if isinstance(found, Offer):
            offered.append(found)
        else:
            refused.append(found)
    offered = list(best_first(offered))
    serves = f" {offered[0].said} serves." if offered else ""
    return tuple(offered), tuple(replace(r, why=_ended(r.why) + serves) for r in refused)


def best_first(offered: Sequence[Offer]) -> tuple[Offer, ...]:
    """Offers by how well they suit, then by how little there is to look at, then by the leather they take."""
    return tuple(sorted(offered, key=lambda o: (-round(o.mark, 1), o.looks - _asks(o), o.leather)))


def _asks(offer: Offer) -> int:
    """Verdicts that only ask whether anything is sharp, which says nothing of the case."""
    return sum(key == "object.sharp" for v in offer.said_of if v.ruling is Ruling.LOOK for key, _ in v.remedies)


def _ended(said: str) -> str:
    said = said[:1].upper() + said[1:]
    return said if said.endswith(".") else said + "."


def proposed(
    job: Job, asked: Asked | None = None, tell: Callable[[str, float], None] = lambda said, share: None
) -> Iterator[Offer | Refusal]:
    """Construction by construction, the likeliest first: what is offered, or why not.

    tell: called before each with what is drafted and how far it is; it may stop by raising.
    """
    asked = asked or guessed(job.loft, job.zones)
    order = ranked(asked, job.loft, job.zones)
    count, waiting = 0, list[_Begun]()
    for k, one in enumerate(order):
        said = styles.style(one.style).said
        tell(said, k / len(order))
        if one.never:
            yield Refusal(one.style, said, one.why)
            continue
        made_for = one.mark >= GOES
        begun = _begun(job, one, asked) if made_for and count + len(waiting) < MOST else None
        if begun is not None and not begun.at_once:  # whatever is ready is shown before
            waiting.append(begun)
            continue
        for earlier in waiting if begun is None else ():
            found = earlier.whole()
            count += isinstance(found, Offer)
            yield found
        waiting = waiting if begun is not None else []
        if begun is None and ((not made_for and count >= ENOUGH) or count >= MOST):
            yield Refusal(one.style, said, one.unfit if not made_for else f"{one.why}; others suit as well")
            continue
        found = (begun or _begun(job, one, asked)).whole()
        count += isinstance(found, Offer)
        yield found
    yield from (begun.whole() for begun in waiting)


@dataclass(frozen=True)
class _Begun:
    """One construction as it is first drafted for what is asked. best: None where it cannot be, and why."""

    job: Job
    one: Suited
    asked: Asked
    best: Drafted | None
    why: str

    @property
    def at_once(self) -> bool:
        """Whether nothing of it has to be put right."""
        if self.best is None:
            return True
        amiss = {v.name for v in self.best[2] if v.ruling is not Ruling.OK}
        return not graveness(self.best[2])[0] and not amiss & EASED.keys()

    def whole(self) -> Offer | Refusal:
        """It as a whole case, put right where it wants it."""
        if self.best is None:
            return Refusal(self.one.style, styles.style(self.one.style).said, self.why)
        best = self.best
        for trouble, steps in EASED.items():
            said = next((v for v in best[2] if v.name == trouble and v.ruling is not Ruling.OK), None)
            if said is not None:
                best = _better(best, steps(said))
        if graveness(best[2])[0]:
            righted = put_right(best[0], most=6, untouched=(FACT, STYLE))
            best = righted.job, righted.made, righted.said
        return _offered(self.job, self.one, self.asked, best)


def _begun(job: Job, one: Suited, asked: Asked) -> _Begun:
    """One construction drafted with its leather and the first way to carry it that goes, or the least grave."""
    tooling = job.tooling if one.style == job.style else ()  # another construction has other pieces
    bare = replace(job, style=one.style, tooling=tooling)
    best: Drafted | None = None
    why = ""
    for settings in _carried(bare, asked):
        try:
            trial = _drafted(bare, {**_stuff(bare, asked), **settings})
        except InputError as error:
            why = why or f"{error.what}: {error.remedy}"
            continue
        best = trial if best is None or graveness(trial[2]) < graveness(best[2]) else best
        if not graveness(best[2])[0]:
            break
    return _Begun(job, one, asked, best, why)


def _offered(job: Job, one: Suited, asked: Asked, best: Drafted) -> Offer | Refusal:
    """What came of one construction, offered if it is without a stop."""
    said = styles.style(one.style).said
    stops, looks = graveness(best[2])
    if stops:
        worst = best[2][0]
        return Refusal(one.style, said, f"{worst.name}: {worst.value:.0f} {worst.unit} where {worst.limit:.0f} is the "
                       f"{'most' if worst.ceiling else 'least'}. {worst.reason}")  # fmt: skip
    own, before = best[0].settings.pinned, job.settings.pinned
    changed = {key: value for key, value in own.items() if before.get(key) != value}
    holds, hangs = _holds(best[1], best[2]), _hangs(best[0], best[1])
    mark = one.mark - (LOOSE if asked.worn == "on the belt" and not hangs else 0.0)
    return Offer(
        one.style, said, mark, changed, best[0], best[1], best[2], stops, looks, _leather(best[1]), _minutes(best[1]),
        holds, hangs, "; ".join([one.why, f"held in by {holds}", f"hangs by {hangs}" if hangs else "carried loose"]),
    )  # fmt: skip


# What a maker would do about what a first draft shows, the likeliest first.
EASED: Mapping[str, Callable[[Verdict], tuple[Mapping[str, str], ...]]] = {
    "Hold by friction": lambda said: (
        dict(said.remedies[:1]), {"loop.landing": "sewn", **dict(said.remedies[:1])}, {"mould.method": "fingers"},
    ),
    "Weight hangs below the belt": lambda _: ({"loop.landing": "dangler"},),
    "Loop is wide enough not to tilt": lambda _: ({"loop.landing": "dangler"},),
}  # fmt: skip


def _drafted(job: Job, settings: Mapping[str, str]) -> Drafted:
    """The job with settings typed, drafted and judged. Raises InputError."""
    for key, value in settings.items():
        job = job.typed(key, value)
    made = draft(job)
    return job, made, judge(job, made)


def _better(best: Drafted, steps: Sequence[Mapping[str, str]]) -> Drafted:
    """What is drafted, or the first of other settings that make its ledger less grave."""
    for settings in steps:
        try:
            other = _drafted(best[0], settings)
        except InputError:
            continue
        if graveness(other[2]) < graveness(best[2]):
            return other
    return best


def _stuff(job: Job, asked: Asked) -> dict[str, str]:
    """The leather that suits, and how it is moulded."""
    if styles.style(job.style).family != "Fitted" or job.style == "mask":
        return {}
    found: dict[str, str] = {}
    if "leather.thickness" not in job.settings:
        mass = float(job.settings.pinned.get("object.mass", 0.0)) or solid(job.loft, job.settings.habit(GUESSED)).mass
        sharp = bool(of_kind(job.zones, ZoneKind.EDGE, ZoneKind.POINT))
        found["leather.thickness"] = "3mm" if sharp or mass > MIDDLING else "2mm" if mass < LIGHT else "2.6mm"
    if asked.moulded != "none" and "mould.method" not in job.settings:
        found["mould.method"] = "fingers" if asked.moulded == "some" else "bone"
    return found


def _carried(job: Job, asked: Asked) -> Iterator[dict[str, str]]:
    """Ways to carry it that a construction has, the usual first."""
    if styles.style(job.style).family != "Fitted" or job.style in ("mask", "holster") or "loop.landing" in job.settings:
        yield {}
    elif asked.worn != "on the belt":
        yield {"loop.landing": "none"}
    else:
        for landing in ("back", "sewn", "dangler") if job.style == "folded-sheath" else ("sewn", "dangler"):
            yield {"loop.landing": landing}


def _holds(made: Draft, said: Sequence[Verdict]) -> str:
    """What holds the thing in, in words."""
    for part in ("flap", "keeper"):
        if any(name.startswith(f"{part}.") for name in made.reasons):
            return f"a {part}"
    friction = next((v for v in said if v.name == "Hold by friction"), None)
    if friction is not None:
        return f"friction, about {friction.value:.1f} N"
    return "its own walls"


def _hangs(job: Job, made: Draft) -> str:
    """What the case hangs by, in words; nothing where it is carried loose."""
    if made.carriage is None:
        return ""
    return {"back": "a loop out of its back", "handle": "a loop beside the handle", "sewn": "a loop sewn to its back",
            "slots": "slots for the belt", "ear": "an ear beside its seam", "dangler": "a ring",
            "clip": "a clip"}.get(job.settings.word("loop.landing"), "its loop")  # fmt: skip


def _leather(made: Draft) -> float:
    return float(sum(p.area * p.count for p in made.pieces if p.leather != "card")) / 100


def _minutes(made: Draft) -> float:
    sewing = sum(seam.seconds for seam in made.seams) / 60
    pieces = [p for p in made.pieces if p.leather != "card"]
    edges = sum(float(np.hypot(*np.diff(p.cut, axis=0, append=p.cut[:1]).T).sum()) * p.count for p in pieces) / 1000
    fittings = sum(len(p.fittings) for p in pieces)
    return sewing + CUTTING * sum(p.count for p in pieces) + FINISHING * edges + SETTING * fittings
