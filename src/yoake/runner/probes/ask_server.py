"""Start a server, wait until it listens, ask it for some paths and say how each was answered. Runs by itself, with nothing beside it.

One argument: JSON with the ``words`` of the server (“{port}” stands for the port, which is in PORT too), the paths it is ``asked``
for, and the ``seconds`` in which it has to listen. Each answer is a line that begins with ``MARK``; the server is ended afterwards.
"""

import hashlib
import http.client
import json
import os
import socket
import subprocess
import sys
import time

MARK = "yoake-asked "
ANSWERS_WITHIN = 60.0
LARGEST = 64 * 1024**2


def main() -> int:
    """0 when every path was answered, 1 when the server never listened or left one without an answer."""
    order = json.loads(sys.argv[1])
    with socket.socket() as found:
        found.bind(("127.0.0.1", 0))
        port = found.getsockname()[1]
    words = [word.replace("{port}", str(port)) for word in order["words"]]
    try:
        server = subprocess.Popen(words, env={**os.environ, "PORT": str(port)}, stdin=subprocess.DEVNULL)
    except OSError as error:
        print(f"error: {words[0]} cannot be started: {error.strerror}", flush=True)
        return 1
    try:
        problem = wait(server, port, time.monotonic() + order["seconds"])
        if problem:
            print(problem, flush=True)  # below what the server itself said, which tells more
            return 1
        answers = [ask(port, path) for path in order["asked"]]
        for answer in answers:
            print(MARK + json.dumps(answer), flush=True)
        return int(any(answer["status"] == 0 for answer in answers))
    finally:
        server.terminate()
        try:
            server.wait(5)
        except subprocess.TimeoutExpired:
            server.kill()


def wait(server: "subprocess.Popen[bytes]", port: int, until: float) -> str:
    """Wait until something listens; why nothing does, in words."""
    while time.monotonic() < until:
        if server.poll() is not None:
            return f"the server ended with {server.returncode} before it listened"
        with socket.socket() as tried:
            tried.settimeout(1)
            if tried.connect_ex(("127.0.0.1", port)) == 0:
                return ""
        time.sleep(0.1)
    return "nothing listened on the port that PORT and {port} name"


def ask(port: int, path: str) -> dict:
    """How a path was answered; status 0 where it was not."""
    began = time.monotonic()
    connection = http.client.HTTPConnection("127.0.0.1", port, timeout=ANSWERS_WITHIN)
    try:
        connection.request("GET", path, headers={"Accept": "*/*", "User-Agent": "yoake"})
        answer = connection.getresponse()
        body = answer.read(LARGEST)
        said = {"status": answer.status, "reason": answer.reason, "kind": answer.headers.get_content_type()}
        made = {"bytes": len(body), "digest": hashlib.sha256(body).hexdigest()[:12]}
    except (OSError, http.client.HTTPException, ValueError) as error:
        said, made = {"status": 0, "reason": f"{type(error).__name__}: {error}", "kind": ""}, {"bytes": 0, "digest": ""}
    finally:
        connection.close()
    return {"path": path, "seconds": round(time.monotonic() - began, 3), **said, **made}


if __name__ == "__main__":
    sys.exit(main())
