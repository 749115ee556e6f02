"""The application: every address of the desk."""

from starlette.applications import Starlette
from starlette.routing import Mount, Route

from quay import account, office, sailings, tickets

office_routes = [Route("/manifests", office.manifests), Route("/loads", office.loads)]

app = Starlette(
    routes=[
        Route("/sailings", sailings.sailings),
        Route("/sailings/{day}", sailings.sailings_by_day),
        Route("/ports/{port}/board", sailings.board),
        Route("/tickets", tickets.sell, methods=["POST"]),
        Route("/tickets/{code}", tickets.one),
        Route("/tickets/{code}/refund", tickets.give_back, methods=["POST"]),
        Route("/fares", tickets.fares),
        Route("/login", account.login, methods=["POST"]),
        Route("/account", account.account),
        Mount("/office", routes=office_routes),
        Route("/feed.xml", office.feed),
        Route("/legacy/print", office.print_page),
    ]
)
