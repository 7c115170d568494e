"""Tailor: from a measured object to flat leather that fits."""

__version__ = "0.1.0"
