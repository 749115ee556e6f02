"""pip, and Python interpreters found on this machine."""
