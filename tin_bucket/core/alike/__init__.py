"""What counts as the same where two tables are compared."""
