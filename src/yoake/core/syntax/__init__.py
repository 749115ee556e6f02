"""Source text → facts; one file a language."""
