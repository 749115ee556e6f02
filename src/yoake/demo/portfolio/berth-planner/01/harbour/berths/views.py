"""Pages of berths."""
from django.http import HttpResponseRedirect, JsonResponse
from django.utils.http import is_safe_url, urlquote

from harbour.berths.allocation import allocate
from harbour.berths.models import Berth


def berth_list(request):
    berths = [(berth.name, float(berth.metres)) for berth in Berth.objects.all()]
    return JsonResponse({"berths": berths, "plan": allocate(berths, [("Skerry", 22.5), ("Marram", 31.0)])})


def follow(request):
    goal = request.GET.get("next", "/")
    if not is_safe_url(goal, allowed_hosts={request.get_host()}):
        goal = "/"
    return HttpResponseRedirect(urlquote(goal))
