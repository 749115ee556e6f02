"""Whether the interface's description of the server is the server's own; ``--write`` renews it."""

from __future__ import annotations

import json
import sys
import tempfile
from pathlib import Path

from yoake.context.context import open_context
from yoake.runner.home import Home
from yoake.server.app import create_app
from yoake.shipped import KIT
from yoake.usecases.jobs import JOBS
from yoake.usecases.queue import Queue

DESCRIPTION = Path(__file__).parent.parent / "web" / "openapi.json"


def main() -> int:
    with tempfile.TemporaryDirectory() as folder:
        context = open_context(Home(Path(folder)), KIT)
        shown = (
            json.dumps(create_app(context, Queue(context=context, kinds=JOBS)).openapi(), indent=1, ensure_ascii=False)
            + "\n"
        )
        context.db.close()
    if "--write" in sys.argv:
        DESCRIPTION.write_text(shown, "utf-8")
        return 0
    if DESCRIPTION.read_text("utf-8") != shown:
        sys.stderr.write("web/openapi.json is not what the server describes: run “make types” and commit both files.\n")
        return 1
    return 0


if __name__ == "__main__":
    sys.exit(main())
