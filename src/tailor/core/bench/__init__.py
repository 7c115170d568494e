"""The bench: the work in its order, and when."""
