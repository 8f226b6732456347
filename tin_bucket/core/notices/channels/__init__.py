"""Channels that notices go by, a file a kind."""
