"""Analysis: looking at tables, comparing them, and checking their completeness."""
