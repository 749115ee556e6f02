"""Refunds, asked for at the desk."""
from django.utils.translation import ugettext as _


def reason(code):
    return {"W": _("weather"), "T": _("technical")}.get(code, _("other"))
