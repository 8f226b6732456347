"""Traffic: rate limits, concurrency, and which addresses may be called."""
