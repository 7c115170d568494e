"""Constructions: each only arranges what lies below it."""
