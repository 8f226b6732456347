"""What runs take from a workspace, and what leaves it."""
