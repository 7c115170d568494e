"""Order: how the pieces of a case come together, one after the other, and what holds each."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
import scipy

from tailor.core.draft.piece import LAID_IN, Role
from tailor.core.placed.lies import Laid
from tailor.core.together.assembled import Assembled

FEW = 12  # holes, that a seam has more of which goes round
NEXT = 2.5  # times the usual way from hole to hole, within which a seam that ends beside its beginning goes round


@dataclass(frozen=True)
class Step:
    """One piece that comes to those that are together. seams: by which it is held to them. first: nothing was there.

    on: what it is glued on, where it is not sewn. host: what it is put on while that lies flat, and comes later.
    """

    piece: str
    seams: tuple[str, ...]
    first: bool
    on: str = ""
    host: str = ""

    def __str__(self) -> str:
        glued = f"glued on the {self.on}" if self.on else "laid in"
        how = "formed" if self.first else ", ".join(self.seams) or glued
        said = f"{self.piece}: {how}{self.host and f', while the {self.host} lies flat'}"
        return said[0].upper() + said[1:]


def ordered(whole: Assembled) -> tuple[Step, ...]:
    """Pieces as they come together: the largest of leather that others hang on first; of those that are held to what
    there is, what hangs on one piece of it alone before what closes, the nearest to that first; what nothing holds
    before that closes. What hangs on a piece that comes later is put on that before.
    """
    lies = whole.lies
    areas = {name: round(p.area) for name, p in whole.pieces.items()}  # mm²: pieces that are alike are as large
    left = {name: areas[name] for name, p in whole.pieces.items() if name in lies and p.role is not Role.TEMPLATE}
    joins = joined(whole, left)
    glued = {
        name: under
        for name in left
        for under in left
        if not joins[name] and isinstance(lie := lies[name], Laid) and lie.on is lies[under]
    }
    swings, twice, rings = swinging(whole, left), _twice(whole), _rings(whole)
    seats = {on for held in joins.values() if len(held) == 1 for on in held}
    for name in swings:
        del left[name]
    steps, there, closing = list[Step](), set[str](), set[str]()
    while left:
        able = [name for name in left if there & joins[name].keys() or glued.get(name) in there]
        if able:
            hung = {name: _hung(joins, there, name) for name in able}
            sizes = {name: sum(left[each] for each in with_it) for name, (with_it, _) in hung.items()}
            main = {name for name in able if len(hung[name][0]) > 1 and 2 * sizes[name] > sum(left.values())}
            shuts = {name for name in able if len(hung[name][1]) > 1 or _shuts(joins, twice, rings, there, name)}
            chosen = min(able, key=lambda name: (
                name in shuts, name in main, whole.pieces[name].role is not Role.WELT,  # most of it, which closes
                0.0 if name in main else _stands(whole, name, hung[name][1]), len(joins[name]) > 1, -left[name],
            ))  # fmt: skip
            closing |= {chosen} & (main | shuts)
        else:
            chosen = max(left, key=lambda name: (
                whole.pieces[name].leather not in LAID_IN, not there and name in seats, left[name],
            ))  # fmt: skip
        by = [seam for other, seams in joins[chosen].items() if other in there for seam in sorted(seams)]
        steps.append(Step(chosen, tuple(dict.fromkeys(by)), not there, glued.get(chosen, "")))
        there.add(chosen)
        del left[chosen]
    loose = [step for step in steps if not (step.seams or step.on or step.first)]
    kept = [step for step in steps if step not in loose]
    closes = max((k for k, step in enumerate(kept) if step.piece in closing), default=max(len(kept) - 1, 1))
    last = [Step(name, by, False) for name, by in swings.items()]
    return (*_hosted([*kept[:closes], *loose, *kept[closes:]], joins, areas), *last)


def _hosted(
    steps: Sequence[Step], joins: Mapping[str, Mapping[str, set[str]]], areas: Mapping[str, float]
) -> list[Step]:
    """Steps with what hangs together on one larger piece alone put on that before it comes to the others."""
    links = {step.piece: {*joins[step.piece], *([step.on] if step.on else [])} for step in steps}
    for step in steps:
        if step.on:
            links[step.on].add(step.piece)
    host = dict[str, str]()
    for k, step in enumerate(steps[1:], 1):
        if step.piece in host:
            continue  # it goes with another
        for other in steps[k + 1 :]:
            group = _about(links, other.piece, step.piece)
            alone = steps[0].piece not in group and any(step.piece in links[name] for name in group)
            if alone and sum(areas[name] for name in group) < areas[step.piece]:
                host.setdefault(other.piece, step.piece)
    own = {step.piece: [each for each in steps if host.get(each.piece) == step.piece] for step in steps}
    return [
        each for step in steps if step.piece not in host
        for each in (*(replace(rider, host=step.piece) for rider in own[step.piece]), step)
    ]  # fmt: skip


def _about(links: Mapping[str, set[str]], piece: str, without: str) -> set[str]:
    """A piece with all that hangs together with it, but for what hangs by another."""
    found, next_ = set[str](), [piece]
    while next_:
        if (one := next_.pop()) not in found:
            found.add(one)
            next_ += links[one] - found - {without}
    return found


def _rings(whole: Assembled) -> set[str]:
    """The seams that go round and come back to where they began, as that of a bottom does."""
    found = set[str]()
    for seam in whole.draft.seams:
        at = np.array([met.at for met in whole.seams if met.name == seam.name])
        away = np.linalg.norm(np.diff(at, axis=0), axis=1) if len(at) > 1 else np.zeros(1)
        if len(at) > FEW and np.linalg.norm(at[-1] - at[0]) < NEXT * np.median(away):
            found.add(seam.name)
    return found


def swinging(whole: Assembled, names: Collection[str]) -> dict[str, tuple[str, ...]]:
    """Pieces that go through rings or slots of others, which comes last, and by what."""
    found = dict[str, tuple[str, ...]]()
    rings = [(ring.through, ring.name) for ring in whole.draft.rings]
    drawn = [(name, f"drawn through the {other}") for name, other in whole.draft.drawn]
    for name, by in (*rings, *drawn):
        if name in names:
            found[name] = (*found.get(name, ()), by)
    return found


def _twice(whole: Assembled) -> dict[str, set[str]]:
    """Of each piece, the seams that go through it at two of its edges."""
    found = dict[str, set[str]]()
    for name, piece in whole.pieces.items():
        edges: dict[str, set[str]] = {}
        for hole in piece.holes:
            edges.setdefault(hole.seam, set()).add(hole.edge)
        found[name] = {seam for seam, sides in edges.items() if len(sides) > 1}
    return found


def _shuts(
    joins: Mapping[str, Mapping[str, set[str]]], twice: Mapping[str, set[str]], rings: set[str], there: set[str],
    name: str,
) -> bool:  # fmt: skip
    """Whether what holds a piece to what is there shuts a piece of that upon itself, or goes all round it."""
    return any(seams & (twice[other] | rings) for other, seams in joins[name].items() if other in there)


def _hung(joins: dict[str, dict[str, set[str]]], there: set[str], name: str) -> tuple[set[str], set[str]]:
    """A piece with all that hangs together with it besides what is there, and on which pieces of that they hang."""
    found, on, next_ = set[str](), set[str](), [name]
    while next_:
        if (one := next_.pop()) not in found:
            found.add(one)
            on |= joins[one].keys() & there
            next_ += joins[one].keys() - there - found
    return found, on


def _stands(whole: Assembled, name: str, on: Collection[str]) -> float:
    """How far out a piece stands from the faces of those it hangs on, in the mean, to a tenth of a mm."""
    at, bases = whole.skins[name].placed.at, [whole.skins[each].placed for each in on]
    if not bases:
        return 0.0
    under, out = np.vstack([base.at for base in bases]), np.vstack([base.out for base in bases])
    nearest = scipy.spatial.cKDTree(under).query(at)[1]
    return round(float(np.abs(((at - under[nearest]) * out[nearest]).sum(axis=1)).mean()), 1)


def joined(whole: Assembled, names: Collection[str]) -> dict[str, dict[str, set[str]]]:
    """What each of some pieces is held to, and by which seams and fastenings."""
    joins: dict[str, dict[str, set[str]]] = {name: {} for name in names}
    blanks = tuple(name for name, piece in whole.pieces.items() if piece.role is Role.BLANK)
    for seam in whole.draft.seams:  # a blank has the holes of its template once it is formed
        cut = [name for name in seam.pieces if whole.pieces[name].role is not Role.TEMPLATE]
        _join(joins, seam.name, (*cut, *(blanks if len(cut) < len(seam.pieces) else ())))
    for met in whole.fastened:
        _join(joins, met.name, met.names)
    return joins


def _join(joins: dict[str, dict[str, set[str]]], name: str, pieces: Sequence[str]) -> None:
    for one in pieces:
        for other in pieces:
            if one != other and one in joins and other in joins:
                joins[one].setdefault(other, set()).add(name)
