"""Detection: where the records are and what values mean."""
