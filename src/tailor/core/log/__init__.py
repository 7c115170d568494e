"""The log: what was made and how it came out, and what is learned from it."""
