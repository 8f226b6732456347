"""SQL expressions as SQLite reads them: read, checked, and rendered again."""
