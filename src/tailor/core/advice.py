"""Advice: where leather will not go as it is asked to, what else would do, each with the number it would give."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace

import numpy as np

from tailor.core.checks import forming
from tailor.core.draft.draft import Draft
from tailor.core.draft.stuff import bears
from tailor.core.errors import InputError
from tailor.core.job import Job, draft
from tailor.core.leather.moulding import METHODS, TAUT
from tailor.core.shell.two_sided import TwoSided

THINNER, THINNEST = 0.4, 1.0  # mm
WIDER = 1.5  # times the valley

Tell = Callable[[str, float], None]


@dataclass(frozen=True)
class WayOut:
    """Something else that could be done.

    said: what, in the craft's words. job: the job so changed, None for what is done by hand or in another
    construction. stretch, gather: most that the leather would have to give and take up (shares). stretch_limit,
    gather_limit: what it bears there.
    """

    said: str
    job: Job | None
    stretch: float
    stretch_limit: float
    gather: float
    gather_limit: float

    @property
    def load(self) -> float:
        """Share of what the leather bears that is used; at most 1 where it goes."""
        return max(self.stretch / self.stretch_limit, self.gather / self.gather_limit)


def ways_out(job: Job, made: Draft, tell: Tell = lambda said, share: None) -> tuple[WayOut, ...]:
    """What would ease the leather of a formed draft, easiest on it first; the job as it stands is the first of all.

    Every way is drafted, so this takes a second or two; tell is called before each with how far it is, and may stop
    it by raising. Ways that cannot be drafted are left out.
    """
    found = [_measured("As it stands", job, made)]
    tried = list(_others(job, made))
    for k, (said, other) in enumerate(tried):
        tell(said, k / len(tried))
        try:
            tried_out = draft(other)
        except InputError:
            continue
        found.append(_measured(said, other, tried_out))
    found += _by_hand(job, made)
    return (found[0], *sorted(found[1:], key=lambda way: way.load))


def _measured(said: str, job: Job | None, made: Draft) -> WayOut:
    strains = forming.strains(job.settings, made) if job is not None else ()
    if not strains:
        return WayOut(said, job, 0.0, 1.0, 0.0, 1.0)
    worst = max(strains, key=lambda s: float((s.stretch / s.limit).max()))
    at = worst.worst()
    tight = max(strains, key=lambda s: float(s.gather.max()))
    return WayOut(
        said, job, float(worst.stretch[at]), float(worst.limit[at]), float(tight.gather.max()), tight.wrinkles
    )


def _others(job: Job, made: Draft) -> Iterator[tuple[str, Job]]:
    def pinned(**values: float | str) -> Job:
        settings = job.settings
        for key, value in values.items():
            settings = settings.pin(key.replace("__", "."), value)
        return replace(job, settings=settings)

    case = made.shell
    if case is None:
        return
    method = case.moulding.method
    softer = sorted((m for m in METHODS if m != method), key=lambda m: -METHODS[m].valley)
    if method != TAUT:
        for other in softer:
            if METHODS[other].valley > METHODS[method].valley:
                yield f"Mould it with {other}", pinned(mould__method=other)
        yield "Turn into the valley wider by half", pinned(mould__valley=min(case.moulding.valley * WIDER, 6.0))
        yield "Only draw it taut", pinned(mould__method=TAUT)
    if case.leather.thickness - THINNER >= THINNEST:
        thinner = round(case.leather.thickness - THINNER, 2)
        yield f"Leather of {thinner:g} mm", pinned(leather__thickness=thinner)
    turned = job.settings.number("leather.turn")
    yield "Turn the piece a quarter on the hide", pinned(leather__turn=turned - 90.0 if turned > 0 else turned + 90.0)
    if job.style == "flat-back":
        yield "Two panels, each half as deep", replace(job, style="two-panel")


def _by_hand(job: Job, made: Draft) -> list[WayOut]:
    """What takes the fullness away altogether: a dart, and a gusset."""
    if made.plan is None or not isinstance(made.shell, TwoSided):
        return []
    panel = made.formed[0]
    edge = made.plan.cut
    flat = panel.to_flat(edge)
    spare = float(np.hypot(*np.diff(flat, axis=0).T).sum() - np.hypot(*np.diff(edge, axis=0).T).sum())
    deep = made.shell.loft.sections(made.shell.rows)
    depth = float((deep.front + (deep.back if made.shell.flat_back else 0.0)).max())
    bearing = bears(job.settings)
    ways = [
        WayOut(f"Front and a gusset {depth:.0f} mm deep: it only bends", None, 0.0, bearing.across, 0.0, bearing.gather)
    ]
    if spare > 2.0:
        said = f"A dart of {spare / 2:.0f} mm at either corner of the toe takes up the fullness"
        now = _measured("", job, made)
        ways.append(WayOut(said, None, now.stretch, now.stretch_limit, 0.0, now.gather_limit))
    return ways
