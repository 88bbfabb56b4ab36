"""A log as arrays: windows, uncertainty budgets, settling, flags, and the same while a run goes on."""
