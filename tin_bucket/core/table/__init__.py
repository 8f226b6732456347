"""Tables: records to columns, lookups, and the table again from saved answers."""
