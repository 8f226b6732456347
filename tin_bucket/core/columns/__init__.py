"""Columns: kinds of values, list reductions, compressed columns."""
