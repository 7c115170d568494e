"""Will a thing of flat panels do: the room inside, seams that meet, margins that hold, and what it answers for."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import shapely

from tailor.core.checks.stitching import seen_to
from tailor.core.checks.verdict import Ruling, Verdict, at_least, at_most, let_go
from tailor.core.draft.draft import Claim, Draft
from tailor.core.draft.flat_goods.built import Built
from tailor.core.leather.machine import BEDS, Bed
from tailor.core.leather.stitching import METHODS
from tailor.core.measure import Theme
from tailor.core.settings import Settings

TRUE = 0.1  # mm that lengths may miss their rule by
CLOSE = 0.2  # mm that the inside may be off
SIDES = ("across", "up", "through")


def verdicts(settings: Settings, draft: Built) -> Iterator[Verdict]:
    """Verdicts on a draft of flat panels."""
    if draft.inside is not None:
        yield _room(draft, draft.inside)
    if draft.joints:
        yield from _meets(draft)
        yield _margins(draft)
        yield from seen_to(settings, draft)
        if METHODS[settings.word("stitch.method")].machine:
            yield _under_the_foot(BEDS[draft.bed], draft)
            yield _on_to_the_bed(BEDS[draft.bed], draft)
    yield from answered(draft)


def answered(draft: Draft) -> Iterator[Verdict]:
    """Verdicts on what a construction answers for."""
    for claim in draft.claims:
        yield _judged(claim)


def _room(draft: Built, inside: tuple[float, float, float]) -> Verdict:
    spare = [a - b for a, b in zip(inside, draft.asked, strict=True)]
    k = int(np.argmin(spare))
    return Verdict(
        "Room inside", at_least(spare[k], -CLOSE, -2.0), spare[k], 0.0, "mm",
        f"{inside[0]:.0f} × {inside[1]:.0f} × {inside[2]:.0f} mm inside, across, up and through."
        + (f" Too small {SIDES[k]}." if spare[k] < -CLOSE else ""), SIDES[k], 0.5 * draft.top, (), Theme.SHAPE,
    )  # fmt: skip


def _meets(draft: Built) -> Iterator[Verdict]:
    """Edges that are sewn together are as long as the rule of their turn makes them."""
    worst = max((j for j in draft.joints if j.ruled), key=lambda joint: joint.amiss, default=None)
    if worst is None:
        return
    yield Verdict(
        "Edges that meet are of a length", at_most(worst.amiss, TRUE, 5 * TRUE), worst.amiss, TRUE, "mm",
        "A gusset longer than its panel bunches; a shorter one puckers. What lies further out round a corner is longer "
        "by the angle it turns times how far.", f"seam {worst.seam}", 0.0, (), Theme.STITCH, ceiling=True,
    )  # fmt: skip


def _margins(draft: Built) -> Verdict:
    """Least leather between a stitch hole and the edge of its piece."""
    least, where = np.inf, ""
    for piece in draft.pieces:
        if piece.holes:
            at = shapely.points([(h.x, h.y) for h in piece.holes])
            apart = float(shapely.distance(at, shapely.LinearRing(piece.cut)).min())
            if apart < least:
                least, where = apart, piece.name
    wanted = 0.5 * draft.value("seam.margin") if "seam.margin" in draft.reasons else 2.0
    return Verdict(
        "Leather beside the stitches", at_least(least, wanted, wanted / 2), least, wanted, "mm",
        "A hole too near an edge tears out." + (" Widen the margin." if least < wanted else ""), where, 0.0,
        let_go("seam.margin"), Theme.STITCH,
    )  # fmt: skip


def _under_the_foot(bed: Bed, draft: Built) -> Verdict:
    """Every stack must go under the foot, and its hook must pass beside whatever stiff lies in already."""
    thick = max(draft.seams, key=lambda seam: seam.stack)
    if thick.stack > bed.lift or not draft.stiff:
        return Verdict(
            "Machine takes every seam", at_most(thick.stack, bed.lift, bed.lift), thick.stack, bed.lift, "mm",
            f"So high a stack goes under the foot of the {bed.name} machine." if thick.stack <= bed.lift else
            f"The foot of the {bed.name} machine does not lift over this stack. Sew it by hand, or thin it.",
            f"seam {thick.name}", 0.0, (("stitch.method", "saddle"),), Theme.STITCH, ceiling=True,
        )  # fmt: skip
    seam, apart = min(draft.stiff, key=lambda pair: pair[1])
    return Verdict(
        "Machine takes every seam", at_least(apart, bed.hook, bed.hook / 2), apart, bed.hook, "mm",
        "What is stiff lies in when this seam is sewn, so far beside the needle."
        + (" Sew this seam by hand, or make the board smaller." if apart < bed.hook else ""),
        f"seam {seam}", 0.0, (("stitch.method", "saddle"),), Theme.STITCH,
    )  # fmt: skip


def _on_to_the_bed(bed: Bed, draft: Built) -> Verdict:
    """A seam between pieces that hang together already closes the work to a tube, which must go on to the bed; but for
    two that lie flat on one another, sewn by one seam after another.
    """
    joined, flat = list[set[str]](), list[set[str]]()
    closing = ""
    for seam in draft.seams:
        touched = [group for group in joined if group & set(seam.pieces)]
        whole = set(seam.pieces).union(*touched)
        if len(touched) == 1 and set(seam.pieces) <= touched[0] and set(seam.pieces) not in flat:
            closing = seam.name
        flat.append(set(seam.pieces))
        joined = [group for group in joined if group not in touched] + [whole]
    across, _, through = draft.inside or draft.asked
    girth = 2 * (across + through)
    goes = not closing or (bed.round_ is not None and girth >= bed.round_)
    least = bed.round_ or 0.0
    return Verdict(
        "Work goes on to the machine", Ruling.OK if goes else Ruling.STOP, girth, least, "mm",
        "Every seam is sewn while the work lies open, or round a bed that it goes on to." if goes else
        f"It is a tube by then, and {'no tube goes' if bed.round_ is None else 'one so narrow does not go'} on to "
        f"the {bed.name} machine. Sew it by hand, or take another bed.",
        f"seam {closing}" if closing else "all seams", 0.0, (("stitch.bed", "cylinder"),), Theme.STITCH,
    )  # fmt: skip


def _judged(claim: Claim) -> Verdict:
    judge = at_most if claim.ceiling else at_least
    ruling = judge(claim.value, claim.limit, claim.bare)
    said = claim.holds if ruling is Ruling.OK else claim.fails
    return Verdict(
        claim.name, ruling, claim.value, claim.limit, claim.unit, said, claim.where, claim.y, let_go(*claim.keys),
        claim.theme, claim.ceiling,
    )  # fmt: skip
