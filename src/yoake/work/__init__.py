"""Use cases, one module a verb. They know ``core``, ``store`` and ``runner``, and nothing of HTTP."""
