"""What a framework adds to its language, a folder each."""
