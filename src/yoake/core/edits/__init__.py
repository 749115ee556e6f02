"""Edits: changes of text at exact places (DESIGN 4.8)."""
