"""Sailings and tickets."""
from django.contrib.postgres.fields import JSONField
from django.db import models
from django.utils.encoding import python_2_unicode_compatible
from django.utils.translation import ugettext_lazy as _, ungettext


@python_2_unicode_compatible
class Sailing(models.Model):
    leaves = models.DateTimeField(_("leaves"))
    seats = models.PositiveIntegerField(_("seats"))
    extras = JSONField(default=dict)

    def __str__(self):
        return "%s" % self.leaves

    def left(self, sold):
        count = self.seats - sold
        return ungettext("%d seat", "%d seats", count) % count
