"""Pagination: the ways to turn pages, and how one is detected."""
