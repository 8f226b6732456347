"""Formats: bytes and texts of the open standards, read and written."""
