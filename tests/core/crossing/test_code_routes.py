"""Routes are found in code that is written as people write it, for every framework, without running it."""

from __future__ import annotations

from textwrap import dedent

import pytest

from yoake.core.crossing.code_routes import CodeRoutes, read_code_routes
from yoake.core.registered import ECOSYSTEMS


def read(**files: str) -> CodeRoutes:
    texts = {path.replace("_dot_", "."): dedent(text).encode() for path, text in files.items()}
    return read_code_routes(list(texts), texts.get, ECOSYSTEMS)


def of(files: dict[str, str]) -> set[str]:
    texts = {path: dedent(text).encode() for path, text in files.items()}
    return {f"{r.method} {r.path}" for r in read_code_routes(list(texts), texts.get, ECOSYSTEMS).routes}


def handlers(files: dict[str, str]) -> dict[str, str]:
    texts = {path: dedent(text).encode() for path, text in files.items()}
    routes = read_code_routes(list(texts), texts.get, ECOSYSTEMS).routes
    return {f"{r.method} {r.path}": f"{r.handler} {r.file}:{r.line}" for r in routes}


def test_flask_blueprints_stand_below_one_another_and_a_factory_is_followed() -> None:
    found = handlers(
        {
            "desk/__init__.py": """
                from flask import Flask

                def create_app(config=None):
                    app = Flask(__name__, static_folder=None)
                    from desk.sailings import sailings
                    from . import tickets
                    app.register_blueprint(sailings)
                    tickets.init_app(app, prefix="/t")
                    for name in ("about", "help"):
                        app.add_url_rule(f"/{name}", name, view_func=lambda: name)
                    return app
                """,
            "desk/sailings.py": """
                from flask import Blueprint
                from flask.views import MethodView
                from functools import wraps

                sailings = Blueprint("sailings", __name__, url_prefix="/sailings")
                inner = Blueprint("inner", __name__)

                def guarded(view):
                    @wraps(view)
                    def wrapper(*args, **kwargs):
                        return view(*args, **kwargs)
                    return wrapper

                @inner.route("/<int:day>/<path:rest>", methods=["GET", "PUT"])
                @guarded
                def one(day, rest): ...

                class Boats(MethodView):
                    def get(self): ...
                    def post(self): ...

                inner.add_url_rule("/boats", view_func=Boats.as_view("boats"))
                sailings.register_blueprint(inner, url_prefix="/by")

                @sailings.get("")
                def all_of_them(): ...
                """,
            "desk/tickets.py": """
                def init_app(app, prefix):
                    @app.post(prefix + "/<code>/refund")
                    def refund(code): ...
                """,
        }
    )
    assert found == {
        "GET /about": "<lambda> desk/__init__.py:11",
        "GET /help": "<lambda> desk/__init__.py:11",
        "GET /sailings": "all_of_them desk/sailings.py:27",
        "GET /sailings/by/boats": "Boats desk/sailings.py:19",
        "POST /sailings/by/boats": "Boats desk/sailings.py:19",
        "GET /sailings/by/{day}/{rest}": "one desk/sailings.py:17",
        "PUT /sailings/by/{day}/{rest}": "one desk/sailings.py:17",
        "POST /t/{code}/refund": "refund desk/tickets.py:4",
    }


def test_resources_of_the_extensions_of_flask() -> None:
    assert of(
        {
            "app.py": """
                from flask import Flask
                from flask_restful import Api, Resource

                class Fare(Resource):
                    def get(self, port): ...
                    def delete(self, port): ...

                app = Flask(__name__, static_folder=None)
                api = Api(app, prefix="/api")
                api.add_resource(Fare, "/fares/<port>", "/f/<port>")
                """
        }
    ) == {"GET /api/fares/{port}", "DELETE /api/fares/{port}", "GET /api/f/{port}", "DELETE /api/f/{port}"}


def test_fastapi_routers_have_prefixes_and_applications_are_mounted() -> None:
    found = of(
        {
            "main.py": """
                from fastapi import FastAPI
                from .ports import router as ports
                app = FastAPI(openapi_url=None)
                sub = FastAPI(openapi_url=None)

                @sub.get("/inside")
                def inside(): ...

                app.include_router(ports, prefix="/v1")
                app.mount("/sub", sub)

                @app.websocket("/live")
                async def live(socket): ...

                app.add_api_route("/old", inside, methods=["PUT", "POST"])
                """,
            "ports.py": """
                from fastapi import APIRouter
                router = APIRouter(prefix="/ports", tags=["ports"])

                @router.get("/{port}/board")
                async def board(port: str): ...

                @router.api_route("/{rest:path}", methods=["PATCH"])
                def rest(rest): ...
                """,
        }
    )
    assert found == {
        "GET /sub/inside",
        "GET /v1/ports/{port}/board",
        "PATCH /v1/ports/{rest}",
        "WEBSOCKET /live",
        "PUT /old",
        "POST /old",
    }


def test_starlette_takes_lists_of_routes() -> None:
    assert of(
        {
            "app.py": """
                from starlette.applications import Starlette
                from starlette.routing import Mount, Route

                async def home(request): ...
                class Gate:
                    async def get(self, request): ...
                    async def post(self, request): ...

                inner = [Route("/gate/{number:int}", Gate)]
                app = Starlette(routes=[Route("/", home), Mount("/harbour", routes=inner)])
                """
        }
    ) == {"GET /", "GET /harbour/gate/{number}", "POST /harbour/gate/{number}"}


DJANGO = {
    "manage.py": 'import os\nos.environ.setdefault("DJANGO_SETTINGS_MODULE", "harbour.settings")\n',
    "harbour/__init__.py": "",
    "harbour/settings.py": """
        DEBUG = False
        INSTALLED_APPS = ["django.contrib.admin", "django.contrib.auth", "crew.apps.CrewConfig"]
        ROOT_URLCONF = "harbour.urls"
        """,
    "harbour/urls.py": """
        from django.conf import settings
        from django.urls import include, path, re_path
        from rest_framework.routers import SimpleRouter
        from crew import views

        router = SimpleRouter()
        router.register("shifts", views.Shifts)

        urlpatterns = [
            path("", views.home),
            path("crew/", include("crew.urls")),
            path("api/", include((router.urls, "api"))),
            re_path(r"^old/(?P<year>[0-9]{4})/(?:page-(?P<page>\\d+)/)?$", views.Archive.as_view()),
        ]
        if settings.DEBUG:
            urlpatterns += [path("debug/", views.home)]
        """,
    "crew/__init__.py": "",
    "crew/apps.py": "from django.apps import AppConfig\nclass CrewConfig(AppConfig):\n    name = 'crew'\n",
    "crew/urls.py": """
        from django.urls import path
        from . import views
        urlpatterns = [path("<slug:name>/", views.one), path("files/<path:rest>", views.one)]
        """,
    "crew/views.py": """
        from django.views.decorators.http import require_POST
        from django.views.generic import ListView
        from rest_framework.decorators import action
        from rest_framework.viewsets import ModelViewSet

        def home(request): ...

        @require_POST
        def one(request, name): ...

        class Archive(ListView): ...

        class Shifts(ModelViewSet):
            lookup_field = "code"
            http_method_names = ["get", "post"]

            @action(detail=True, methods=["post"], url_path="hand-over")
            def hand_over(self, request, code=None): ...
        """,
}


def test_django_is_read_from_its_settings_on() -> None:
    assert of(DJANGO) == {
        "ANY /",
        "POST /crew/{name}/",
        "POST /crew/files/{rest}",
        "GET /api/shifts/",
        "POST /api/shifts/",
        "GET /api/shifts/{code}/",
        "POST /api/shifts/{code}/hand-over/",
        "GET /old/{year}/page-{page}/",
    }


def test_what_settings_switch_on_is_there() -> None:
    files = DJANGO | {"harbour/settings.py": DJANGO["harbour/settings.py"].replace("DEBUG = False", "DEBUG = True")}
    assert of(files) - of(DJANGO) == {"ANY /debug/"}


def test_the_admin_has_addresses_for_every_model_that_is_registered() -> None:
    files = DJANGO | {
        "harbour/urls.py": "from django.contrib import admin\nfrom django.urls import path\n"
        'urlpatterns = [path("admin/", admin.site.urls)]\n',
        "crew/models.py": "from django.db import models\nclass Sailor(models.Model): ...\n",
        "crew/admin.py": "from django.contrib import admin\nfrom .models import Sailor\n"
        "@admin.register(Sailor)\nclass SailorAdmin(admin.ModelAdmin): ...\n",
    }
    found = of(files)
    assert {"GET /admin/crew/sailor/", "POST /admin/crew/sailor/add/", "GET /admin/auth/user/"} <= found
    assert "GET /admin/crew/boat/" not in found


def test_express_routers_in_other_files_and_routes_of_several_methods() -> None:
    found = handlers(
        {
            "app.js": """
                const express = require('express');
                const app = express();
                const save = (req, res) => {};
                app.use('/api', auth, require('./routes/boats'));
                app.route('/r/:id(\\\\d+)').get(show).post(save);
                ['a', 'b'].forEach((n) => app.all(`/x/${n}`, show));
                app.get('x');
                function auth(req, res, next) { next(); }
                function show(req, res) {}
                module.exports = app;
                """,
            "routes/boats.js": """
                const { Router } = require('express');
                const boats = require('../controllers/boats');
                const router = Router();
                router.get('/', boats.list);
                router['delete']('/:name/*', boats.remove);
                module.exports = router;
                """,
            "controllers/boats.js": """
                exports.list = (req, res) => res.json([]);
                exports.remove = async function remove(req, res) {};
                """,
        }
    )
    assert found == {
        "GET /api": "list controllers/boats.js:2",
        "DELETE /api/{name}/{any}": "remove controllers/boats.js:3",
        "GET /r/{id}": "show app.js:10",
        "POST /r/{id}": "save app.js:4",
        "ANY /x/a": "show app.js:10",
        "ANY /x/b": "show app.js:10",
    }


def test_express_in_typescript_with_classes() -> None:
    assert of(
        {
            "src/server.ts": """
                import express, { Application } from 'express';
                import { boats } from './boats';
                enum Prefix { Api = '/api' }
                export class Server {
                  public app: Application;
                  constructor(private readonly port: number) { this.app = express(); this.routes(); }
                  private routes(): void { this.app.use(Prefix.Api, boats); }
                }
                """,
            "src/boats.ts": """
                import { Router } from 'express';
                export const boats: Router = Router();
                boats.get('/boats/:id', async (req, res): Promise<void> => {});
                """,
        }
    ) == {"GET /api/boats/{id}"}


def test_koa_routers_nest_and_are_mounted() -> None:
    assert of(
        {
            "app.js": """
                const Koa = require('koa');
                const Router = require('@koa/router');
                const mount = require('koa-mount');
                const app = new Koa();
                const api = new Router({ prefix: '/api' });
                const inner = new Router();
                inner.get('named', '/boats/:id', async (ctx) => {});
                api.use('/v1', inner.routes(), inner.allowedMethods());
                api.del('/x', (ctx) => {});
                const sub = new Koa();
                sub.use(new Router().get('/y', (ctx) => {}).routes());
                app.use(api.routes()).use(mount('/sub', sub));
                """
        }
    ) == {"GET /api/v1/boats/{id}", "DELETE /api/x", "GET /sub/y"}


def test_fastify_plugins_stand_below_their_prefix_and_folders_are_loaded() -> None:
    assert of(
        {
            "server.js": """
                import Fastify from 'fastify';
                import fp from 'fastify-plugin';
                import autoload from '@fastify/autoload';
                import path from 'path';
                const app = Fastify();
                app.get('/health', async () => 'ok');
                app.register(async (inner) => {
                  inner.get('/', async () => 1);
                  inner.route({ method: ['GET', 'POST'], url: '/z/:q', handler });
                }, { prefix: '/p' });
                app.register(fp(async (inner) => { inner.put('/same', handler); }), { prefix: '/not-used' });
                app.register(autoload, { dir: path.join(__dirname, 'routes') });
                async function handler() {}
                """,
            "routes/boats/index.js": "module.exports = async (app) => { app.delete('/:id', async () => {}); };\n",
        }
    ) == {"GET /health", "GET /p", "GET /p/", "GET /p/z/{q}", "POST /p/z/{q}", "PUT /same", "DELETE /boats/{id}"}


def test_what_a_hook_calls_is_handed_the_application() -> None:
    found = of(
        {
            "board/app.py": """
                from functools import partial
                from flask import Flask
                from board import api

                def create_app():
                    app = Flask(__name__, static_folder=None)
                    hooks.call("load_blueprints", app=app)
                    for join in [partial(app.register_blueprint, api.api, url_prefix="/api/<key>")]:
                        join()
                    return app
                """,
            "board/api.py": """
                from flask import Blueprint
                api = Blueprint("api", __name__)

                @api.route("/posts")
                def posts(): ...
                """,
            "board/forum.py": """
                from flask import Blueprint
                forum = Blueprint("forum", __name__)

                @forum.route("/topics/<int:number>")
                def topic(number): ...

                def register_view(bp, routes, view):
                    for route in routes:
                        bp.add_url_rule(route, view_func=view)

                @hooks.implementation
                def load_blueprints(app):
                    register_view(forum, ["/markread", "/<slug>/markread"], topic)
                    app.register_blueprint(forum, url_prefix=app.config["FORUM_PREFIX"] + "/forum")
                """,
        }
    )
    assert found == {
        "GET /api/{key}/posts",
        "GET /forum/topics/{number}",
        "GET /forum/markread",
        "GET /forum/{slug}/markread",
    }


def test_express_is_put_together_in_steps_that_a_library_calls() -> None:
    found = of(
        {
            "install/setup.js": """
                var express = require('express'); var app = express();
                app.get('/install', page);
                """,
            "src/server.js": """
                var express = require('express');
                var app = express();
                var server = require('http').createServer(app);
                module.exports.listen = function (done) { prepare(app); start(done); };
                function prepare(app) { app.use(require('compression')()); }
                function start(done) {
                    async.waterfall([
                        async.apply(plugins.init),
                        function (next) { require('./routes')(app); next(); },
                    ], done);
                }
                """,
            "src/routes.js": """
                var express = require('express');
                module.exports = function (app) {
                    var routers = [express.Router(), express.Router()];
                    var base = settings.get('path');
                    page(routers[1], '/login', []);
                    for (var at = 0; at < routers.length; at++) {
                        app.use(base, routers[at]);
                    }
                    app.get(base + '/ping', pong);
                    app.get(`${base}/pong`, pong);
                };
                function page(router, name, steps) {
                    steps = steps.concat([count]);
                    router.get(name, steps, show);
                    router.get('/api' + name, steps, show);
                }
                """,
        }
    )
    assert found == {"GET /install", "GET /login", "GET /api/login", "GET /ping", "GET /pong"}


def test_what_a_tool_made_is_read_where_nothing_else_is_there() -> None:
    served = "import express from 'express'; const app = express(); app.get('/{0}', show);"
    assert of({"build/src/app.js": served.replace("{0}", "made")}) == {"GET /made"}
    both = {"build/src/app.js": served.replace("{0}", "made"), "src/app.js": served.replace("{0}", "written")}
    assert of(both) == {"GET /written"}


def test_routers_of_rest_say_what_they_leave_out_and_settings_have_defaults() -> None:
    found = of(
        {
            "desk/settings.py": "ROOT_URLCONF = 'desk.urls'",
            "desk/defaults.py": "OFFICE = 'office'",
            "desk/conf.py": """
                from django.conf import settings as own
                from desk import defaults

                class Settings:
                    def __getattr__(self, name):
                        try:
                            return getattr(own, name)
                        except AttributeError:
                            pass
                        return getattr(defaults, name)

                settings = Settings()
                """,
            "desk/urls.py": """
                from django.urls import include, path
                from rest_framework.routers import DefaultRouter
                from rest_framework.viewsets import ReadOnlyModelViewSet
                from desk.conf import settings

                class Plain(DefaultRouter):
                    include_root_view = False
                    include_format_suffixes = False

                class Boats(ReadOnlyModelViewSet): ...

                router = Plain()
                router.register("boats", Boats)
                urlpatterns = [path("api/", include(router.urls)), path(f"{settings.OFFICE}/", page)]
                """,
        }
    )
    assert found == {"GET /api/boats/", "GET /api/boats/{pk}/", "ANY /office/"}


def test_what_nobody_knows_inside_a_path_is_a_parameter() -> None:
    found = of(
        {
            "desk.py": """
                from flask import Flask
                from elsewhere import kinds
                app = Flask(__name__, static_folder=None)
                app.add_url_rule("/boats/" + kinds + "/<int:number>", view_func=boat)
                app.add_url_rule(f"/boats/{kinds}/all", view_func=boat)
                """,
            "desk.js": """
                const app = require('express')();
                app.get('/tides/' + settings.port + '/high', tide);
                app.get(`/tides/${settings.port}/low`, tide);
                """,
        }
    )
    assert found == {
        "GET /boats/{unknown}/{number}",
        "GET /boats/{unknown}/all",
        "GET /tides/{unknown}/high",
        "GET /tides/{unknown}/low",
    }


def test_the_admin_knows_who_the_users_are_and_packages_that_register_models() -> None:
    files = {
        "desk/settings.py": """
            ROOT_URLCONF = 'desk.urls'
            INSTALLED_APPS = ['django.contrib.auth', 'rest_framework.authtoken']
            """,
        "desk/urls.py": """
            from django.contrib import admin
            from django.urls import path
            urlpatterns = [path("admin/", admin.site.urls)]
            """,
    }
    assert {"GET /admin/auth/user/", "GET /admin/auth/group/", "GET /admin/authtoken/tokenproxy/"} <= of(files)
    files["desk/settings.py"] += "            AUTH_USER_MODEL = 'desk.Person'\n"
    assert "GET /admin/auth/group/" in of(files)
    assert "GET /admin/auth/user/" not in of(files)


def test_a_function_nobody_calls_cannot_use_up_what_the_application_needs() -> None:
    found = read(
        app_dot_py="""
            from fastapi import FastAPI
            app = FastAPI(openapi_url=None)

            @app.get("/sailings")
            def sailings(): ...

            @app.on_event("startup")
            def begin():
                work(app)

            def work(app, depth=0):
                for one in [0] * 3000:
                    for two in [0] * 3000:
                        app.state.rows = [one, two]
            """
    )
    assert {f"{r.method} {r.path}" for r in found.routes} == {"GET /sailings"}
    assert found.cut == ()


def test_an_application_of_the_tests_is_not_the_application() -> None:
    app = "from flask import Flask\napp = Flask(__name__, static_folder=None)\n@app.get('{}')\ndef f(): ...\n"
    assert of({"app.py": app.format("/real"), "tests/test_app.py": app.format("/fake")}) == {"GET /real"}


@pytest.mark.parametrize(
    "text",
    [
        "import app\nfrom app import *\nx = [x for x in x]\nwhile True:\n    app = Flask(__name__)\n",
        "def f(): return f()\nf()\nclass A(A): pass\nA()\n",
        "app.route(" * 300 + ")" * 300,
        "x = 'a' * 10 ** 9\ny = [0] * 10 ** 9\nfor i in range(10 ** 12): app.get(i)\n",
        "\x00\xff def (((",
        "f'{1" + "{" * 50,
        "def make():\n    app = Flask(__name__)\n    x = " + "(" * 900 + "1" + ")" * 900 + "\n",
        "def make():\n    app = Flask(__name__)\n    return app" + ".a" * 4000 + "\n",
        "@app.get('/deep')\ndef deep():\n    return flask" + ".a" * 4000 + "\n",
    ],
)
def test_code_that_means_harm_is_followed_to_an_end(text: str) -> None:
    source = (
        "from flask import Flask\n"
        + text
        + "\napp = Flask(__name__, static_folder=None)\n@app.get('/a')\ndef a(): ...\n"
    )
    read(app_dot_py=source)
    read_code_routes(["app.py"], lambda _path: source.encode(), ECOSYSTEMS, with_parts=True)


def test_a_source_without_any_framework_has_no_routes() -> None:
    assert read(a_dot_py="print(1)", b_dot_js="console.log(1)").routes == ()


def test_blueprints_that_an_application_looks_for_while_it_starts_are_found() -> None:
    files = {
        "desk/app.py": """
            import pkgutil
            from importlib import import_module
            from flask import Flask

            class Desk(Flask):
                def __init__(self, settings):
                    Flask.__init__(self, "desk", static_folder=None)
                    for _, name, _ in pkgutil.iter_modules(["desk/views"]):
                        self.register_blueprint(import_module(f"desk.views.{name}").pages)

            def make(settings):
                return Desk(settings)
            """,
        "desk/views/sailings.py": """
            from flask import Blueprint
            pages = Blueprint("sailings", __name__, url_prefix="/sailings")
            @pages.get("/<day>")
            def one(day): ...
            """,
        "tests/pages.py": """
            from flask import Blueprint
            pages = Blueprint("made", __name__, url_prefix="/made")
            @pages.get("/up")
            def up(): ...
            """,
    }
    assert of(files) == {"GET /sailings/{day}"}
    files["desk/app.py"] = files["desk/app.py"].replace(
        'import_module(f"desk.views.{name}").pages', '__import__("desk.views.sailings", None, None, ["pages"]).pages'
    )
    assert of(files) == {"GET /sailings/{day}"}
    files["desk/app.py"] = files["desk/app.py"].replace("self.register_blueprint", "print")
    assert of(files) == set()  # nothing registers anything


def test_what_other_packages_call_a_flask_or_a_blueprint_is_one() -> None:
    found = of(
        {
            "app.py": """
                from flask_folders import ManyFoldersFlask
                from flask_told import ToldBlueprint

                class App(ManyFoldersFlask):
                    pass

                pages = ToldBlueprint("pages", __name__, url_prefix="/pages")
                pages.add_url_rule("/a", view_func=lambda: "")
                app = App(__name__, static_folder=None)
                app.register_blueprint(pages)
                """
        }
    )
    assert found == {"GET /pages/a"}


def test_rules_inside_of_a_context_and_rules_that_leave_their_prefix() -> None:
    found = of(
        {
            "app.py": """
                from contextlib import contextmanager
                from flask import Blueprint, Flask
                from flask.blueprints import BlueprintSetupState

                class State(BlueprintSetupState):
                    def add_url_rule(self, rule, endpoint=None, view_func=None, **options):
                        if rule.startswith("!/"):
                            before, self.url_prefix = self.url_prefix, None
                            super().add_url_rule(rule[1:], endpoint, view_func, **options)
                            self.url_prefix = before
                        else:
                            super().add_url_rule(rule, endpoint, view_func, **options)

                class Pages(Blueprint):
                    def __init__(self, *args, **kwargs):
                        self.__before = ""
                        super().__init__(*args, **kwargs)

                    def make_setup_state(self, app, options, first_registration=False):
                        return State(self, app, options, first_registration)

                    def add_url_rule(self, rule, endpoint=None, view_func=None, **options):
                        super().add_url_rule(self.__before + rule, endpoint, view_func, **options)

                    @contextmanager
                    def below(self, path):
                        self.__before = path
                        yield
                        self.__before = ""

                class Locked:
                    def __enter__(self):
                        return "/locked"
                    def __exit__(self, *args): ...

                pages = Pages("pages", __name__, url_prefix="/pages")
                with pages.below("/<int:number>"):
                    pages.add_url_rule("/inside", view_func=print)
                pages.add_url_rule("/outside", view_func=print)
                pages.add_url_rule("!/top", view_func=print)
                with Locked() as path, open("x") as file:
                    pages.add_url_rule(path, view_func=print)
                app = Flask(__name__, static_folder=None)
                app.register_blueprint(pages)
                """
        }
    )
    assert found == {"GET /pages/{number}/inside", "GET /pages/outside", "GET /top", "GET /pages/locked"}
