"""Laying out: pieces on the leather there is."""
