"""Requests: what a query asks, its parameters, and the calls that come of them."""
