"""Stand-ins and clients: the made-up bench, SCPI, sound meters, the sender of numbered posts."""
