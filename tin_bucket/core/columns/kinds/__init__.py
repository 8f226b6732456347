"""One file for each column kind, and what some of them share."""
