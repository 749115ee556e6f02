"""Timelines, lifecycles, rules and release records, ready to be looked up."""
