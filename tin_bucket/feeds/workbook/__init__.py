"""Workbooks of others, changed part by part: what is not fed stays byte for byte as it was."""
