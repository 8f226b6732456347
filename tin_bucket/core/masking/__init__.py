"""What looks like a secret, how it may be spelled, and masking it wherever it is echoed."""
