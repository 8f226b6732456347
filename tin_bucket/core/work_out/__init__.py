"""Work-out lines: what is made of a table after it was taken, as sentences that are SQL underneath."""
