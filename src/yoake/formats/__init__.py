"""Formats that other programs read and write."""
