"""Languages with their packages, a folder each; ``registered`` puts them together for who starts Yoake."""
