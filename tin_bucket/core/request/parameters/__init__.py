"""The parameters of a query: their kinds, their values, and the dates among them that move with the calendar."""
