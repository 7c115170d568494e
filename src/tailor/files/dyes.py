"""The dyes: colours that each mean one thing, on screen and on paper."""

INK = "#2b2118"  # cuts, words
WOAD = "#1f6470"  # folds
INDIGO = "#34488a"  # stitches and their holes
WALNUT = "#7a5230"  # welts; what is in hand
GALL = "#6b625a"  # trim lines, lesser words
LICHEN = "#5c6b22"  # glue
ANNATTO = "#b8591f"  # leather that must stretch
CORNFLOWER = "#2b6f9c"  # leather that must take up fullness
MADDER = "#9c3b3b"  # edges to be finished first
LOGWOOD = "#6e3b6b"  # zones and pins
