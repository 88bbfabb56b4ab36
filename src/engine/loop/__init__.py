"""Heights and ageing of cooling loops."""
