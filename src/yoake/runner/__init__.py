"""The outside: git, pip, interpreters, files, child processes."""
