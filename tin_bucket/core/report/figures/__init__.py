"""Figures of reports, a file a kind."""
