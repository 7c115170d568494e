"""The window: a bench with a board, a slice, a ledger and a strap of stages."""
