"""Reads reports: as of any date, against another, with what a reader chose."""
