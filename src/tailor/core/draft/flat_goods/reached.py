"""Reached: how deep a pocket may be for what lies in it to be taken out. Source: craft, "Choices and constructions"."""

FINGERS, HAND, WRIST = 80.0, 90.0, 190.0  # mm that fingers reach down; how wide a hand goes in; and how deep it reaches


def reached(width: float) -> float:
    """How deep fingers reach into a pocket so wide, or a hand where it is wide enough for one, mm."""
    return WRIST if width >= HAND else FINGERS
