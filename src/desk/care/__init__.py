"""After the verdict: units held against the reference run, and what a machine needs over the years."""
