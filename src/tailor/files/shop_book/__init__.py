"""The shop book: one database that holds a shop, and its way out and in as plain files."""
