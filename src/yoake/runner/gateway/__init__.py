"""A gateway between callers and the two sides of an application that moves piece by piece."""
