"""Fuel bought and burnt."""
