"""The steps that a draft asks for, from marking to the last wax, and what must come before what.

Nothing is a list: what is sewn while it lies flat, what closes the case, which edges are out of reach once it is
closed, which hardware wants an anvil inside, what is moulded and must dry, follow from the draft. Minutes are counted
on it, as labour is. Source: craft, "The order of work".
"""

from __future__ import annotations

import itertools
from collections.abc import Collection, Iterable, Sequence

import numpy as np
import shapely

from tailor.core.bench import finishing, seamwork, supplies
from tailor.core.bench.folding import dries, fold, folded, shuts
from tailor.core.bench.labour import GLUE, METRE, SQUARE, glued, labour
from tailor.core.bench.rates import Rates
from tailor.core.bench.schools import GLUES, School
from tailor.core.bench.settled import settled
from tailor.core.bench.steps import CASED, DAMP, KNIFE, Doing, Steps
from tailor.core.bench.tooling import works
from tailor.core.bench.whole import put_together
from tailor.core.carried.zones import ZoneKind
from tailor.core.draft.draft import Draft
from tailor.core.draft.piece import LAID_IN, Role, Seam

DRY, DYED, COAT = 24 * 60, 4 * 60, 60  # minutes that moulded leather, dye and a coat take
TOOLED = 2 * 60  # minutes that what was tooled damp dries before it may be dyed or glued
TAPE, PEEL = 2.0, 1.0  # minutes of hands
THIN, STAMP, TRIM, JOIN, BOARD = 4.0, 12.0, 6.0, 3.0, 3.0  # minutes of hands, each
DYE, DYE_SQUARE, TRY = 12.0, 60.0, 5.0  # minutes; a square metre of dye
NARROW = 60.0  # mm: of a strap
MARGIN = 5.0  # mm, where a draft has none of its own
FLANGE = 2.5  # times the margin that a flange is wide at the most, from its fold to its holes
INNER = 1.6  # times the margin that a seam lies in from the edge of a piece it is sewn on to
BLADE = "Tape or sheath the blade while fitting, and never test the draw towards the hand; check your local law."
LIVE = "Fit with an inert dummy or an isolated tool, never a live one; what holds it is not certified."
WET = "Film round steel, and out within the hour: it rusts in wet leather."
ORDER = {
    "carve": "there is a line to cut",
    "bevel": "a cut edge holds the slope",
    "strike": "a texture is struck up to what is cut",
}  # what comes before work on a drawing
FLAMMABLE = "Dye: fresh air, gloves, no flame."


def derived(
    made: Draft, rates: Rates | None = None, school: School | None = None, zones: Collection[ZoneKind] = ()
) -> Steps:
    """The steps of one of a draft, by a maker's rates and school. zones: kinds that there are on the object."""
    return _Deriving(made.unmarked(), rates or Rates(), school or School(), zones).steps


class _Deriving:
    """The steps as far as they are derived. ready: what every piece has behind it before anything is joined."""

    def __init__(self, made: Draft, rates: Rates, school: School, zones: Collection[ZoneKind]) -> None:
        self.made, self.rates, self.school, self.zones = made, rates, school, zones
        self.deeds = {deed.name: deed for deed in labour(made, rates)}
        self.cut = [piece for piece in made.pieces if piece.role is not Role.TEMPLATE]
        self.leather = tuple(piece.name for piece in self.cut if piece.leather in ("body", "welt"))
        self.closing = [seam for seam in made.seams if self._closes(seam)]
        self.steps = Steps(schools=settled(made, self.school, bool(self._folded_to_close())))
        self.dry, self.lined, self.edges, self.flat, self.metal, self.folds = [list[str]() for _ in range(6)]
        self.ready = self._prepared()
        self.dry = self._blanks()
        self.lined = self._linings()
        self.edges = [self._edge_first(n) for n in range(len(made.edges_first))]
        self.flat = self._sewn_flat()
        self.metal = self._hardware()
        if self.closing:
            self.folds = [self._folded(name) for name in self._folded_to_close()]
        self._finish(self._closed())
        self._never_again()
        joined = [(seam.name, self._joined(seam)) for seam in self.closing]
        put_together(
            self.steps, tuple(piece.name for piece in self.cut), joined, (*self.flat, *self.metal, *self.lined)
        )

    def _minutes(self, name: str) -> float:
        return self.deeds[name].minutes if name in self.deeds else 0.0

    # Flat

    def _prepared(self) -> list[str]:
        """Marked, cut, thinned, stamped and dyed while it lies flat."""
        add, names = self.steps.add, tuple(piece.name for piece in self.cut)
        many, metres = sum(piece.count for piece in self.cut), self.deeds["cut"].amount
        look = "grain side, top and hand are on every piece"
        add(Doing("mark", "mark out the pieces", names, self._minutes("mark"), f"{many} pieces", look=look))
        look = "corner holes are punched before the cuts that run into them"
        cut = Doing("cut", "cut out", names, self._minutes("cut"), f"{metres:.2f} m and its corners", look=look,
                    takes=tuple(supplies.sheets(self.made)))  # fmt: skip
        ready = [add(cut, ["mark"], "there is a line to cut")]
        for piece in self.cut:
            kinds = {rule.kind for rule in piece.rules}
            if "skive" in kinds:
                thin = Doing(f"thin {piece.name}", f"thin {piece.name}", (piece.name,), THIN, "where it is marked",
                             places=("skive",))  # fmt: skip
                ready.append(add(thin, ["cut"], "thinned while it lies flat"))
            if "stamp" in kinds:
                ready.append(self._stamped(piece.name))
        ready += [
            self._tooled(piece.name, list(ready)) for piece in self.cut if works(self.made, self.rates, piece.name)
        ]
        if self.school.dyed == "before":
            ready.append(self._dyed(list(ready)))
        return ready

    def _tooled(self, name: str, after: Iterable[str]) -> str:
        """What is drawn on a piece, put on it while it lies flat, damp and backed; the step that takes the back off."""
        mine, add = (name,), self.steps.add
        add(Doing(f"back {name}", f"back {name} with tape or card", mine, TAPE, "once over",
                  look="no edge of it shows"), after, "backed, so that it does not stretch under the tool")  # fmt: skip
        damp = add(Doing(f"damp {name} to tool", f"damp {name} for tooling", mine, DAMP, "once over, both faces"),
                   [f"back {name}"], "what is damp takes no tape")  # fmt: skip
        last = damp
        for work in works(self.made, self.rates, name):
            doing = Doing(f"{work.verb} {name}", work.said, mine, work.minutes, work.why, "tooling", look=work.look,
                          caution=KNIFE if work.verb == "carve" else "", places=work.places)  # fmt: skip
            if last == damp:
                add(doing)
                self.steps.wait(damp, doing.key, "until it returns to its colour", CASED)
            else:
                add(doing, [last], ORDER[work.verb])
            last = doing.key
        peel = add(Doing(f"peel {name}", f"take the back off {name}", mine, PEEL, "once", look="no gum is left on it"))
        self.steps.wait(last, peel, "it dries flat, and keeps what is in it", TOOLED)
        return peel

    def _stamped(self, name: str) -> str:
        damp = Doing(f"damp {name}", f"damp {name} for its stamp", (name,), DAMP, "once over")
        look = "it has its own colour again, and lies on something hard"
        stamp = Doing(f"stamp {name}", f"stamp {name}", (name,), STAMP, "one mark", look=look, places=("stamp",))
        self.steps.add(damp, ["cut"], "stamped flat, before dye, oil or glue")
        self.steps.add(stamp)
        self.steps.wait(damp.key, stamp.key, "until it returns to its colour", CASED)
        return stamp.key

    def _dyed(self, after: Iterable[str]) -> str:
        area = sum(piece.area * piece.count for piece in self.cut if piece.leather == "body") / SQUARE
        minutes = DYE + DYE_SQUARE * area
        doing = Doing("dye", "dye", self.leather, minutes, f"{area:.3f} m²", "dye", caution=FLAMMABLE,
                      uses=f"dye {finishing.used(area, finishing.DYE)}")  # fmt: skip
        return self.steps.add(doing, after, self.school.why_dyed)

    def _after_dye(self, key: str) -> None:
        """What was dyed before is dry before it is joined."""
        if self.school.dyed == "before":
            self.steps.wait("dye", key, "until the dye is dry, and rubs off on nothing", DYED, place="line")

    def _blanks(self) -> list[str]:
        """Blanks are moulded before they are sewn: wetted, pressed over the form, dried, trimmed by the template."""
        blanks, trimmed = [piece for piece in self.cut if piece.role is Role.BLANK], []
        look = "the blank lies flat round its form, with no pleat at the toe"
        for piece in blanks:
            name, minutes = (piece.name,), self._minutes("mould") / len(blanks)
            wet = Doing(f"mould {piece.name}", f"wet and mould {piece.name}", name, minutes, "one over its form",
                        look=look, caution=WET)  # fmt: skip
            trim = Doing(f"trim {piece.name}", f"trim {piece.name} by the template", name, TRIM, "once round")
            self.steps.add(wet, self.ready, "prepared while it was flat")
            self.steps.add(trim)
            self.steps.wait(wet.key, trim.key, "it dries slowly, and hardens", DRY, place="forms")
            trimmed.append(trim.key)
        return trimmed

    def _linings(self) -> list[str]:
        """Linings and foam are glued on whole, before an edge that they share is finished."""
        joined = []
        for piece in self.cut:
            if piece.leather in ("lining", "foam"):
                area = piece.area * piece.count / SQUARE
                minutes = self.rates.glue_up * piece.count + self.rates.glue * area
                after = (*self.ready, *self.dry)
                joined.append(self._glued(piece.name, (piece.name,), minutes, f"{area:.3f} m²", area, after))
        return joined

    def _glued(
        self, what: str, pieces: tuple[str, ...], minutes: float, why: str, area: float, after: Iterable[str],
        *places: str,
    ) -> str:  # fmt: skip
        """Glue on both faces of an area in square metres, joined no sooner and no later than it may be; the step that
        joins.
        """
        glue = GLUES[self.school.glue]
        spread = Doing(f"glue {what}", f"glue {what}", pieces, minutes, f"{why}; {glue.said}", "glue",
                       caution=glue.caution, places=places, uses=f"glue {finishing.used(area, GLUE)}",
                       takes=tuple(supplies.glue(area * SQUARE)))  # fmt: skip
        join = Doing(f"join {what}", f"join {what}", pieces, JOIN, "one chance to place it", look="edges flush",
                     places=places)  # fmt: skip
        self.steps.add(spread)
        for key in dict.fromkeys(after):
            rest = dries(self.school) if key in self.folds else 0
            self.steps.wait(key, spread.key, self._why_before_glue(key), rest, shuts=True)
        self.steps.add(join)
        self._after_dye(spread.key)
        self.steps.wait(spread.key, join.key, "tacky, and not yet dry", glue.tack, glue.latest)
        return join.key

    def _why_before_glue(self, key: str) -> str:
        """What is lost if a step is left until what comes after it is glued."""
        for keys, why in (
            (self.edges, "its edge is buried or out of reach then"),
            (self.metal, "no anvil reaches its back then"),
            (self.flat, "it is sewn flat, and shut in then"),
            (self.dry, "a blank is joined dry, and trimmed to its line"),
            (self.lined, "what lines it is shut in then"),
            (self.folds, "what is glued shut cannot be folded"),
        ):
            if key in keys:
                return why
        return "what is glued cannot be prepared any more"

    def _edge_first(self, n: int) -> str:
        """An edge that is out of reach later is finished now, once what it is the edge of is whole."""
        edge = self.made.edges_first[n]
        plan = finishing.edge_first(self.made, edge)
        trimmed = [key for key in self.dry if self.steps[key].pieces == (edge.piece,)]
        doing = Doing(f"edge {n}", f"finish the edge of {edge}", (edge.piece,), self.rates.edge * plan.length / METRE,
                      f"{plan.length / METRE:.2f} m", "edges", places=("finish",), tools=plan.said(self.school),
                      uses=finishing.edge_used([plan], self.school))  # fmt: skip
        return self.steps.add(doing, (*self.ready, *trimmed, *self.lined), "finished while it can be reached")

    # Folds

    def _folded_to_close(self) -> list[str]:
        """The pieces that are folded to be closed: what is sewn shut lies on either side of a fold; where nothing is
        sewn, what is riveted.
        """
        if not self.closing:
            return [piece.name for piece in self.cut if folded(piece) and piece.fittings]
        flange = FLANGE * self._margin
        names = {piece for seam in self.closing for piece in self._joined(seam)}
        return [piece.name for piece in self.cut if piece.name in names and folded(piece) and any(
            shuts(piece, seam.name, flange) for seam in self.closing)]  # fmt: skip

    def _folded(self, name: str) -> str:
        """A piece folded, after all that is done to it flat; the last step of it."""
        flat = [key for key in (*self.flat, *self.metal) if name in self.steps[key].pieces]
        edges = [key for key in self.edges if name in self.steps[key].pieces]
        last = [*self.ready, *self.dry, *self.lined, *edges, *flat]
        for doing, why, rest in fold(self.made, self.made.piece(name), self.school):
            self.steps.add(doing, last if not rest else (), why)
            for key in last if rest else ():
                self.steps.wait(key, doing.key, why, rest)
            last = [doing.key]
        return last[0]

    # Seams

    def _closes(self, seam: Seam) -> bool:
        """Whether a seam closes the thing: it runs along the edge of all that it joins, and so does every other of the
        same pieces; a strap's own end turned in closes nothing.
        """
        if self.made.shell is not None:
            return seam == self.made.seams[0]
        if len(seam.pieces) == 1 and self._narrow(seam.pieces[0]):
            return False
        return all(self._at_edges(other) for other in self.made.seams if set(other.pieces) == set(seam.pieces))

    def _narrow(self, name: str) -> bool:
        corners = shapely.get_coordinates(shapely.Polygon(self.made.piece(name).cut).minimum_rotated_rectangle)
        return bool(np.hypot(*np.diff(corners[:3], axis=0).T).min() < NARROW)

    @property
    def _margin(self) -> float:
        return self.made.value("seam.margin") if "seam.margin" in self.made.reasons else MARGIN

    def _at_edges(self, seam: Seam) -> bool:
        margin = self._margin
        for piece in self.made.pieces:
            rim = shapely.LinearRing(piece.cut)
            for edge in seam.edges:
                holes = piece.holes_of(seam.name, edge)
                if len(holes) and np.median(shapely.distance(rim, shapely.points(holes))) > INNER * margin:
                    return False
        return True

    def _sew(self, what: str, seams: Sequence[Seam], after: Iterable[str], because: str) -> str:
        """Pierced and sewn; the step that sews."""
        pieces = tuple(dict.fromkeys(name for seam in seams for name in self._joined(seam)))
        pierced = self._pierced(what, seams, pieces, after, because)
        sew = seamwork.sew(self.made, what, seams, pieces, self.rates, self.school)
        return self.steps.add(sew, [pierced], "it is pierced")

    def _pierced(
        self, what: str, seams: Sequence[Seam], pieces: tuple[str, ...], after: Iterable[str], because: str
    ) -> str:
        """Grooved, marked and pierced; the last of these steps."""
        pierce = seamwork.pierce(self.made, what, seams, pieces, self.rates)
        if (groove := seamwork.groove(self.made, what, seams, pieces, self.school)) is not None:
            after, because = [self.steps.add(groove, after, because)], "holes lie in the groove"
        return self.steps.add(pierce, after, because)

    def _joined(self, seam: Seam) -> tuple[str, ...]:
        """The pieces that a seam joins, as they lie on the bench: blanks, and not what they are trimmed by."""
        blanks = [piece.name for piece in self.cut if piece.role is Role.BLANK]
        cut = {piece.name for piece in self.cut}
        return tuple(dict.fromkeys(n for name in seam.pieces for n in ([name] if name in cut else blanks)))

    def _size(self, name: str) -> float:
        return self.made.piece(name).area

    def _sewn_flat(self) -> list[str]:
        """What is sewn on, or turned in and sewn, while all lies flat, by the piece that it is of."""
        of = dict[str, list[Seam]]()
        for seam in self.made.seams:
            if seam not in self.closing:
                of.setdefault(min(seam.pieces, key=self._size), []).append(seam)  # the part is less than what it is on
        sewn = []
        for name, seams in of.items():
            pairs = zip(self.edges, self.made.edges_first, strict=True)
            edges = [key for key, edge in pairs if edge.piece == name]
            what = f"{name} on" if any(len(seam.pieces) > 1 for seam in seams) else f"the {_common(seams) or name}"
            key = self._sew(what, seams, (*self.ready, *self.dry, *self.lined, *edges), "sewn while it lies flat")
            first = f"groove {what}" if f"groove {what}" in self.steps else f"pierce {what}"
            self._after_dye(first)
            sewn.append(key)
        return sewn

    def _hardware(self) -> list[str]:
        """Hardware is set while an anvil reaches its back."""
        if not self.made.hardware:
            return []
        many = len(self.made.hardware)
        places = tuple(dict.fromkeys(item.place for item in self.made.hardware))
        names = tuple(dict.fromkeys(item.name for item in self.made.hardware))
        pieces = tuple(p.name for p in self.cut if any(fitting.name in names for fitting in p.fittings))
        doing = Doing("hardware", "set the hardware", pieces, self._minutes("hardware"), f"{many} pieces",
                      look="posts hold, and do not bend", places=(*places, *names), tools=self._posts(),
                      takes=tuple(supplies.hardware(self.made)))  # fmt: skip
        if not self.closing:
            self.folds = [self._folded(name) for name in self._folded_to_close()]
        after = (*self.ready, *self.dry, *self.lined, *self.edges, *self.flat, *self.folds)
        return [self.steps.add(doing, after, "set while its back can be reached, with the edges round it done")]

    def _posts(self) -> str:
        """Each kind of fastening, with the post that its stack takes."""
        found = dict[str, int]()
        for item in self.made.hardware:
            post = f" with post {item.post:g}" if item.post else ""
            said = f"{item.name}{post} through {item.stack:.1f} mm"
            found[said] = found.get(said, 0) + 1
        return "; ".join(f"{many} × {said}" for said, many in found.items())

    def _closed(self) -> list[str]:
        """The seams that close it, one after another: glued, trued, pierced, sewn."""
        flat = [*self.ready, *self.dry, *self.lined, *self.edges, *self.flat, *self.metal]
        last = [*flat, *self.folds]
        whole = sum(p.area * p.count for p in self.cut if p.leather in LAID_IN)
        area = max(glued(self.made) - whole, 0.0) / SQUARE
        length, press = sum(seam.length for seam in self.made.seams), GLUES[self.school.glue].press
        for seam in self.closing:
            faces, what = len(seam.edges) - 1, seam.name if "seam" in seam.name else f"the {seam.name} seam"
            mine, pieces = area * seam.length / length, self._joined(seam)
            apart = seamwork.pierced_apart([seam])
            if apart:
                holed = self._pierced(what, [seam], pieces, flat, "each piece is holed by itself while it lies flat")
                last = [*last, holed]
            minutes = self.rates.glue_up * faces + self.rates.glue * mine
            joined = self._glued(what, pieces, minutes, f"{faces} face{'s' * (faces > 1)}", mine, last, seam.name)
            true = self._trued(what, seam, pieces, joined, press)
            if apart:
                sew = seamwork.sew(self.made, what, [seam], pieces, self.rates, self.school)
                last = [self.steps.add(sew, [true], "layers lie hole on hole, and are glued")]
            else:
                last = [self._sew(what, [seam], [true], "only a true edge gives a line that lands on both faces")]
        return last

    def _trued(self, what: str, seam: Seam, pieces: tuple[str, ...], joined: str, press: int) -> str:
        """Trimmed and trued once the glue has taken; the last of these steps."""
        first, *more = seamwork.trued(self.made, what, seam, pieces)
        last = self.steps.add(first)
        self.steps.wait(joined, last, "held until the glue has taken", press, place="clamps" if press else "")
        for doing in more:
            last = self.steps.add(doing, [last], "what stands proud is gone")
        return last

    def _never_again(self) -> None:
        """What can never be mended, whatever lies between: light thread that is dyed, leather moulded over wax."""
        for doing in self.steps.doings:
            if doing.key.startswith("sew ") and self.school.dyed == "before" and self.school.thread == "light":
                self.steps.wait("dye", doing.key, "light thread takes dye, and never gives it back", 0, shuts=True)
            if doing.key.split()[0] == "mould":
                why = "wax keeps water out, and what is moulded is moulded wet"
                self.steps.wait(doing.key, "wax", why, 0, shuts=True)

    # The whole

    def _finish(self, last: list[str]) -> None:
        """What is done with the whole: boards, moulding if it was not, edges, dye, wax; and it is tried."""
        add, whole = self.steps.add, self.leather
        if boards := [piece for piece in self.cut if piece.leather == "board"]:
            names = tuple(piece.name for piece in boards)
            put = Doing("boards", "put the boards in", names, BOARD * len(boards), f"{len(boards)} boards")
            last = [add(put, last, "boards go in once it is put together")]
        moulded = self.made.wet and not self.dry
        if moulded:
            look = "it clicks: leather has locked into the hollows"
            minutes = self._minutes("mould")
            wet = Doing("mould", "wet and mould it, with the object in", whole, minutes, "one", look=look, caution=WET)
            last = [add(wet, last, "moulded before wax, which keeps water out")]
        first = sum(self.steps[key].minutes for key in self.edges)
        plan = finishing.of_the_whole(self.made, self.closing, METRE * first / self.rates.edge)
        minutes = max(self._minutes("edges") - first, 0.0)
        edges = finishing.edge_work(plan, minutes, whole, self.rates, self.school)
        last = [add(edges, last, "layers are trued and sewn")]
        if moulded:
            self.steps.wait("mould", "edges", "it dries slowly, and hardens", DRY, place="forms")
        if self.school.dyed == "after":
            last = [self._dyed(last)]
        self._sealed(finishing.coats(self.made, edges, self.rates, self.school), last)
        look = "goes in without a fight, holds upside down, comes out"
        add(Doing("try", "try it with the object, and write down how it came out", whole, TRY, "once", look=look,
                  caution=self._caution))  # fmt: skip
        self.steps.wait("wax", "try", "until the coat is dry", COAT, place="line")

    def _sealed(self, coats: Sequence[Doing], last: list[str]) -> None:
        """Coats one after another, each once what is on it is dry."""
        on = {"dye": DYED, "coat": COAT, "edges": COAT if self.school.finish == "paint" else 0}
        for coat in coats:
            self.steps.add(coat)
            for key in last:
                dries = on.get(key, 0)
                keeps = "finish" if self.school.finish == "resin" else "wax"
                why = "until what is on it is dry" if dries else f"{keeps} keeps dye and water out"
                self.steps.wait(key, coat.key, why, dries, place="line" if dries else "")
            last = [coat.key]

    @property
    def _caution(self) -> str:
        if ZoneKind.TRIGGER in self.zones:
            return LIVE
        return BLADE if ZoneKind.EDGE in self.zones or ZoneKind.POINT in self.zones else ""


def _common(seams: Sequence[Seam]) -> str:
    """The words that the names of seams begin with alike, without their numbers."""
    words = [word for word, *_ in itertools.takewhile(lambda each: len(set(each)) == 1, zip(*(
        seam.name.split() for seam in seams), strict=False))]  # fmt: skip
    while words and (words[-1].isdigit() or words[-1] in ("row", "end")):
        words.pop()
    return " ".join(words)
