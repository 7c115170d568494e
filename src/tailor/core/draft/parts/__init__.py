"""Parts: what a case carries besides its body, each put on it as its settings ask.

A part is drawn for the right hand, on a draft drawn for the right hand; it adds its pieces, its seams, its fastenings
and its reasons, and leaves the draft as it is where nothing is asked for. Parts that need most room come first.
"""

from __future__ import annotations

from collections.abc import Callable

from tailor.core.draft.belt import with_loop
from tailor.core.draft.draft import Fitted
from tailor.core.draft.fitted import fitted
from tailor.core.draft.parts.back_loop import back_loop
from tailor.core.draft.parts.closing import closing
from tailor.core.draft.parts.ear import ear
from tailor.core.draft.parts.hanger import hanger
from tailor.core.draft.parts.sling import sling
from tailor.core.draft.parts.thumb import thumb_tab
from tailor.core.settings import Settings

PARTS: tuple[Callable[[Settings, Fitted], Fitted], ...] = (
    back_loop,
    closing,
    thumb_tab,
    sling,
    with_loop,
    hanger,
    ear,
    fitted,
)


def with_parts(settings: Settings, draft: Fitted) -> Fitted:
    """The draft with every part that its settings ask for."""
    for part in PARTS:
        draft = part(settings, draft)
    return draft
