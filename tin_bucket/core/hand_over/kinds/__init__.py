"""The kinds of feeds, one file each."""
