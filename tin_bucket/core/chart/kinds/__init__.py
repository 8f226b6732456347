"""The kinds of charts, a file each."""
