"""Formats that other programs read: SARIF and CSV."""
