"""Things of flat panels: how they are put together, and what they are made of."""
