"""Tickets: sold, looked up, given back."""

from starlette.responses import JSONResponse

from quay.data import LOCK, SAILINGS, TICKETS, ticket
from quay.fares import fare


def _priced(found):
    row = next(each for each in SAILINGS if each["code"] == found["sailing"])
    return dict(found, fare=fare(row["from"], row["to"], found["adults"], found["children"]))


async def sell(request):
    given = await request.json()
    with LOCK:
        code = "T%05d" % (len(TICKETS) + 1)
        TICKETS[code] = {
            "code": code,
            "sailing": given.get("sailing", "H1"),
            "adults": int(given.get("adults", 1)),
            "children": int(given.get("children", 0)),
        }
    return JSONResponse(_priced(TICKETS[code]), status_code=201)


async def one(request):
    found = ticket(request.path_params["code"])
    if found is None:
        return JSONResponse({"problem": "no such ticket"}, status_code=404)
    return JSONResponse(_priced(found))


async def give_back(request):
    found = ticket(request.path_params["code"])
    if found is None:
        return JSONResponse({"problem": "no such ticket"}, status_code=404)
    return JSONResponse({"code": found["code"], "back": round(_priced(found)["fare"] * 0.8, 2)})


async def fares(request):
    query = request.query_params
    start, end = query.get("from", "harrow"), query.get("to", "isle")
    adults, children = int(query.get("adults", 1)), int(query.get("children", 0))
    return JSONResponse({"from": start, "to": end, "fare": fare(start, end, adults, children)})
