"""One place for what differs between the Pythons we ran on."""
try:
    from collections import Mapping, Sequence
except ImportError:
    from collections.abc import Mapping, Sequence

from django.utils import six

text_type = six.text_type
__all__ = ["Mapping", "Sequence", "text_type"]
