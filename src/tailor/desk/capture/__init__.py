"""The ways of measuring, at the Object stage: each a panel beside the easel, each ending in a station table."""
