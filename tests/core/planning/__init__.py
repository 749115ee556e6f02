"""Tests of the path search."""
