"""The kinds of work-out lines, one a file."""
