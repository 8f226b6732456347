"""What each kind of step does to a table: a file a kind."""
