"""npm, and Node programs from its registry."""
