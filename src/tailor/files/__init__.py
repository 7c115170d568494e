"""Jobs and patterns on disk and on paper."""
