"""How shop books of older versions become ones of this."""
