"""Umbrellas, mostly."""
