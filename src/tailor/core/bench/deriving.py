"""Deriving: the steps of a draft as far as they are derived, and what is done in many of them: dyed, glued, sewn."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Sequence

from tailor.core.bench import drying, finishing, seamwork, supplies
from tailor.core.bench.closes import Closes
from tailor.core.bench.labour import GLUE, SQUARE, labour
from tailor.core.bench.rates import Rates
from tailor.core.bench.schools import GLUES, School
from tailor.core.bench.settled import settled
from tailor.core.bench.steps import Doing, Steps
from tailor.core.carried.zones import ZoneKind
from tailor.core.draft.draft import Draft
from tailor.core.draft.piece import Seam
from tailor.core.habit import Habit
from tailor.core.maker import Maker

JOIN = 3.0  # minutes of hands
DYE, DYE_SQUARE = 12.0, 60.0  # minutes; and of a square metre
FLAMMABLE = "Dye: fresh air, gloves, no flame."


class Deriving:
    """The steps as far as they are derived. Keys of steps: ready, what every piece has behind it before anything is
    joined; dry, blanks that are moulded; lined, what is lined; edges, those that are finished first; flat, what is sewn
    while it lies flat; metal, hardware; folds, what is folded to be closed.
    """

    def __init__(
        self, made: Draft, rates: Rates, school: School, zones: Collection[ZoneKind], maker: Maker
    ) -> None:  # fmt: skip
        self.made, self.rates, self.school, self.zones, self.maker = made, rates, school, zones, maker
        self.deeds = {deed.name: deed for deed in labour(made, rates)}
        self.closes = Closes(made)
        self.cut = self.closes.cut
        self.leather = tuple(piece.name for piece in self.cut if piece.leather in ("body", "welt"))
        self.steps = Steps(schools=settled(made, school, bool(self.closes.by_folding())))
        self.ready, self.dry, self.lined, self.edges = [list[str]() for _ in range(4)]
        self.flat, self.metal, self.folds = [list[str]() for _ in range(3)]

    def dries(self, of: Habit) -> int:
        """Minutes that the maker leaves something to dry."""
        return drying.minutes(self.maker, of)

    def minutes(self, name: str) -> float:
        """Minutes of hands that a labour takes; none where there is none of it."""
        return self.deeds[name].minutes if name in self.deeds else 0.0

    def dyed(self, after: Iterable[str]) -> str:
        """All its leather dyed, once some steps are done; the step that dyes."""
        area = sum(piece.area * piece.count for piece in self.cut if piece.leather == "body") / SQUARE
        minutes = DYE + DYE_SQUARE * area
        doing = Doing("dye", "dye", self.leather, minutes, f"{area:.3f} m²", "dye", caution=FLAMMABLE,
                      uses=f"dye {finishing.used(area, finishing.DYE)}")  # fmt: skip
        return self.steps.add(doing, after, self.school.why_dyed)

    def after_dye(self, key: str) -> None:
        """What was dyed before is dry before it is joined."""
        if self.school.dyed == "before":
            self.steps.wait(
                "dye", key, "until the dye is dry, and rubs off on nothing", self.dries(drying.DYED), place="line"
            )

    def glued(
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
            damp = key in self.folds and self.school.fold == "wet"
            rest = self.dries(drying.FOLDED) if damp else 0
            self.steps.wait(key, spread.key, self._why_before_glue(key), rest, shuts=True)
        self.steps.add(join)
        self.after_dye(spread.key)
        self.steps.wait(spread.key, join.key, "tacky, and not yet dry", glue.tack, glue.latest)
        return join.key

    def sew(self, what: str, seams: Sequence[Seam], after: Iterable[str], because: str) -> str:
        """Pierced and sewn; the step that sews."""
        pieces = tuple(dict.fromkeys(name for seam in seams for name in self.closes.joined(seam)))
        pierced = self.pierced(what, seams, pieces, after, because)
        sew = seamwork.sew(self.made, what, seams, pieces, self.rates, self.school)
        return self.steps.add(sew, [pierced], "it is pierced")

    def pierced(
        self, what: str, seams: Sequence[Seam], pieces: tuple[str, ...], after: Iterable[str], because: str
    ) -> str:
        """Grooved, marked and pierced; the last of these steps."""
        pierce = seamwork.pierce(self.made, what, seams, pieces, self.rates)
        if (groove := seamwork.groove(self.made, what, seams, pieces, self.school)) is not None:
            after, because = [self.steps.add(groove, after, because)], "holes lie in the groove"
        return self.steps.add(pierce, after, because)

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
