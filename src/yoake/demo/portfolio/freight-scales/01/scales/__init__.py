"""Lorries on the weighbridge."""
