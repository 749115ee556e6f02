"""The board and the till."""
from django.shortcuts import render_to_response
from django.utils.encoding import smart_text
from django.utils.lru_cache import lru_cache

from desk.compat import Mapping
from desk.sales.fares import fare


@lru_cache(maxsize=64)
def label(code):
    return smart_text(code)


def board(request):
    return render_to_response("board.html", {"title": label("board")})


def sell(request, sailing):
    wishes = dict(request.GET.items())
    if request.is_ajax() and isinstance(wishes, Mapping):
        wishes["quick"] = True
    return render_to_response("sell.html", {"fare": fare(wishes.get("kind", "adult"), 1)})
