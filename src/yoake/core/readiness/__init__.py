"""Clearance and effort."""
