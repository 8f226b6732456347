"""Feeds: standing instructions of a query that hand its table to workbooks, files and other places."""
