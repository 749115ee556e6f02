"""The command line, for people and for CI. Only the module of the command that was asked for is imported."""

from __future__ import annotations

import sys
from collections.abc import Sequence
from importlib import import_module
from typing import Final

import typer

from yoake import __version__
from yoake.core.values.errors import YoakeError

FAILED: Final = 2
_COMMANDS: Final = {
    "scan": "yoake.cli.scan",
    "path": "yoake.cli.path",
    "edit": "yoake.cli.edit",
    "run": "yoake.cli.run",
    "results": "yoake.cli.results",
    "ratchet": "yoake.cli.ratchet",
    "waves": "yoake.cli.waves",
    "forecast": "yoake.cli.waves",
    "digest": "yoake.cli.digest",
    "routes": "yoake.cli.routes",
    "gateway": "yoake.cli.gateway",
    "parity": "yoake.cli.parity",
    "waivers": "yoake.cli.waivers",
    "serve": "yoake.cli.serving",
    "demo": "yoake.cli.serving",
    "knowledge": "yoake.cli.knowledge",
    "backup": "yoake.cli.records",
    "check": "yoake.cli.records",
}
"""Command → the module that has it."""


def command_line(asked: str = "") -> typer.Typer:
    """The program with the command that was asked for, or with all of them."""
    app = typer.Typer(
        no_args_is_help=True,
        add_completion=False,
        pretty_exceptions_enable=False,
        help="See what a newer line breaks, and the way there.",
    )

    @app.callback()
    def program() -> None:
        """See what a newer line breaks, and the way there."""

    @app.command()
    def version() -> None:
        """Print the version."""
        typer.echo(__version__)

    for module in dict.fromkeys([_COMMANDS[asked]] if asked in _COMMANDS else _COMMANDS.values()):
        import_module(module).register(app)
    return app


def main(arguments: Sequence[str] | None = None) -> None:
    """Run the command line; errors meant for a person end with 2 and one sentence a fault."""
    given = list(sys.argv[1:] if arguments is None else arguments)
    try:
        command_line(given[0] if given else "")(given)
    except YoakeError as error:
        for fault in getattr(error, "faults", (str(error),)):
            sys.stderr.write(f"yoake: {fault}\n")
        sys.exit(FAILED)
    except KeyboardInterrupt:
        sys.stderr.write("yoake: stopped\n")
        sys.exit(FAILED)
