"""All layouts of a pile of fans in one case: counted, solved in batches, and those that no other beats."""
