"""Documents: the query, the service and the extraction as models."""
