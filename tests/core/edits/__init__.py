"""Tests of edits."""
