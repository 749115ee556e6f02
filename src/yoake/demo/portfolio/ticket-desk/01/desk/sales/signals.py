"""What the accounts department listens to."""
from django.dispatch import Signal

ticket_sold = Signal(providing_args=["sailing", "kind"])
