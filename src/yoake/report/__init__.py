"""The printable report."""
