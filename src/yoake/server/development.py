"""The application for a server that starts anew with every change of the code."""

from __future__ import annotations

from fastapi import FastAPI

from yoake.context.context import open_context
from yoake.runner.home import default_home
from yoake.server.app import create_app
from yoake.shipped import KIT
from yoake.usecases.jobs import JOBS
from yoake.usecases.queue import Queue


def development() -> FastAPI:
    """The application; its home comes from the environment."""
    context = open_context(default_home(), KIT)
    return create_app(context, Queue(context=context, kinds=JOBS))
