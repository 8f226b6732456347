"""Analysis: looking at tables, comparing them, and proving them."""
