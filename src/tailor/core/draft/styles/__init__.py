"""Constructions: each only arranges what lies below it."""

FOLDED_SHEATH = "folded-sheath"
TWO_PANEL = "two-panel"
FLAT_BACK = "flat-back"
NAMES = (FOLDED_SHEATH, TWO_PANEL, FLAT_BACK)
