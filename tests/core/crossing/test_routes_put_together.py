"""Routes of applications that are put together in ways which hide them: by compilers, hooks, walks over modules and helpers."""

from __future__ import annotations

import pytest

from tests.core.crossing.test_code_routes import handlers, of


def test_a_folder_inside_a_package_is_not_the_framework_of_its_name() -> None:
    found = of(
        {
            "desk/__init__.py": "",
            "desk/app.py": """
                import flask
                from desk.flask.mapping import put

                def get_app(config):
                    app = flask.Flask(__name__, static_folder=None)
                    put(app)
                """,
            "desk/flask/__init__.py": "",
            "desk/flask/mapping.py": "def put(app):\n    app.add_url_rule('/berths', view_func=print)\n",
        }
    )
    assert found == {"GET /berths"}


PARTS = {
    "desk/__init__.py": """
        from flask import Flask
        from desk.api import api

        app = Flask(__name__, static_folder=None)
        app.register_blueprint(api)
        """,
    "desk/api/__init__.py": "from flask import Blueprint\napi = Blueprint('api', __name__, url_prefix='/api')\n",
    "desk/api/tickets.py": "from desk.api import api\n\n@api.route('/tickets')\ndef tickets(): ...\n",
}


def test_modules_that_a_walk_brings_in_add_their_routes_and_others_do_not() -> None:
    assert of(PARTS) == set()
    walking = {"desk/start.py": "import importlib\n\nfor name in names():\n    importlib.import_module(name)\n"}
    assert of(PARTS | walking) == {"GET /api/tickets"}


def test_static_files_of_a_blueprint_whose_folder_nobody_knows() -> None:
    text = """
        from pathlib import Path
        from flask import Blueprint, Flask
        app = Flask(__name__, static_folder=None)
        app.register_blueprint(Blueprint("u", __name__, static_url_path="/of/users", static_folder=str(Path(x).parent)))
        """
    assert of({"app.py": text}) == {"GET /of/users/{filename}"}


def test_what_one_way_says_counts_where_the_other_says_nothing() -> None:
    found = of(
        {
            "app.py": """
                from flask import Flask
                app = Flask(__name__, static_folder=None)
                if HAS_DESK:
                    prefix = "/desk"
                else:
                    prefix = None

                def shared():
                    for folder in folders():
                        if folder.is_dir():
                            return folder
                    return ""

                if prefix:
                    app.add_url_rule(prefix + "/a", view_func=print)
                if shared():
                    app.add_url_rule("/b", view_func=print)
                """
        }
    )
    assert found == {"GET /desk/a", "GET /b"}


def test_the_admin_leaves_out_what_is_taken_out_and_sets_passwords() -> None:
    found = of(
        {
            "manage.py": "os.environ.setdefault('DJANGO_SETTINGS_MODULE', 'desk.settings')",
            "desk/settings.py": """
                ROOT_URLCONF = "desk.urls"
                INSTALLED_APPS = ["django.contrib.admin", "django.contrib.auth", "desk"]
                """,
            "desk/urls.py": """
                from django.contrib import admin
                from django.contrib.auth.models import Group
                from django.urls import path
                admin.site.unregister(Group)
                urlpatterns = [path("admin/", admin.site.urls)]
                """,
        }
    )
    assert {"GET /admin/auth/user/{id}/password/", "POST /admin/auth/user/{id}/password/"} <= found
    assert not [each for each in found if "/auth/group/" in each]


AWAITED = """
    "use strict";
    var __awaiter = (this && this.__awaiter) || function (thisArg, _arguments, P, generator) { return new P(); };
    var __generator = (this && this.__generator) || function (thisArg, body) { return {}; };
    var express_1 = require("express");
    function start() {
        return __awaiter(this, void 0, void 0, function () {
            var app, prefix;
            return __generator(this, function (_a) {
                switch (_a.label) {
                    case 0:
                        app = express_1();
                        return [4 /*yield*/, "/desk"];
                    case 1:
                        prefix = _a.sent();
                        app.get(prefix + "/a", function (q, r) { });
                        return [2 /*return*/, app];
                }
            });
        });
    }
    start().then(function (app) { });
    """
STEPPED = """
    "use strict";
    var _express = _interopRequireDefault(require("express"));
    function start() {
        return _start.apply(this, arguments);
    }
    function _start() {
        _start = _asyncToGenerator(/*#__PURE__*/_regeneratorRuntime().mark(function _callee() {
            var app, prefix;
            return _regeneratorRuntime().wrap(function _callee$(_context) {
                while (1) switch (_context.prev = _context.next) {
                    case 0:
                        app = (0, _express["default"])();
                        _context.next = 3;
                        return "/desk";
                    case 3:
                        prefix = _context.sent;
                        app.get(prefix + "/a", function (q, r) { });
                        return _context.abrupt("return", app);
                    case 6:
                    case "end":
                        return _context.stop();
                }
            }, _callee);
        }));
        return _start.apply(this, arguments);
    }
    start();
    """


@pytest.mark.parametrize("text", [AWAITED, STEPPED], ids=["typescript", "babel"])
def test_functions_that_a_compiler_cut_into_steps_are_followed_to_their_end(text: str) -> None:
    assert of({"index.js": text}) == {"GET /desk/a"}


def test_paths_that_helpers_of_the_source_join() -> None:
    found = of(
        {
            "app.js": """
                const express = require("express");
                const merge = require("lodash/merge");
                const urljoin = require("./urljoin");
                const settings = merge({}, { route: "/" }, require("./settings"), { api: { at: "api//" } });
                const app = express();
                app.get(urljoin(settings.route, settings.api.at, "state"), (q, r) => {});
                """,
            "settings.js": "module.exports = { api: { at: 'old/', inner: 1 } };",
            "urljoin.js": """
                module.exports = function urljoin() {
                    for (var _len = arguments.length, args = new Array(_len), _key = 0; _key < _len; _key++) {
                        args[_key] = arguments[_key];
                    }
                    return [].slice.call(args, 0).join("/").replace(/[\\/]+/g, "/");
                };
                """,
        }
    )
    assert found == {"GET /api/state"}


def test_what_a_class_does_when_it_is_made_and_hooks_that_are_handed_an_object() -> None:
    found = handlers(
        {
            "web.js": """
                const express = require("express");
                class Web {
                    server = { app: null };
                    constructor(settings) { this.settings = settings; void this.#init(); }
                    async #init() {
                        this.server.app = express();
                        this.server.app.get("/version", answer);
                    }
                }
                function answer(q, r) {}
                module.exports = Web;
                """,
            "hooks/pads.js": """
                const wrap = (handler) => (req, res, next) => handler(req, res).catch(next);
                exports.createServer = (hook, args, done) => {
                    args.app.post("/pads", wrap(async function make(req, res) {}));
                    done();
                };
                exports.others = ({ app, log }) => { app.get("/log", log); };
                """,
        }
    )
    assert set(found) == {"GET /version", "POST /pads", "GET /log"}
    assert found["POST /pads"].endswith("hooks/pads.js:4")
    assert found["GET /version"] == "answer web.js:11"


STARTED = {
    "manage.py": "os.environ.setdefault('DJANGO_SETTINGS_MODULE', 'desk.settings')",
    "desk/settings.py": """
        ROOT_URLCONF = "desk.urls"
        INSTALLED_APPS = ("desk.apps.berths", "desk.apps.cranes.apps.CranesApp", "desk.apps.quiet")
        """,
    "desk/urls.py": "urlpatterns = []\n",
    "desk/apps/__init__.py": "",
    "desk/base.py": """
        from django import apps
        from django.conf.urls import include, url
        from django.utils.module_loading import import_string

        class Setting:
            @property
            def value(self):
                return ""
            @value.setter
            def value(self, given): ...

        before = Setting()

        class DeskApp(apps.AppConfig):
            app_url = None
            def ready(self):
                from desk.urls import urlpatterns
                start = before.value
                if start:
                    start = "{}/".format(start)
                top = "{a}{b}/".format(a=start, b=self.app_url or self.name.rsplit(".")[-1])
                urlpatterns += (
                    url(regex=r"^{}".format(top), view=include((import_string(dotted_path="{}.urls.urlpatterns".format(self.name)), "x"))),
                )
        """,
    "desk/apps/berths/__init__.py": "",
    "desk/apps/berths/apps.py": "from desk.base import DeskApp\n\nclass BerthsApp(DeskApp):\n    name = 'desk.apps.berths'\n    app_url = 'quay'\n",
    "desk/apps/berths/urls.py": "from django.urls import path\nurlpatterns = [path('free/', print)]\n",
    "desk/apps/cranes/__init__.py": "",
    "desk/apps/cranes/apps.py": "from desk.base import DeskApp\n\nclass CranesApp(DeskApp):\n    name = 'desk.apps.cranes'\n",
    "desk/apps/cranes/urls.py": "from django.urls import path\nurlpatterns = [path('all/', print)]\n",
    "desk/apps/quiet/__init__.py": "",
    "desk/apps/quiet/apps.py": "from django.apps import AppConfig\n\nclass QuietApp(AppConfig):\n    name = 'desk.apps.quiet'\n",
}


def test_addresses_that_applications_put_together_while_they_start() -> None:
    assert of(STARTED) == {"ANY /quay/free/", "ANY /cranes/all/"}


def test_addresses_that_packages_bring_which_are_not_in_the_source() -> None:
    urls = """
        from django.urls import include, path
        urlpatterns = [path("accounts/", include("allauth.urls")), path("own/", include("unheard.of.urls"))]
        """
    found = of({"manage.py": "", "settings.py": "ROOT_URLCONF = 'urls'\n", "urls.py": urls})
    assert {"ANY /accounts/login/", "ANY /accounts/confirm-email/{key}/"} <= found
    assert not [each for each in found if "/own" in each]


def test_patterns_that_include_themselves_come_to_an_end() -> None:
    urls = """
        from django.urls import include, path
        urlpatterns = [path("a/", print)]
        for each in range(40):
            urlpatterns.append(path("x/", include(urlpatterns)))
        """
    assert of({"settings.py": "ROOT_URLCONF = 'urls'\n", "urls.py": urls}) == {"ANY /a/"}


def test_what_typescript_waits_for_through_an_import_and_copies_of_an_application() -> None:
    found = of(
        {
            "index.js": """
                "use strict";
                const express_1 = require("express");
                const lodash_1 = require("lodash");
                const api_1 = require("./api");
                class Server {
                    constructor() { this.app = express_1(); }
                    start() {
                        const app = this.app;
                        app.parts = { "a": (it) => it.get("/of-a", x) };
                        return new Promise(async (resolve) => {
                            app.apis = await (0, api_1.startApis)(app);
                            const copied = { ...app, more: 1 };
                            lodash_1.each(app.parts, (part) => part(new Proxy(copied, {})));
                            Object.assign({}, app).get("/assigned", x);
                        });
                    }
                }
                module.exports = Server;
                """,
            "api.js": """
                exports.startApis = (app) => { app.get("/api", (q, r) => {}); return []; };
                """,
        }
    )
    assert found == {"GET /api", "GET /of-a", "GET /assigned"}
