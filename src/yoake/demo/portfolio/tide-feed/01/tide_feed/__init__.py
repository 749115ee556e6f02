"""Tide levels from the gauges to whoever asks."""
