"""Authentication: credentials, their placement, tokens."""
