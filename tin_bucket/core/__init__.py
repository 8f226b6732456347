"""The job itself: data in, data out. No HTTP, no SQL connection, no web, no clock, no files."""
