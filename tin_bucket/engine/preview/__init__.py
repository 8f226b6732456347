"""Looking before a refresh: asking once, reading saved answers, verifying, estimating."""
