"""Sailings and the boards in the ports."""

from starlette.responses import HTMLResponse, JSONResponse

from quay.data import PORTS, SAILINGS, sailings_of


async def sailings(request):
    return JSONResponse({"sailings": SAILINGS})


async def sailings_by_day(request):
    return JSONResponse({"day": request.path_params["day"], "sailings": sailings_of(request.path_params["day"])})


async def board(request):
    port = request.path_params["port"]
    rows = "".join(
        "<tr><td>%s</td><td>%s</td></tr>" % (row["leaves"], PORTS[row["to"]]) for row in SAILINGS if row["from"] == port
    )
    return HTMLResponse("<html><body><h1>%s</h1><table>%s</table></body></html>" % (PORTS.get(port, "No such port"), rows))
