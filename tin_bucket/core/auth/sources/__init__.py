"""One file for each source of a secret."""
