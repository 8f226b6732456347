"""One file for each way to turn pages: its model, its paginator, its detector and its entry."""
