"""Stage: one stage of the work, and what the bench shows and lets one take hold of there."""

from __future__ import annotations

from dataclasses import dataclass

from tailor.core.draft.draft import Draft
from tailor.core.job import Job
from tailor.core.keys import MEASURES
from tailor.core.measure import Measure, Theme


@dataclass(frozen=True, kw_only=True)
class Stage:
    """One stage.

    name, doing: what it is called, and what is done there. themes: of the measures and verdicts that belong to it.
    besides: measures of other themes that are wanted here too. flat: pieces are laid flat, else made up. strong: the
    kinds of line drawn strongest. bare: the object stands out, and its ways of measuring are beside it. stacked: the
    layers of the seam are drawn under the slice. hung: the case is seen on its belt, and sliced down through its loop.
    spread: pieces lie on leather. worked: its steps are, not its measures. logged: how it came out is.
    tooled: fields are lit, and what is put in them can be taken hold of.
    empty: a line of help where there is nothing to show yet. guide: the heading that the guide is opened at.
    """

    name: str
    doing: str
    themes: tuple[Theme, ...]
    besides: tuple[str, ...] = ()
    flat: bool = False
    strong: tuple[str, ...] = ("cut",)
    bare: bool = False
    stacked: bool = False
    hung: bool = False
    spread: bool = False
    worked: bool = False
    logged: bool = False
    tooled: bool = False
    empty: str
    guide: str

    def measures(self, job: Job, made: Draft) -> tuple[Measure, ...]:
        """The measures there are of a job and its draft here: by themes, and as they were declared."""
        there = [m for m in MEASURES.values() if applies(m, job, made)]
        mine = [m for theme in self.themes for m in there if m.theme is theme]
        return (*mine, *(m for m in there if m.name in self.besides))


def applies(measure: Measure, job: Job, made: Draft) -> bool:
    """Whether there is such a measure in a draft: it was consulted, or worked out, and it matters."""
    return (measure.name in made.consulted or measure.name in made.reasons) and measure.applies(job, made)
