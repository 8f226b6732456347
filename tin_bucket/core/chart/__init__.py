"""Charts: what is drawn of a table, and the numbers to draw it with."""
