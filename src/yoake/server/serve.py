"""Start the server in the foreground."""

from __future__ import annotations

import os
import sys
from collections.abc import Callable, Mapping
from contextlib import AbstractContextManager, closing
from dataclasses import dataclass, field
from importlib import import_module
from pathlib import Path
from typing import Final

import structlog
import uvicorn
from fastapi import FastAPI

from yoake.context.context import KEEP_SCANS, Context, open_context
from yoake.context.kit import Kit
from yoake.core.values.errors import BadInput, YoakeError
from yoake.runner.executor import Executor, Limits, ProcessExecutor
from yoake.runner.home import Home, locked
from yoake.runner.logs import set_up_log
from yoake.runner.mail import MailServer, read_mail_server
from yoake.server.guard import Reach
from yoake.server.identity import read_provider
from yoake.server.people import SignIn
from yoake.store.accounts import count_accounts
from yoake.usecases.queue import BESIDE, JobKinds, Queue
from yoake.usecases.sign_in import first_link
from yoake.usecases.take_in import drop_uploads

log = structlog.get_logger()

_LOOPBACK: Final = frozenset(("127.0.0.1", "localhost", "::1"))


@dataclass(frozen=True, slots=True, kw_only=True)
class Settings:
    """What whoever starts the server decides, from the environment.

    ``hosts``: names it answers to beside loopback and its own address; ``sources``: folders that may be taken in;
    ``mail``: where digests are handed over; ``secure``: a proxy in front speaks TLS, so cookies are sent over nothing else;
    ``cluster``: the address of a scheduler.
    """

    hosts: tuple[str, ...] = ()
    sources: tuple[Path, ...] = ()
    beside: int = BESIDE
    limits: Limits = field(default_factory=Limits)
    keep_scans: int = KEEP_SCANS
    secure: bool = False
    cluster: str = ""
    mail: MailServer | None = None


_TURN: Final = (
    0.0005  # seconds a thread goes on while others wait; a view reads hundreds of rows, and waits for its turn at each
)


def read_settings(environment: Mapping[str, str]) -> Settings:
    """Settings from ``YOAKE_…``. Raises BadInput with every fault at once."""
    faults: list[str] = []

    def number(name: str, fallback: float, least: float, most: float) -> float:
        text = environment.get(name, "")
        try:
            value = float(text) if text else fallback
        except ValueError:
            value = least - 1
        if not least <= value <= most:
            faults.append(f"{name} is “{text}”; it is a number from {least:g} to {most:g}.")
        return value

    default = Limits()
    minutes = number("YOAKE_JOB_MINUTES", default.seconds / 60, 0.1, 24 * 60)
    memory = number("YOAKE_JOB_MEMORY", default.memory / 1024**3, 0.5, 1024)
    beside = number("YOAKE_JOBS", BESIDE, 1, 64)
    kept = number("YOAKE_KEEP_SCANS", KEEP_SCANS, 1, 10_000)
    sources = [
        Path(part).expanduser().resolve() for part in environment.get("YOAKE_SOURCES", "").split(os.pathsep) if part
    ]
    faults += [f"YOAKE_SOURCES names {folder}, which is no folder." for folder in sources if not folder.is_dir()]
    hosts = tuple(host.strip().lower() for host in environment.get("YOAKE_HOSTS", "").split(",") if host.strip())
    https = environment.get("YOAKE_HTTPS", "0")
    if https not in ("0", "1"):
        faults.append(f"YOAKE_HTTPS is “{https}”; it is 1 behind a proxy that speaks TLS, else 0.")
    secure = https == "1"
    mail = None
    try:
        mail = read_mail_server(
            *(environment.get(f"YOAKE_SMTP{part}", "") for part in ("", "_FROM", "_USER", "_PASSWORD"))
        )
    except BadInput as error:
        faults.append(f"YOAKE_SMTP: {error}")
    if faults:
        raise BadInput(faults[0], tuple(faults))
    return Settings(
        hosts=hosts,
        sources=tuple(sources),
        beside=int(beside),
        limits=Limits(minutes * 60, int(memory * 1024**3)),
        keep_scans=int(kept),
        secure=secure,
        cluster=environment.get("YOAKE_CLUSTER", ""),
        mail=mail,
    )


@dataclass(frozen=True, slots=True)
class Parts:
    """What a server is put together from: what ships, the kinds of jobs, what makes the application that answers, and
    what does by itself what is due as long as it is entered."""

    kit: Kit
    jobs: JobKinds
    make_app: Callable[[Context, Queue, Reach, SignIn], FastAPI]
    watch: Callable[[Queue, MailServer | None], AbstractContextManager[None]]


def run_server(
    parts: Parts, home: Home, host: str, port: int, *, sign_in: bool = False, open_to_all: bool = False
) -> None:
    """Serve until stopped. Raises InUse when another server has this home, and YoakeError when the port is taken."""
    settings = read_settings(os.environ)
    provider = read_provider(os.environ)
    with locked(home, f"the server on {host}:{port}"), closing(open_context(home, parts.kit).db) as db:
        context = Context(home=home, db=db, kit=parts.kit)
        context.keep_scans = settings.keep_scans
        context.allowed = (*(settings.sources or (Path.home().resolve(),)), home.folder.resolve())
        warm(context)  # knowledge that breaks its format must stop the start, with its faults
        drop_uploads(context)
        required = sign_in or provider is not None or bool(count_accounts(db))
        if host not in _LOOPBACK and not required and not open_to_all:
            raise BadInput(
                f"On {host} others can reach this server, so people have to sign in: start it with --sign-in. On a network that you trust "
                "wholly, --open-to-all leaves it open."
            )
        set_up_log(home.folder / "logs")
        _serve(parts, context, host, port, settings, SignIn(required, settings.secure, provider))


def _serve(parts: Parts, context: Context, host: str, port: int, settings: Settings, signing: SignIn) -> None:
    queue = Queue(context=context, kinds=parts.jobs, beside=settings.beside, executor=_executor(settings))
    app = parts.make_app(context, queue, _reach(host, settings), signing)
    config = uvicorn.Config(app, host=host, port=port, log_config=None, access_log=False, timeout_graceful_shutdown=3)
    log.info("serving", address=f"http://{host}:{port}/", home=str(context.home.folder))
    sys.stdout.write(f"Yoake serves http://{host}:{port}/ (stop with Ctrl-C)\n")
    if not signing.required:
        sys.stdout.write(
            "Nobody has to sign in: whoever reaches this address may do everything. --sign-in asks for accounts.\n"
        )
    elif secret := first_link(context):
        outside = f"https://{settings.hosts[0]}" if settings.secure and settings.hosts else f"http://{host}:{port}"
        sys.stdout.write(f"Make the first account, within an hour: {outside}/first?token={secret}\n")
    sys.stdout.flush()
    sys.setswitchinterval(_TURN)
    try:
        with parts.watch(queue, settings.mail):
            uvicorn.Server(config).run()
    except SystemExit as error:
        raise YoakeError(
            f"Port {port} cannot be used; another program may listen there. Set YOAKE_PORT to another one."
        ) from error


def _executor(settings: Settings) -> Executor:
    """Where jobs run: on the cluster that is named, else in processes of this machine."""
    if not settings.cluster:
        return ProcessExecutor(settings.limits)
    try:
        module = import_module("yoake.runner.cluster")  # an extra that few install
    except ImportError as error:
        raise BadInput(f"YOAKE_CLUSTER needs the extra “cluster” (pip install yoake[cluster]): {error}.") from error
    made: Executor = module.ClusterExecutor(settings.cluster, settings.limits)
    return made


def _reach(host: str, settings: Settings) -> Reach:
    own = {host.lower(), f"[{host.lower()}]"} if host not in ("0.0.0.0", "::") else set()  # noqa: S104  told apart, not listened on
    return Reach(frozenset({*Reach().hosts, *own, *settings.hosts}))


def warm(context: Context) -> None:
    """Read the knowledge that nearly every scan needs, so that the first does not wait for it. Raises BadKnowledge."""
    for coordinate in context.ecosystems.runtimes:
        len(context.knowledge.timelines[coordinate].symbols)
