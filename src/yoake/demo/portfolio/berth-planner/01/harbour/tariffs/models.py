"""What a night at a berth costs."""
from django.db import models
from django.utils.translation import ugettext_lazy as _

from harbour.berths.models import Berth


class Tariff(models.Model):
    berth = models.ForeignKey(Berth, on_delete=models.PROTECT)
    label = models.CharField(_("label"), max_length=80)
    per_metre = models.DecimalField(_("per metre"), max_digits=9, decimal_places=2)
    valid_from = models.DateField(_("valid from"))

    class Meta:
        ordering = ["-valid_from"]
        verbose_name = _("tariff")

    def due(self, vessel, nights):
        return self.per_metre * vessel.length * nights
