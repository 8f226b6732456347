"""The commands of ``tin-bucket``, a file for each kind of work."""
