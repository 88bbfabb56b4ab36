"""Headers, leads, the machine as found, advice on coolers."""
