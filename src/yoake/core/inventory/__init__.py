"""What an application is made of, read from its own files."""
