"""Job: what a file holds; draft(job) and judge(job, draft): what desk, command line and tests share."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from types import MappingProxyType

from tailor.core.carried.loft import Loft
from tailor.core.carried.stations import Station, Table
from tailor.core.carried.zones import Zone
from tailor.core.checks import carry, fit, sewing
from tailor.core.checks.verdict import Ruling, Verdict
from tailor.core.draft import styles
from tailor.core.draft.draft import Draft
from tailor.core.draft.styles import folded_sheath
from tailor.core.errors import InputError
from tailor.core.settings import Settings
from tailor.core.units import System

STYLES: Mapping[str, Callable[[Settings, Loft, Sequence[Zone]], Draft]] = MappingProxyType(
    {styles.FOLDED_SHEATH: folded_sheath.draft}
)
LONGEST_NAME = 120


@dataclass(frozen=True)
class Job:
    """One thing to be made: what is carried, how, and what the maker has settled.

    stations are checked and in rising y. units is how the maker reads lengths; everything is kept in mm.
    """

    name: str
    style: str
    stations: tuple[Station, ...]
    zones: tuple[Zone, ...] = ()
    settings: Settings = field(default_factory=Settings)
    units: System = System.MM

    def __post_init__(self) -> None:
        if self.style not in STYLES:
            raise InputError(f"'{self.style}' is not a construction", "style", f"give {' or '.join(STYLES)}")
        if not self.name.strip() or len(self.name) > LONGEST_NAME:
            raise InputError("the job has no usable name", "name", f"give one of 1 to {LONGEST_NAME} letters")

    @property
    def loft(self) -> Loft:
        return Loft(self.stations)

    def typed(self, key: str, text: str) -> Job:
        """With what the maker typed for a setting, or `auto`. Raises InputError naming the key."""
        return replace(self, settings=self.settings.typed(key, text, self.units))

    def measured(self, table: Table) -> Job:
        """With another station table; its zones replace the job's where it has any."""
        return replace(self, stations=table.stations, zones=table.zones or self.zones)


def draft(job: Job) -> Draft:
    """Draft a job. Pure: the same job gives the same draft. Raises InputError where it cannot be made."""
    return STYLES[job.style](job.settings, job.loft, job.zones)


def judge(job: Job, made: Draft) -> tuple[Verdict, ...]:
    """What an experienced maker would say of a draft, gravest first."""
    said = [
        *fit.verdicts(job.settings, job.loft, job.zones, made),
        *sewing.verdicts(job.settings, made),
        *carry.verdicts(job.settings, made),
    ]
    grave = list(Ruling)[::-1]
    return tuple(sorted(said, key=lambda v: grave.index(v.ruling)))
