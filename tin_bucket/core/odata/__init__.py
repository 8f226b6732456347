"""OData 4.01 (OASIS) as far as a reader of tables needs it: names, filters, keys, and the description of it all."""
