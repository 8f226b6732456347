"""The network: HTTP, credentials, rate limits."""
