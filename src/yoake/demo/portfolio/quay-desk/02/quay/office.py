"""The back office: who is on board, how full each sailing is, and two pages that nobody remembers."""

from starlette.responses import JSONResponse, PlainTextResponse

from quay.data import SAILINGS, TICKETS
from quay.tickets import _priced


async def manifests(request):
    sold = [_priced(found) for found in TICKETS.values()]
    return JSONResponse({row["code"]: sum(1 for each in sold if each["sailing"] == row["code"]) for row in SAILINGS})


async def loads(request):
    return JSONResponse({row["code"]: row["seats"] for row in SAILINGS})


async def feed(request):
    return PlainTextResponse("<feed/>", media_type="application/xml")


async def print_page(request):
    return PlainTextResponse("Use the button of your browser.")
