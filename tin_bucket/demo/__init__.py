"""Skerrywick Ferries, a made-up ferry company: a simulated service on loopback, and a workspace that asks it."""
