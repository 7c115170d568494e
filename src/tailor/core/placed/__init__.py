"""Placed: where a flat piece goes in space, and what lies in it."""
