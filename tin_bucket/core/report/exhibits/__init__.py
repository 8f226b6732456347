"""Exhibits of reports, a file a kind."""
