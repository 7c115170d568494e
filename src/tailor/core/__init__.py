"""The craft without the window: measured object in, drafted leather out."""
