"""A table → files."""
