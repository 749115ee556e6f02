"""Which lamps burn."""
