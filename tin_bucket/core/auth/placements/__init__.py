"""One file for each key placement."""
