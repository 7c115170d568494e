"""Each step from one version of the shop book to the next."""
