"""Tin Bucket asks web APIs, turns the answers into tables and keeps a dated copy of every table."""

__version__ = "0.1.0"
