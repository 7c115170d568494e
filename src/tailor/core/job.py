"""Job: what a file holds; draft(job) and judge(job, draft): what desk, command line and tests share."""

from __future__ import annotations

import itertools
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import lru_cache
from types import MappingProxyType

from tailor.core import incoming
from tailor.core.carried.capture import Capture, Way
from tailor.core.carried.loft import Array, Loft
from tailor.core.carried.stations import Station, Table
from tailor.core.carried.traced import Sewn, Traced, panel_of
from tailor.core.carried.zones import Zone
from tailor.core.carried.zones import checked as every_zone
from tailor.core.checks import (
    added,
    fastened,
    measured,
    together,
)  # fmt: skip
from tailor.core.checks import (
    tooled as tooled_checks,
)
from tailor.core.checks.kinds import of_its_kind
from tailor.core.checks.verdict import Ruling, Verdict
from tailor.core.corrections import Correction
from tailor.core.draft import styles
from tailor.core.draft.draft import Draft
from tailor.core.draft.parts import with_parts
from tailor.core.draft.parts.attached import attached
from tailor.core.draft.stitch.sewn import as_marked
from tailor.core.draft.style import Order
from tailor.core.draft.tooled import asked as tooling
from tailor.core.draft.tooled.put import tooled
from tailor.core.draft.worn.hang import hung
from tailor.core.errors import InputError
from tailor.core.keys import KEYS
from tailor.core.leather.stitching import METHODS
from tailor.core.maker import Maker
from tailor.core.measure import STYLE, Kind
from tailor.core.settings import Settings
from tailor.core.together.assembled import Assembled
from tailor.core.units import System

TAKEN_OVER = "from-an-old-one"


@dataclass(frozen=True)
class Job:
    """One thing to be made: what is carried, how, and what the maker has settled.

    stations are checked and in rising y. traced: panels of a carrier already made. tooling: what is put on its leather.
    units is how the maker reads lengths; everything is kept in mm.
    """

    name: str
    style: str
    stations: tuple[Station, ...]
    zones: tuple[Zone, ...] = ()
    settings: Settings = field(default_factory=Settings)
    units: System = System.MM
    capture: Capture = field(default_factory=lambda: Capture.usual(Way.CALIPER))
    traced: Traced = field(default_factory=Traced)
    tooling: tuple[tooling.Asked, ...] = ()

    def __post_init__(self) -> None:
        if self.style not in styles.names():
            raise InputError(f"'{self.style}' is not a construction", "style", f"give {' or '.join(styles.names())}")
        incoming.named(self.name, "name")
        every_zone(self.zones)
        tooling.checked(self.tooling)
        style = styles.style(self.style)
        usual = {**style.usual, **style.beside(self.settings, self.stations)}
        if self.settings.usual != usual or self.settings.style != self.style:
            object.__setattr__(self, "settings", replace(self.settings, usual=usual, style=self.style))

    @property
    def loft(self) -> Loft:
        return _loft(self.stations)

    def by(self, maker: Maker) -> Job:
        """The job as one maker works it."""
        return replace(self, settings=replace(self.settings, maker=maker))

    def begun_by(self, maker: Maker) -> Job:
        """The job as one maker begins it, by all that he has learned."""
        return replace(self, settings=replace(self.settings, maker=maker, taken=maker.taken))

    def typed(self, key: str, text: str) -> Job:
        """With what the maker typed for a setting or what is tooled, or `auto`; or of another construction (`style`).

        Raises InputError naming the key.
        """
        if key == STYLE:
            return replace(self, style=text.strip())
        if key.startswith("tooling."):
            return replace(self, tooling=tooling.typed(self.tooling, key, text, self.units))
        return replace(self, settings=self.settings.typed(key, text, self.units))

    def measured(self, table: Table) -> Job:
        """With another station table; its zones replace the job's where it has any."""
        settings = self.settings.pin("object.sharp", "none") if table.blunt else self.settings
        return replace(
            self,
            settings=settings,
            stations=table.stations,
            zones=table.zones or self.zones,
            capture=table.capture or Capture.usual(Way.CALIPER),
        )

    def taken_over(self, outlines: Sequence[Array], names: Sequence[str] = ()) -> Job:
        """With more panels of a carrier already made, as traced, and made from them. Raises InputError."""
        found, taken = list(self.traced.panels), {p.name for p in self.traced.panels}
        spare = (f"panel {n}" for n in itertools.count(1) if f"panel {n}" not in taken)
        called = itertools.chain(names, spare)
        for outline in outlines:
            found.append(panel_of(next(called), outline))
        return replace(self, style=TAKEN_OVER, traced=replace(self.traced, panels=tuple(found)))

    def sewn(self, name: str, edges: Sequence[str]) -> Job:
        """With one more seam between traced panels; with none of its edges, where it was there already."""
        others = tuple(seam for seam in self.traced.seams if seam.name != name)
        seams = (*others, Sewn(name, tuple(edges))) if edges else others
        return replace(self, traced=replace(self.traced, seams=seams))

    def corrected(self, correction: Correction) -> Job:
        """With one more correction."""
        return replace(self, settings=replace(self.settings, corrections=(*self.settings.corrections, correction)))

    def uncorrected(self, number: int) -> Job:
        """Without one of its corrections, by its place among them."""
        kept = tuple(c for k, c in enumerate(self.settings.corrections) if k != number)
        return replace(self, settings=replace(self.settings, corrections=kept))


@lru_cache(maxsize=8)
def _loft(stations: tuple[Station, ...]) -> Loft:
    return Loft(stations)


MOCK_UPS: Mapping[str, float | None] = MappingProxyType({"card": 0.4, "foam": None})  # mm; None: the leather's own


def mocked(job: Job, made: Draft, material: str) -> Job:
    """The job to draft for a mock-up: the same lines as made, wrapped in card or in foam as thick as the leather.

    Every measure that was worked out for the leather is held, so that what is tried is the case itself; nothing
    is cut proud. Raises InputError for another material.
    """
    if material not in MOCK_UPS:
        raise InputError(f"'{material}' is not for mock-ups", "mock-up", f"give {' or '.join(MOCK_UPS)}")
    held = {
        name: KEYS[name].checked(reason.value)
        for name, reason in made.reasons.items()
        if name in KEYS and KEYS[name].kind is not Kind.CHOICE and name not in ("seam.standoff", "welt.width")
    }
    thick = MOCK_UPS[material]
    pinned = {**job.settings.pinned, **held, "welt.proud": 0.0}
    if thick is not None:
        pinned |= {"leather.thickness": thick, "leather.fold_radius": 0.5}
    name = f"{job.name[: incoming.NAME - 20]} (mock-up in {material})"
    pinned.pop("welt.width", None)
    return replace(job, name=name, settings=replace(job.settings, pinned=pinned))


def draft(job: Job, before: Draft | None = None, rough: bool = False) -> Draft:
    """Draft a job. Pure: the same job gives the same draft. Raises InputError where it cannot be made.

    before: the draft of a job much like it, from which the flattening sets out; it ends where it would have ended
    anyhow, only sooner. rough: on wider grids, for a glance while a measure is in hand.
    """
    settings = job.settings.afresh()
    made = styles.style(job.style).draft(Order(settings, job.loft, job.zones, before, rough, job.traced))
    made = hung(attached(settings, with_parts(made, settings)), settings)
    made = tooled(settings, job.tooling, replace(made, rough=rough))
    turn = settings.number("leather.turn")
    whole = tuple(replace(p, grain=turn) if p.leather == "body" else p for p in made.pieces)
    made = _handed(settings, replace(made, pieces=as_marked(settings, whole, made.seams), whole=whole))
    machine = METHODS[settings.word("stitch.method")].machine
    made = replace(made, bed=settings.word("stitch.bed") if machine else "")
    return replace(made, consulted=frozenset(settings.asked))


def _handed(settings: Settings, made: Draft) -> Draft:
    """The draft for the hand that draws: for the left, every piece mirrored."""
    if settings.word("hand") == "right":
        return made
    return replace(made, pieces=tuple(p.mirrored() for p in made.pieces), mirrored=True)


def judge(job: Job, made: Draft) -> tuple[Verdict, ...]:
    """What an experienced maker would say of a draft, gravest first."""
    settings, made = job.settings, made.unmarked()
    whole = None if made.rough else Assembled(made)
    said = [
        *fastened.verdicts(settings, made),
        *added.verdicts(settings, made),
        *tooled_checks.verdicts(settings, made),
        *together.verdicts(settings, made, whole),
        measured.verdict(settings, job.capture, job.loft),
        *measured.known(settings, made),
        *of_its_kind(made, settings, job.loft, job.zones, whole),
    ]
    grave = list(Ruling)[::-1]
    return tuple(sorted(said, key=lambda v: grave.index(v.ruling)))
