"""What stands: the numbers of every demo job, of some more things and of the shop, as somebody last found them right.

python -m tests.standing takes the numbers as they are now, and says of each that moved what it was: look at those, and
why they moved, before they are taken.
"""

from __future__ import annotations

import json
import math
import re
import sys
from collections.abc import Callable, Iterator
from contextlib import ExitStack, contextmanager
from dataclasses import fields, is_dataclass
from datetime import date
from enum import Enum
from functools import partial
from pathlib import Path
from typing import Any
from unittest.mock import patch

import numpy as np

from tailor import demo
from tailor.core.bench.derived import derived
from tailor.core.bench.planner import planned
from tailor.core.bench.rates import Rates
from tailor.core.checks import verdict
from tailor.core.checks.together import verdicts
from tailor.core.draft.draft import Fitted
from tailor.core.draft.flat_goods.built import Built
from tailor.core.draft.views.belted import belted
from tailor.core.draft.views.section import section
from tailor.core.draft.views.upright import upright
from tailor.core.job import Job, draft
from tailor.core.keys import MEASURES
from tailor.core.log.entry import cases
from tailor.core.log.learning import learned
from tailor.core.shop.made import ordered
from tailor.core.shop.needs import needs
from tailor.core.shop.quote import quote
from tailor.core.shop.stock import against, shopping
from tailor.core.together.assembled import Assembled
from tailor.core.together.ridden import sitting
from tailor.demo.log import log
from tailor.demo.shop import shop as of_the_demo
from tailor.files import model, report
from tests.besides import ELSE
from tests.core.test_planned import work
from tests.shared import judged_anew
from tests.things import job_of

STANDS = Path(__file__).with_name("standing.json")
NEAR, SHARE = 2e-3, 2e-4  # mm or whatever it is, and of its size: another machine may be so far off
LONG = 8  # numbers, of which not each is kept but how many there are, and where they lie
NUMBER = re.compile(r"-?\d+\.\d+")
GONE = "not there"
LEFT_OUT = ("stations", "settings", "capture", "files", "rule", "others", "reason", "said", "why", "look", "caution",
            "inputs", "unit", "name", "key", "text", "tools", "uses", "takes", "face", "marks")  # fmt: skip

CHECKS = "tailor.core.checks."
DRAFTED = ("plan", "inner", "profile", "carriage", "lying", "hardware", "rounds", "shuts", "rings", "hang", "rows")

LADEN = {"loop.landing": "sewn", "loop.foot": "snap 10", "keeper.way": "over", "keeper.button": "snap 10",
         "seam.rivets": "rapid rivet 7", "belt.width": "30mm", "belt.thickness": "3mm", "mouth.y": "170mm"}  # fmt: skip


SETTLED = (  # so that rules hold that no demo job needs
    "peg-tray; stitch.holes=needle; stitch.marks=all; patch.on=tray; patch.kind=bellows pocket; patch.flap=snap 10",
    "peg-tray; corner.made=slit",
    "spar-hook; keeper.way=round; mould.margin=5.75",
    "spar-hook; seam.pitch=3.4; stitch.count=any; seam.margin=6.51; patch.on=back blank; patch.kind=reinforcement",
    "spar-hook; back.above=0; patch.on=back blank; patch.kind=pocket; patch.flap=snap 10; patch.up=7.7",
    "shearing-blade; mould.method=fingers; mouth.y=291",
    "radio; seam.margin=3.74; stitch.wrap=yes; patch.on=back blank; patch.kind=moulded pocket; patch.up=-10",
    "ridge-bag; stitch.method=running; inside.up=218.5; patch.on=gusset; patch.kind=gusseted pocket",
    "stapler; slots.web=11.96; mould.where=hollows; patch.on=front; patch.kind=puckered pocket; patch.flap=snap 10",
    "shears; seam.standoff=4.63; seam.lanyard=none; stitch.back=2.3; patch.on=front blank; patch.kind=loop",
    "crew-cards; stitch.method=machine; pocket.step=10.35",
    "crew-cards; leather.turn=0; pocket.thickness=0.94; patch.on=pocket 2; patch.kind=ring tab; patch.across=5.9",
    "kit-bag; stitch.thread=0.74; bottom.made=laminated",
    "leggett; seam.hole=1.47; seam.first_hole=5.89; patch.on=front; patch.kind=strap; patch.up=-3.5",
    "laser-level; handle.kind=wrapped; stitch.thread=0.74",
    "laser-level; leather.temper=soft",
    "leggett; loop.landing=dangler",
    "leggett; loop.landing=handle",
    "eaves-blade; loop.landing=ear",
    "eaves-blade; loop.landing=clip",
    "eaves-blade; flap.closing=plain",
    "eaves-blade; keeper.way=round",
    "eaves-blade; stitch.method=machine",
    "radio; mould.method=boards",
    "radio; flap.closing=plain",
    "whetstone; flap.closing=plain",
    "whetstone; pull.tab=under",
    "kit-bag; stitch.method=machine",
    "shears; mould.where=hollows",
    "site-book; stitch.holes=punched",
    "twine-spool; gusset.flange=in",
    "peg-tray; leather.neutral=0.54; leather.fold_radius=0.54; stitch.method=awl; board.thickness=2.14",
    "peg-tray; wall.height=34.24; inside.across=160.5; patch.on=tray; patch.kind=bellows pocket; patch.flap=plain",
    "peg-tray; patch.on=tray; patch.kind=bellows pocket; patch.width=60; patch.height=50; patch.pleat=12",
    "shearing-blade; fit.edge=2.14; fit.point=3.21; fit.control=5.35; leather.stretch_along=0.11; leather.gather=0.09",
    "shearing-blade; stitch.method=whip; fit.approach=37.45; seam.fold_hole=5.27; loop.thickness=2.68; loop.deep=4.82",
    "shearing-blade; carry.side=cross; leather.density=1.02",
    "stapler; leather.stretch_across=0.17; stitch.method=lacing; fit.toe=21.4; back.tab=8; seam.toe=31.12",
    "stapler; seam.fairing=0.13; mouth.relief=5.35; slots.play=1.6; slots.length=44.51; slots.width=5.35",
    "stapler; holster.made=folded",
    "stapler; patch.on=front; patch.kind=puckered pocket; patch.fullness=0.6; patch.width=40",
    "eaves-blade; stitch.method=baseball; fold.uneven=0.5; welt.layers=2; welt.thickness=3.21; welt.width=12.84",
    "eaves-blade; loop.rise=7.49; welt.proud=3.21; welt.skive=0.54",
    "eaves-blade; keeper.way=round; keeper.width=22; keeper.at=205; keeper.overlap=34; keeper.tab=12",
    "site-book; stitch.holes=iron; cover.edge=3.42; strap.thickness=1.93; pocket.depth=83.51",
    "site-book; tool.setback=6.85; tool.clear=3.21; tool.round=4.28",
    "old-pouch; stitch.holes=chisel; panel.traced=stitch",
    "shears; mould.valley=1.07; mould.stretch=0.02; mould.end=0.5; stitch.holes=drill; loop.corner=4.28",
    "shears; stamp.width=14; stamp.height=12.84",
    "kit-bag; stitch.marks=front; under.ring=none; panel.corner=27.82; rim.bar=8",
    "kit-bag; stitch.method=machine; stitch.bed=cylinder",
    "ridge-bag; stitch.count=odd; gusset.ease=0.01; zip.width=21.4",
    "ridge-bag; patch.on=gusset; patch.kind=gusseted pocket; patch.depth=22; patch.height=60",
    "ridge-bag; patch.on=front; patch.kind=pocket; patch2.on=back; patch2.kind=gusseted pocket; patch2.depth=20",
    "spar-hook; stitch.wrap=no; seam.stitch_inset=5.35",
    "delivery-notes; fold.space=7.7; lining.thickness=0.86; lining.feather=3.21",
    "whetstone; notch.radius=11.77; panel.give=0.02",
    "whetstone; panel.loop=170",
    "twine-spool; strap.reach=160.5; strap.pad=12",
    "spar-bag; divider.count=1; divider.height=218.28; handle.kind=none; roll.turns=1; corner.dart=90",
    "spar-bag; roll.turns=2; roll.closing=none; corner.boxed=left",
    "leggett; tie.length=329.9",
    "marking-gauge; flap.reach=71.16; tools.apart=6.42",
    "laser-level; handle.reach=139.1; gusset.thickness=2.35",
    "laser-level; stitch.method=machine; stitch.bed=post",
    "radio; patch.on=back blank; patch.kind=loop; patch.tool=20; flap.closing=plain; flap.width=48",
)


def _typed(name: str, **pinned: str) -> Job:
    job = demo.job(name)
    for key, value in pinned.items():
        job = job.typed(key, value)
    return job


def settled(said: str, job: Job | None = None) -> Job:
    """A demo job, or the one given, with what is said to be pinned in it: name; key=value; …"""
    name, *pinned = said.split("; ")
    job = job or demo.job(name)
    for each in pinned:
        job = job.typed(*each.split("="))
    return job


SHOP, DAY = "the shop", date(2026, 5, 4)
JOBS: dict[str, Callable[[], Job]] = {
    **{name: partial(demo.job, name) for name in demo.names()},
    **{said: partial(settled, said) for said in SETTLED},
    "eaves-blade, laden": partial(_typed, "eaves-blade", **LADEN),
    "radio, left, in two panels": partial(_typed, "radio", hand="left", style="two-panel"),
    "shears, moulded by fingers": partial(_typed, "shears", **{"mould.method": "fingers"}),
    "thing 1, folded": partial(job_of, 1, "folded-sheath"),
    "thing 8, taut": partial(job_of, 8, "two-panel", mould__method="taut"),
    "thing 13, flat back": partial(job_of, 13, "flat-back"),
    "thing 15, gusset": partial(job_of, 15, "gusseted-box"),
}


EVERY = (*JOBS, SHOP, *ELSE)


def _shop() -> dict[str, Any]:
    """What the crew's orders need and cost, what its log teaches, and a plan not searched for long."""
    shop = of_the_demo(DAY)
    told: dict[str, Any] = {"plan": planned(work(3), plans=3, seconds=None)[0]}
    for order in shop.orders:
        things = ordered(order)
        told[order.id] = {
            "quote": quote(things, shop.sorts, shop.stock, shop.terms, shop.rates).items,
            "buy": [str(each) for each in shopping(against(needs(things), shop.stock))],
        }
    told["learned"] = learned(*cases(log(DAY)))
    return told


def numbers(name: str) -> dict[str, float | str]:
    """What a job comes to: its draft and ledger, put together, cut through, and the work it makes, by where each number
    is found; or the shop, or what stands besides.
    """
    if name == SHOP:
        return dict(_flat(_shop(), ""))
    if name in ELSE:
        return dict(_flat(dict(ELSE[name]()), ""))
    job = JOBS[name]()
    made = draft(job)
    plain = made.unmarked()
    whole = Assembled(plain)
    sat, steps = sitting(job.settings, plain, whole), derived(plain, Rates())
    with turning() as turns:
        ledger = judged_anew(job, made)
    told: dict[str, Any] = {
        "turns": turns,
        "report": report.report(job, made, ledger),
        "remedies": {f"{n} {v.name}": f"{v.remedies} or {v.together}" for n, v in enumerate(ledger)},
        "measures": " ".join(name for name, each in MEASURES.items() if each.applies(job, made)),
        "together": model.told(whole, list(verdicts(job.settings, plain, whole)), sat),
        "steps": {doing.key: doing for doing in steps.doings},
        "waits": {f"{each.before} > {each.after}": (each.least, each.most) for each in steps.follows if each.least},
    }
    told["drafted"] = {name: getattr(plain, name) for name in DRAFTED}
    told["claims"] = {f"{n} {each.name}": (each.value, each.limit, each.bare) for n, each in enumerate(plain.claims)}
    told["written"] = {piece.name: [(m.x, m.y, m.angle) for m in piece.marks] for piece in made.pieces}
    if isinstance(made, Built):
        told["tied"] = made.tied
    if isinstance(made, Fitted):
        told["views"] = [belted(made, job.settings), upright(made, job.settings)]
        told["cut"] = section(made, made.shell.loft.tip + 40.0, made.shell.clearance)
    return dict(_flat(told, ""))


@contextmanager
def turning() -> Iterator[dict[str, tuple[float, float]]]:
    """What verdicts turn at while something is judged: up to where they hold, and beyond where they stop."""
    found = dict[str, tuple[float, float]]()
    rooms = [room for name, room in sys.modules.items() if name.startswith(CHECKS) and name != verdict.__name__]

    def noted(room: str, rules: Callable[[float, float, float], verdict.Ruling]) -> Callable[..., verdict.Ruling]:
        def rule(value: float, good: float, bare: float) -> verdict.Ruling:
            found[f"{len(found)} {room.removeprefix(CHECKS)}"] = good, bare
            return rules(value, good, bare)

        return rule

    with ExitStack() as stack:
        for room in rooms:
            for rule in ("at_least", "at_most"):
                if hasattr(room, rule):
                    stack.enter_context(patch.object(room, rule, noted(room.__name__, getattr(verdict, rule))))
        yield found


def _flat(value: object, at: str) -> Iterator[tuple[str, float | str]]:
    if isinstance(value, Enum):
        yield at, str(value)
    elif is_dataclass(value) and not isinstance(value, type):
        yield from _flat({each.name: getattr(value, each.name) for each in fields(value)}, at)
    elif isinstance(value, dict):
        for key, each in value.items():
            if key not in LEFT_OUT:
                yield from _flat(each, f"{at}/{key}" if at else str(key))
    elif isinstance(value, bool | str):
        yield at, str(value)
    elif isinstance(value, int | float | np.number):
        yield at, round(float(value), 4) + 0.0 if math.isfinite(value) else str(value)
    elif isinstance(value, list | tuple | np.ndarray):
        yield from _row(value, at)


def _row(value: Any, at: str) -> Iterator[tuple[str, float | str]]:
    try:
        every = np.array(value, dtype=float)
    except (TypeError, ValueError):
        every = np.empty(0)
    if every.size > LONG and every.ndim <= 2:
        table = every.reshape(len(every), -1)
        for k, column in enumerate(table.T):
            yield f"{at}/column {k}", _spread(column)
    elif len(value) > LONG and all(isinstance(each, dict) and not each.keys() & {"name", "piece"} for each in value):
        for key in value[0]:
            column = [each.get(key) for each in value]
            told = all(isinstance(each, int | float) for each in column)
            yield f"{at}/{key}", _spread(np.array(column)) if told else " ".join(sorted({str(each) for each in column}))
    else:
        names = [each.get("name", each.get("piece")) if isinstance(each, dict) else None for each in value]
        if all(names):
            yield f"{at}/in order", ", ".join(map(str, names))
        for k, (name, each) in enumerate(zip(names, value, strict=True)):
            yield from _flat(each, f"{at}/{name or k}")


def _spread(column: np.ndarray) -> str:
    """How many numbers there are, the least and the most, and what they come to together."""
    return f"{len(column)}: {column.min():.3f} to {column.max():.3f}, {column.sum():.3f}"


def moved(was: dict[str, float | str], now: dict[str, float | str], near: float = NEAR) -> list[str]:
    """Where numbers are no longer as they stand, by more than is near, and what they were and are."""
    found = []
    for at in sorted(was.keys() | now.keys()):
        one, other = was.get(at, ""), now.get(at, "")
        told, tells = (NUMBER.findall(str(each)) for each in (one, other))
        alike = len(told) == len(tells) and NUMBER.sub("", str(one)) == NUMBER.sub("", str(other))
        if not alike or any(
            abs(a - b) > near + SHARE * abs(a) for a, b in zip(map(float, told), map(float, tells), strict=True)
        ):
            found.append(f"{at}: {one} -> {other}")
    return found


def main() -> None:
    """Take the numbers as they are now."""
    was = {name: stands(name) for name in json.loads(STANDS.read_text())} if STANDS.exists() else {}
    now = {name: numbers(name) for name in EVERY}
    for name, found in now.items():
        for line in moved(was.get(name, {}), found) if name in was else ():
            print(f"{name}: {line}")
    kept = dict[str, dict[str, float | str]]()
    for name, found in now.items():
        stood = was.get(name, {})
        kept[name] = {at: stood[at] if at in stood and not moved({at: stood[at]}, {at: value}) else value
                      for at, value in found.items()}  # fmt: skip
    nested: dict[str, Any] = {}
    for name, found in kept.items():
        base = kept.get(_base(name), {})
        own = {at: value for at, value in found.items() if at not in base or moved({at: base[at]}, {at: value})}
        for at, value in {**own, **{at: GONE for at in base if at not in found}}.items():
            *rooms, last = (name, *at.split("/"))
            room = nested
            for each in rooms:
                room = room.setdefault(each, {})
            room[last] = value
    STANDS.write_text(json.dumps(nested, indent=0, ensure_ascii=False, separators=(",", ":")) + "\n")


def stands(name: str) -> dict[str, float | str]:
    """What a job came to when somebody last looked."""
    every = json.loads(STANDS.read_text())
    found = dict(_opened(every.get(_base(name), {}), ""))
    found.update(_opened(every[name], ""))
    return {at: value for at, value in found.items() if value != GONE}


def _base(name: str) -> str:
    """The demo job that one with something settled is kept by what it is otherwise than."""
    return name.split("; ")[0] if "; " in name else ""


def _opened(value: Any, at: str) -> Iterator[tuple[str, float | str]]:
    if isinstance(value, dict):
        for key, each in value.items():
            yield from _opened(each, f"{at}/{key}" if at else key)
    else:
        yield at, value


if __name__ == "__main__":
    main()
