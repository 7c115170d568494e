"""Worn: on the belt and from the shoulder, and how it hangs."""
