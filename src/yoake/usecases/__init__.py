"""What a person can do, one module a verb. They know ``views`` and everything below, and nothing of HTTP."""
