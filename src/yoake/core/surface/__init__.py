"""Artefacts → surfaces → timelines."""
