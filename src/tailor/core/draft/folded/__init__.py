"""The folded sheath: its body in one piece, its flat lines."""
