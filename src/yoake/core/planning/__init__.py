"""Paths from today to the destination: problem, search, stages, alternatives, conflict."""
