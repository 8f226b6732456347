"""The code of the kinds of feeds, one file each."""
