"""Who is logged in: a name in a signed cookie."""

import hashlib

from starlette.responses import JSONResponse, RedirectResponse

SECRET = "lamp-oil"


def _signed(name):
    return "%s.%s" % (name, hashlib.sha256((SECRET + name).encode()).hexdigest()[:16])


def logged_in(request):
    held = request.cookies.get("desk", "")
    name = held.rpartition(".")[0]
    return name if name and held == _signed(name) else None


async def login(request):
    form = dict(pair.partition("=")[::2] for pair in (await request.body()).decode().split("&"))
    answer = RedirectResponse("/account", status_code=303)
    answer.set_cookie("desk", _signed(form.get("name", "guest")), httponly=True)
    return answer


async def account(request):
    name = logged_in(request)
    if name is None:
        return JSONResponse({"problem": "log in first"}, status_code=401)
    return JSONResponse({"name": name})
