"""Tin Bucket asks web APIs, turns the answers into tables and keeps a dated copy of every table."""

import csv

__version__ = "0.1.0"

# The csv module has one limit for the whole process; cells with notes or JSON in them are longer than its 128 KiB.
csv.field_size_limit(10_000_000)
