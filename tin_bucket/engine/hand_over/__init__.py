"""Feeds at work: the rows that they hand over, when they run, and when they are tried again."""
