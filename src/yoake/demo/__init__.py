"""Harrowmere Ferries, a made-up ferry operator."""
