"""One file for each list reduction."""
