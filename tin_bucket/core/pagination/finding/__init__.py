"""“Is there more?”: finds out by asking whether an API has further rows, and what it wants to be asked for them."""
