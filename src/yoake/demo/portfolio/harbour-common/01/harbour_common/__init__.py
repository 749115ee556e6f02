"""What several Harrowmere applications share."""
