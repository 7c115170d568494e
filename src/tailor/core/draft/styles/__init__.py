"""Constructions: each only arranges what lies below it."""

FOLDED_SHEATH = "folded-sheath"
NAMES = (FOLDED_SHEATH,)
