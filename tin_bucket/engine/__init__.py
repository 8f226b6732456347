"""The shell around the core: real HTTP, a clock and the store."""
