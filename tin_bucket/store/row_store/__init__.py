"""How tables are kept: each row once, ordered lists of row ids, and copies of long columns."""
