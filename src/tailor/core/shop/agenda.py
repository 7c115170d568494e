"""What the planning process is asked, and what it answers: values that load nothing slow."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import date, datetime
from enum import StrEnum

from tailor.core.bench.work import Plan
from tailor.core.carried.loft import Array
from tailor.core.maker import Maker
from tailor.core.shop.shop import Shop
from tailor.core.shop.workload import Workload


class Way(StrEnum):
    """How it is planned anew."""

    ORDER = "as it was"  # the steps in the order they had
    FEW = "few moves"  # as few steps as can be at another time
    ANEW = "anew"  # whatever is best from here on


@dataclass(frozen=True)
class Wanted:
    """The orders of a shop in the hours from now on, for so many seconds of work. before: how it was planned,
    and counted: the Monday that its minutes are counted from.

    sooner: the id of an order, where it is only asked what would make that ready sooner.
    closing: a line, where only pictures of it are asked for, as it closes; dyes: of them.
    """

    shop: Shop
    maker: Maker
    now: datetime
    before: Plan | None = None
    counted: date | None = None
    seconds: float = 3.0
    sooner: str = ""
    closing: str = ""
    dyes: Mapping[str, tuple[int, int, int]] = field(default_factory=dict)


@dataclass(frozen=True)
class Seen:
    """A piece as it lies on the board: outline (n, 2), openings, and of each place on it dots (n, 2) or lines."""

    name: str
    ring: Array
    openings: tuple[Array, ...] = ()
    dots: Mapping[str, Array] = field(default_factory=dict)
    lines: Mapping[str, tuple[Array, ...]] = field(default_factory=dict)


@dataclass(frozen=True)
class Drafting:
    """How far it is with drafting what was ordered."""

    said: str


@dataclass(frozen=True)
class Agenda:
    """What is to be done. seen: the pieces of each line, by its order and mark. refused: what could not be drafted."""

    load: Workload
    seen: Mapping[str, tuple[Seen, ...]]
    refused: tuple[str, ...] = ()


@dataclass(frozen=True)
class Planned:
    """A plan, the best so far of its way. moved: how many steps are at another time than they were."""

    way: Way
    plan: Plan
    moved: int = 0


@dataclass(frozen=True)
class Sure:
    """How likely each order is ready by its date, by the plan made in a way: shares by the order's id."""

    way: Way
    shares: Mapping[str, float]


@dataclass(frozen=True)
class Sooner:
    """When an order is ready if something were otherwise, in words; None where it could not be done at all."""

    order: str
    said: str
    ready: datetime | None


@dataclass(frozen=True)
class Closed:
    """Pictures of a line's thing as it closes, by which pieces are together: packed RGBA, and its width and height."""

    line: str
    pictures: Mapping[tuple[str, ...], bytes]
    size: tuple[int, int]


@dataclass(frozen=True)
class NoPlan:
    """Why there is no plan."""

    said: str


Answer = Drafting | Agenda | Planned | Sure | Sooner | Closed | NoPlan
