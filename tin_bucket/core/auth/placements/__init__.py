"""One file for each place where a key can go on a call."""
