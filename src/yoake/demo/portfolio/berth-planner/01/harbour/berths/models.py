"""Berths and the vessels that lie at them."""
from django.db import models
from django.utils.encoding import force_text
from django.utils.translation import ugettext_lazy as _


class Berth(models.Model):
    name = models.CharField(_("name"), max_length=40)
    metres = models.DecimalField(_("length"), max_digits=6, decimal_places=2)
    has_power = models.NullBooleanField(_("shore power"))

    class Meta:
        verbose_name = _("berth")

    def __str__(self):
        return force_text(self.name)

    def fits(self, vessel_metres, spare=2):
        return vessel_metres + spare <= self.metres
