"""Causes of notices, a file a kind."""
