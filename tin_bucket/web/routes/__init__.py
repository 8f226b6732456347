"""The routes, a file for each subject."""
