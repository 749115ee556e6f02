"""Stages from today to the destination, and their dates."""
