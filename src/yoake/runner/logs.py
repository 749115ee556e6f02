"""The log: one entry a line, with the request or job it belongs to; never the values of variables; files that rotate."""

from __future__ import annotations

import logging
import logging.handlers
import sys
from pathlib import Path
from typing import Any, Final

import structlog

_FILE_BYTES: Final = 10 * 1024**2
_FILES: Final = 5


def set_up_log(folder: Path | None = None) -> None:
    """Write to the terminal (plain words for a person, JSON otherwise), and as JSON into ``folder`` where one is given."""
    shared: list[Any] = [
        structlog.contextvars.merge_contextvars,
        structlog.stdlib.add_log_level,
        structlog.stdlib.PositionalArgumentsFormatter(),
        structlog.processors.TimeStamper(fmt="iso", utc=True),
        structlog.processors.format_exc_info,  # the plain traceback: rich ones print what variables hold
    ]
    structlog.configure(
        processors=[*shared, structlog.stdlib.ProcessorFormatter.wrap_for_formatter],
        logger_factory=structlog.stdlib.LoggerFactory(),
        wrapper_class=structlog.stdlib.BoundLogger,
        cache_logger_on_first_use=False,
    )
    as_json = structlog.stdlib.ProcessorFormatter(
        processors=[structlog.stdlib.ProcessorFormatter.remove_processors_meta, structlog.processors.JSONRenderer()],
        foreign_pre_chain=shared,
    )
    for_people = structlog.stdlib.ProcessorFormatter(
        processors=[
            structlog.stdlib.ProcessorFormatter.remove_processors_meta,
            structlog.dev.ConsoleRenderer(exception_formatter=structlog.dev.plain_traceback),
        ],
        foreign_pre_chain=shared,
    )
    terminal = logging.StreamHandler(sys.stderr)
    terminal.setFormatter(for_people if sys.stderr.isatty() else as_json)
    handlers: list[logging.Handler] = [terminal]
    if folder is not None:
        folder.mkdir(parents=True, exist_ok=True)
        held = logging.handlers.RotatingFileHandler(
            folder / "server.log", maxBytes=_FILE_BYTES, backupCount=_FILES, encoding="utf-8"
        )
        held.setFormatter(as_json)
        handlers.append(held)
    root = logging.getLogger()
    for handler in root.handlers[:]:
        root.removeHandler(handler)
        handler.close()
    for handler in handlers:
        root.addHandler(handler)
    root.setLevel(logging.INFO)
    for name in ("uvicorn", "uvicorn.error"):
        logging.getLogger(name).setLevel(logging.WARNING)
        logging.getLogger(name).propagate = True
