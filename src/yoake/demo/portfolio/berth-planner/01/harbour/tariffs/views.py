"""Pages of tariffs."""
from datetime import datetime

from django.http import JsonResponse
from django.utils.timezone import utc
from django.utils.translation import ugettext as _


def tariff_list(request):
    return JsonResponse({"title": _("Tariffs"), "at": datetime.now(utc).isoformat()})
