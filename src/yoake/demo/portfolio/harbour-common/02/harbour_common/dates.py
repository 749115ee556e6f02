"""Times as the harbour master writes them."""
from datetime import datetime, timezone


def now():
    return datetime.now(timezone.utc)
