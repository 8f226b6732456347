"""Interchange: pasted calls, shell commands, sheets, bundles, HTTP archives."""
