"""Views whose methods say where they answer: what a builder puts on an application is what Flask-AppBuilder itself lists there."""

from __future__ import annotations

import pytest

from tests.core.crossing.test_code_routes import of
from yoake.core.values.coordinates import Line

VIEWS = """
    from flask_appbuilder import BaseView, ModelView, expose, has_access
    from flask_appbuilder.api import BaseApi, ModelRestApi

    class Tide(BaseView):
        route_base = "/tides"

        @expose("list/")
        @has_access
        def list(self):
            return "a"

        @has_access
        @expose("/at/<string:port>", methods=["GET", "POST"])
        @expose("/of/<string:port>")
        def at(self, port):
            return port

    class SailingView(ModelView):
        exclude_route_methods = {"api", "api_read"}

        @expose("/print/<pk>")
        def print(self, pk):
            return pk

        def delete(self, pk):
            return pk

    class FareApi(BaseApi):
        resource_name = "fare"

        @expose("/<port>")
        def get(self, port):
            return port

    class SailingApi(ModelRestApi):
        include_route_methods = {"get", "get_list"}
    """
PUT_ON = """
    appbuilder.add_view_no_menu(Tide)
    appbuilder.add_view(SailingView, "Sailings", category="a")
    appbuilder.add_api(FareApi)
    appbuilder.add_api(SailingApi)
"""
AT_ONCE = """
    from flask import Flask
    from flask_appbuilder import AppBuilder
    from views import FareApi, SailingApi, SailingView, Tide

    app = Flask(__name__)
    appbuilder = AppBuilder(app, None)
"""
LATER = """
    from flask import Flask
    from flask_appbuilder import AppBuilder
    from views import FareApi, SailingApi, SailingView, Tide

    appbuilder = AppBuilder()

    class Starter:
        def __init__(self, app):
            self.app = app

        def start(self):
            appbuilder.init_app(self.app, None)
            self.put_on()

        def put_on(self):
            appbuilder.add_view_no_menu(Tide)
            appbuilder.add_view(SailingView, "Sailings", category="a")
            appbuilder.add_api(FareApi)
            appbuilder.add_api(SailingApi)

    def create_app():
        app = Flask(__name__)
        starter = app.config.get("STARTER", Starter)(app)
        starter.start()
        return app
"""


@pytest.mark.parametrize("start", [AT_ONCE + PUT_ON, LATER], ids=["at once", "later"])
def test_a_builder_puts_classes_on_an_application_and_adds_its_own(start: Line) -> None:
    """The same 150 that the package lists for this application when it runs."""
    found = of({"app.py": start, "views.py": VIEWS})
    assert len(found) == 150
    assert {route for route in found if "/tides" in route or "fare" in route or "sailingapi" in route} == {
        "GET /tides/list/",
        "GET /tides/at/{port}",
        "POST /tides/at/{port}",
        "GET /tides/of/{port}",
        "GET /api/v1/fare/{port}",
        "GET /api/v1/sailingapi/",
        "GET /api/v1/sailingapi/{pk}",
    }
    sailings = {route.split(" ")[1].removeprefix("/sailingview") for route in found if "/sailingview" in route}
    assert {"/print/{pk}", "/list/", "/api/create"} <= sailings
    assert sailings.isdisjoint({"/api", "/api/read", "/delete/{pk}"})  # left out, and written over without an address
    assert {"GET /users/userinfo/", "POST /login/", "GET /static/appbuilder/{filename}"} <= found


def test_a_view_makes_a_blueprint_of_itself_for_a_builder_of_ones_own() -> None:
    """As the package does, so that others can."""
    own = """
        from flask import Flask
        from views import Tide

        app = Flask(__name__, static_folder=None)
        app.register_blueprint(Tide().create_blueprint(None))
        """
    assert of({"app.py": own, "views.py": VIEWS}) == {
        "GET /tides/list/",
        "GET /tides/at/{port}",
        "POST /tides/at/{port}",
        "GET /tides/of/{port}",
    }
