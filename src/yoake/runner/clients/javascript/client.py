"""JavaScript's outside, as the contract wants it."""

from __future__ import annotations

from typing import Final

from yoake.core.ecosystems.javascript import JAVASCRIPT
from yoake.runner.clients.contract import Client
from yoake.runner.clients.javascript.environments import node_environment
from yoake.runner.clients.javascript.node_programs import program_for
from yoake.runner.clients.javascript.npm_client import npm_version
from yoake.runner.clients.javascript.records import npm_record, npm_records
from yoake.runner.clients.javascript.surfaces import archive_surface, build_node, build_npm
from yoake.runner.clients.locking import LockWriter

_NPM: Final = LockWriter(
    "package.json",
    ("npm", "install", "--package-lock-only", "--ignore-scripts", "--no-audit", "--no-fund", "--no-update-notifier"),
)

JAVASCRIPT_CLIENT: Final = Client(
    ecosystem=JAVASCRIPT,
    runtime=build_node,
    package=build_npm,
    file=archive_surface,
    files="an npm archive",
    record=npm_record,
    records=npm_records,
    environment=node_environment,
    available=program_for,
    installer=npm_version,
    locks={
        "package-lock.json": _NPM,
        "npm-shrinkwrap.json": _NPM,
        "pnpm-lock.yaml": LockWriter("package.json", ("pnpm", "install", "--lockfile-only", "--ignore-scripts")),
        "yarn.lock": LockWriter(
            "package.json", ("yarn", "install"), by_hand=True
        ),  # its settings may name a program of the project
    },
)
