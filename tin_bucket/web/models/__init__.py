"""What the routes take and give, by subject: the source of the OpenAPI document, and so of the front end's types."""
