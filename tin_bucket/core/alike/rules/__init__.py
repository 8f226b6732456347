"""One file for each rule of what counts as the same."""
