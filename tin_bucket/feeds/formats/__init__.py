"""File formats that a table is written in."""
