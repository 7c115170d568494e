"""Is it a thing: what shows once a draft is put together from its flat pieces alone."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from tailor.core import habit
from tailor.core.checks.verdict import Ruling, Verdict, at_least, at_most, let_go
from tailor.core.draft.draft import Draft
from tailor.core.draft.flat_goods.reached import reached
from tailor.core.measure import Theme
from tailor.core.placed.held import Room
from tailor.core.placed.lies import Laid, Seated
from tailor.core.settings import Settings
from tailor.core.together.assembled import Assembled, Met
from tailor.core.together.pockets import Pocket
from tailor.core.together.ridden import GIVES

SEAM, FASTENING, SHUT = 0.3, 0.5, 0.5  # mm that holes which meet may miss one another by
WORSE = 2.0  # times that: there is no bringing them together
LAYER = 0.3  # mm that leather under a fastening may differ from what its post was taken for
OVER = habit.stuff(
    "leather.gives_formed", 0.35, 0.01, 0.6, "of a thickness, that formed leather gives over an edge", habit.SHARE
)
LETS = ("pocket.depth", "seam.fairing", "fold.uneven", "mould.method", "mouth.y", "loop.rise",
        "loop.drop")  # what may part a seam  # fmt: skip
HIGHER = 8.0, 16.0, 24.0  # mm that a loop is raised by, past a step under its rows
NEARLY_AS_LONG = 5.0  # mm that a strap may differ from what was asked
NEARLY = 1.0  # mm that nobody would tell
TIGHT = 1.0  # of a thickness: it does not go in


def verdicts(settings: Settings, draft: Draft, whole: Assembled | None = None) -> Iterator[Verdict]:
    """Verdicts on a draft, every piece of it that has a place laid there. whole: that, where it was put together."""
    if draft.rough:
        return  # a glance while a measure is in hand
    whole = whole or Assembled(draft)
    if whole.seams:
        yield _meets(
            "Stitches come together", whole.seams, SEAM, "Every needle goes through holes that lie on one another.",
            "Holes of one thread lie apart once it is put together: pierce one piece through the other, or let go of "
            "what is pinned there.", Theme.STITCH, (*let_go(*LETS), *_past_the_step(draft)),
        )  # fmt: skip
    if whole.fastened:
        yield _meets(
            "Fastenings come together", whole.fastened, FASTENING,
            "The holes of each fastening lie on one another when it is set.",
            "Holes of one fastening lie apart when it is set: punch the one through the other, or let go of what is "
            "pinned there.", Theme.SHAPE,
        )  # fmt: skip
    if whole.shut:
        yield _meets(
            "Shuts in its place", whole.shut, SHUT, "Both halves meet when it is shut.",
            "Shut, its halves lie apart, and it would pull or stand open: set the second half where the first comes to "
            "lie.", Theme.BELT,
        )  # fmt: skip
    yield from _layers(whole)
    yield from _goes_in(settings, draft, whole)
    yield from _reached(draft, whole)
    yield from _stands_clear(settings, draft, whole)
    yield from _slung(settings, draft)


def _slung(settings: Settings, draft: Draft) -> Iterator[Verdict]:
    """A shoulder strap by its folds and its holes, against what was asked for."""
    if draft.sling is None:
        return
    pieces = {piece.name: piece for piece in draft.pieces}
    halves = replace(draft.sling, long=pieces[draft.sling.long.name], short=pieces[draft.sling.short.name])
    off = halves.length - settings.number("strap.length")
    ruling = at_most(abs(off), NEARLY_AS_LONG, 4 * NEARLY_AS_LONG)
    yield Verdict(
        "Strap goes from ring to ring", ruling, abs(off), NEARLY_AS_LONG, "mm",
        f"Buckled in its first hole it hangs {halves.length:.0f} mm from ring to ring."
        + ("" if ruling is Ruling.OK else f" That is {abs(off):.0f} mm {'more' if off > 0 else 'less'} than asked."),
        "shoulder strap", draft.top, () if ruling is Ruling.OK else let_go("strap.length"), Theme.STRAP, ceiling=True,
    )  # fmt: skip


def _past_the_step(draft: Draft) -> tuple[tuple[str, str], ...]:
    """A loop so much higher that its rows do not straddle a step of the back."""
    rise = draft.reasons.get("loop.rise")
    return () if rise is None else tuple(("loop.rise", f"{rise.value + up:.0f}mm") for up in HIGHER)


def _meets(
    name: str,
    met: tuple[Met, ...],
    limit: float,
    holds: str,
    fails: str,
    theme: Theme,
    remedies: tuple[tuple[str, str], ...] = (),
) -> Verdict:
    worst = max(met, key=lambda each: each.distance)
    ruling = at_most(worst.distance, limit, WORSE * limit)
    ok = ruling is Ruling.OK
    return Verdict(name, ruling, worst.distance, limit, "mm", holds if ok else fails, worst.name, worst.at[1],
        () if ok else remedies, theme, ceiling=True)  # fmt: skip


def _layers(whole: Assembled) -> Iterator[Verdict]:
    for each in whole.layered:
        said = []
        if abs(each.thickness - each.told) > LAYER:
            through, told = f"{each.thickness:.1f} mm of leather where it lies", f"{each.told:.1f}"
            said.append(f"It goes through {through}, not {told}: take the post for that.")
        if each.unpierced:
            said.append(f"No hole is punched for it in the {each.unpierced[0]}: let go of what is pinned there.")
        if said:
            yield Verdict(
                f"Leather under the {each.name}, {each.place}", Ruling.STOP, each.thickness, each.told, "mm",
                " ".join(said), each.place, 0.0, (), Theme.SHAPE,
            )  # fmt: skip


def _goes_in(settings: Settings, draft: Draft, whole: Assembled) -> Iterator[Verdict]:
    """What it is made for lies in it without being where leather is."""
    worst = min(whole.gaps, key=lambda each: each.gap, default=None)
    if worst is None:
        return
    thick = settings.number("leather.thickness")
    formed = draft.shell is not None
    ruling = at_least(worst.gap, -settings.habit(OVER if formed else GIVES) * thick, -TIGHT * thick)
    holds = "Put together, its leather is clear of all that lies in it."
    if any(isinstance(each, Room) and each.name == worst.name for each in draft.held):
        holds = "Put together, it is as wide, high and deep inside as was asked; its corners are rounded off."
    slot = next((slot for slot, added in draft.added.items() if worst.piece in _parts_of(draft, added)), None)
    remedies = let_go("seam.standoff", "fit.approach", "fit.toe", "seam.toe", "fit.clearance") if formed else \
        let_go("inside.across", "inside.up", "inside.through", "pocket.depth")  # fmt: skip
    yield Verdict(
        "What it holds goes in", ruling, worst.gap, 0.0, "mm", holds if ruling is Ruling.OK else
        f"Put together, the {worst.piece} would have to lie where {worst.name} lies: give more room"
        f"{'.' if slot is None else ', or sew it elsewhere.'}",
        worst.name, 0.0, remedies if slot is None else (*let_go(f"{slot}.on"), *remedies), Theme.SHAPE,
    )  # fmt: skip


def _reached(draft: Draft, whole: Assembled) -> Iterator[Verdict]:
    """Of each piece the pocket that is deepest for its width."""
    deepest = dict[str, Pocket]()
    for pocket in sorted(whole.pockets, key=lambda each: each.deep - reached(each.width)):
        deepest[pocket.piece] = pocket
    for name, pocket in deepest.items():
        most = reached(pocket.width)
        slot = next((slot for slot, added in draft.added.items() if added == name), None)
        remedy = "pocket.depth", f"{most:g}mm"
        if slot is not None:
            high = f"{slot}.height"
            remedy = high, f"{draft.value(high) - pocket.deep + most:.1f}mm"
        out = pocket.deep > most + NEARLY
        yield Verdict(
            f"Fingers reach down the {name}", Ruling.LOOK if out else Ruling.OK, pocket.deep, most, "mm",
            "What lies at its foot is out of reach: make it shallower, or so wide that a hand goes in."
            if out else "What lies at its foot is taken out by the fingers, or by a hand where one goes in.",
            name, 0.0, (remedy,) if out else (), Theme.SEWN_ON, ceiling=True,
        )  # fmt: skip


def _stands_clear(settings: Settings, draft: Draft, whole: Assembled) -> Iterator[Verdict]:
    """What is sewn on and stands out, where nothing else is to lie once it is shut."""
    for slot, name in draft.added.items():
        own = _parts_of(draft, name)
        seat = settings.word(f"{slot}.on")
        yield from _lies_down(settings, whole, slot, name, seat)
        if seat not in whole.skins or not any(isinstance(whole.lies.get(each), Seated) for each in own):
            continue
        under = whole.beneath(own, seat)
        yield Verdict(
            f"Stands clear, {name}", Ruling.STOP if under else Ruling.OK, float(bool(under)), 0.0, "pieces",
            f"Put together, the {under} would have to lie where it stands out: sew it elsewhere, or take a flat one."
            if under else "Put together, no other leather lies where it stands out.",
            name, 0.0, ((f"{slot}.kind", "pocket"),) if under else (), Theme.SEWN_ON, ceiling=True,
        )  # fmt: skip


def _parts_of(draft: Draft, name: str) -> list[str]:
    """The pieces of one thing that is sewn on: its own, its gusset, its flap."""
    own = [piece.name for piece in draft.pieces if piece.name == name or piece.name.startswith(f"{name} ")]
    return [each for each in own if each not in draft.added.values() or each == name]


def _lies_down(settings: Settings, whole: Assembled, slot: str, name: str, seat: str) -> Iterator[Verdict]:
    """What is sewn level on leather that goes round a corner, where that asks more of it than it bears."""
    if not isinstance(whole.lies.get(name), Laid):
        return
    bears = settings.number("leather.stretch_across"), settings.number("leather.gather")
    for asked in whole.strains:
        share = max(asked.most / bears[0], -asked.least / bears[1])
        if asked.piece == name and share > 1:
            moved = let_go(*(f"{slot}.{way}" for way in ("across", "up", "width", "height")))
            yield Verdict(
                f"Lies down, {name}", at_most(share, 1.0, WORSE), 100 * share, 100.0, "%",
                f"The {seat} bends under it, and it would have to stretch or gather more than it bears: sew it where "
                "that is level.", name, 0.0, moved, Theme.SEWN_ON, ceiling=True,
            )  # fmt: skip
