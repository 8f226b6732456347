"""The simulated services of the ferry company."""
