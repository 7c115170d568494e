"""The carried object: whatever way it was measured, it becomes a Loft."""
