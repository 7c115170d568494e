"""Constructions: each only arranges what lies below it."""

FOLDED_SHEATH = "folded-sheath"
TWO_PANEL = "two-panel"
FLAT_BACK = "flat-back"
SAID = {FOLDED_SHEATH: "Folded sheath", TWO_PANEL: "Two panels", FLAT_BACK: "Front over a flat back"}
NAMES = (FOLDED_SHEATH, TWO_PANEL, FLAT_BACK)
