"""Working tables out: the lines of a brief, done to the table of any date."""
