"""Drafting: seams, holes, welts, mouths and loops, put together into pieces."""
