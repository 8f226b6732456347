"""Tables as somebody looks at them."""
