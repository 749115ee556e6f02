"""Yoake: scan a portfolio, see what a newer line breaks, plan the way there and follow it."""

__version__ = "0.20.0"
