"""Will its fastenings hold: room clear of thread and edges, and a post that suits the stack."""

from __future__ import annotations

from collections.abc import Iterator

from tailor.core.checks.verdict import Ruling, Verdict
from tailor.core.draft.draft import Draft, Hardware
from tailor.core.keys import MEASURES
from tailor.core.leather.fastenings import LONG, Fastening
from tailor.core.measure import AUTO, Theme
from tailor.core.settings import Settings

FLAT = "Set it while its leather lies flat: later no anvil reaches inside."
WHEN = {"seam.rivets": "Set it after the seam is sewn.", "seam.lanyard": "Set it after the seam is sewn."}


def verdicts(settings: Settings, draft: Draft) -> Iterator[Verdict]:
    """Verdicts on each fastening."""
    for fitting in draft.hardware:
        if fitting.name not in settings.maker.fastenings:
            continue  # a ring, which nothing is punched for
        size = settings.maker.fastenings[fitting.name]
        yield _room(fitting, size)
        yield _post(fitting, size)


def _room(one: Hardware, size: Fastening) -> Verdict:
    when, theme = WHEN.get(one.key, FLAT), _theme(one)
    if not one.found:
        return Verdict(
            f"Room for the {size.kind}, {one.place}", Ruling.STOP, 0.0, size.edge, "mm",
            f"No room here: it wants {size.edge:g} mm to every edge and must not cut a thread hole. Widen its leather, "
            "or take a smaller one.", one.place, one.y, ((one.key, AUTO),), theme,
        )  # fmt: skip
    moved = f"Moved {one.moved:.1f} mm to clear thread holes and edges. " if one.moved > 0.05 else ""
    return Verdict(
        f"Room for the {size.kind}, {one.place}", Ruling.OK, size.edge, size.edge, "mm", moved + when, one.place, one.y,
        (), theme,
    )  # fmt: skip


def _theme(one: Hardware) -> Theme:
    """What a fastening is about: as the measure that asks for it."""
    return MEASURES[one.key].theme if one.key in MEASURES else Theme.BELT


def _post(one: Hardware, size: Fastening) -> Verdict:
    wanted, theme = one.stack + size.setting, _theme(one)
    name = f"Post of the {size.kind}, {one.place}"
    if one.post is None:
        return Verdict(
            name, Ruling.STOP, max(size.posts), wanted, "mm",
            f"The longest there is does not go through {one.stack:.1f} mm of leather. Thin it, or take another.",
            one.place, one.y, (), theme,
        )  # fmt: skip
    long_ = one.post - wanted > LONG
    return Verdict(
        name, Ruling.LOOK if long_ else Ruling.OK, one.post, wanted, "mm",
        "The next post is longer than this stack wants and bends as it is set: put a washer under it, or another size."
        if long_ else f"{size.setting:g} mm stand out of {one.stack:.1f} mm of leather to be set."
        if size.setting else f"It screws home through {one.stack:.1f} mm of leather.",
        one.place, one.y, (), theme,
    )  # fmt: skip
