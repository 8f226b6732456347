"""Authentication: credentials, where they go on a call, tokens."""
