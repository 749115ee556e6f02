"""Routes, one module a subject."""
