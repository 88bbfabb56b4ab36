"""What a job's own runs teach: the learning document, forecasts as learned."""
