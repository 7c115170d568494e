"""Seen: slices through a draft, and its relief."""
