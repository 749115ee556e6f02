"""git as a child process that never prompts, runs no hook, and obeys no configuration of what is scanned."""

from __future__ import annotations

import hashlib
import os
import re
import subprocess
from collections.abc import Iterator
from pathlib import Path
from typing import Final

from yoake.core.errors import BadSource

_SECONDS: Final = 600
_SAFE: Final = (
    "-c",
    "core.fsmonitor=false",
    "-c",
    "core.hooksPath=/dev/null",
    "-c",
    "protocol.ext.allow=never",
    "-c",
    "core.askPass=",
    "-c",
    "gc.auto=0",
    "-c",
    "safe.directory=*",
)
_URL: Final = re.compile(r"^(https?|ssh|git|file)://|^[\w.-]+@[\w.-]+:")


def is_url(text: str) -> bool:
    """Whether a source is a git URL rather than a path."""
    return bool(_URL.match(text))


def is_repository(path: Path) -> bool:
    """Whether a path is a git repository, with a work tree or bare."""
    return (path / ".git").exists() or ((path / "HEAD").is_file() and (path / "objects").is_dir())


def _environment() -> dict[str, str]:
    """The person's own agent and credential helper stay in force; nothing may ask."""
    kept = {k: v for k, v in os.environ.items() if not k.startswith("GIT_")}
    kept.update(
        GIT_TERMINAL_PROMPT="0",
        GIT_ASKPASS="/bin/false",
        SSH_ASKPASS="/bin/false",
        GIT_ALLOW_PROTOCOL="file:git:http:https:ssh",
        GIT_SSH_COMMAND="ssh -o BatchMode=yes -o ConnectTimeout=20",
        GIT_CONFIG_NOSYSTEM="0",
        LC_ALL="C",
    )
    return kept


def _git(*arguments: str, folder: Path | None = None) -> bytes:
    where = ("--git-dir", str(folder)) if folder is not None else ()
    try:
        done = subprocess.run(
            ["git", *_SAFE, *where, *arguments],
            capture_output=True,
            timeout=_SECONDS,
            check=False,
            env=_environment(),
            stdin=subprocess.DEVNULL,
        )
    except FileNotFoundError as error:
        raise BadSource("git is not installed on this machine; install it, or give a folder or an archive.") from error
    except subprocess.TimeoutExpired as error:
        raise BadSource(f"git did not answer within {_SECONDS} seconds.") from error
    if done.returncode != 0:
        said = done.stderr.decode("utf-8", "replace").strip().splitlines()
        raise BadSource(said[-1].removeprefix("fatal: ") if said else f"git ended with {done.returncode}")
    return done.stdout


class GitRepository:
    """A mirror of the repository in our own folder; the original is only ever read."""

    def __init__(self, mirror: Path) -> None:
        self.mirror = mirror
        self._reader: subprocess.Popen[bytes] | None = None

    def resolve(self, ref: str) -> str:
        """The commit a ref names. Raises BadSource."""
        wanted = ref or "HEAD"
        if wanted.startswith("-"):
            raise BadSource(f"“{ref}” is no ref.")
        for name in (wanted, f"origin/{wanted}"):
            try:
                return (
                    _git(
                        "rev-parse", "--verify", "--quiet", "--end-of-options", f"{name}^{{commit}}", folder=self.mirror
                    )
                    .decode()
                    .strip()
                )
            except BadSource:
                continue
        heads = _git(
            "for-each-ref", "--format=%(refname:short)", "--count=12", "refs/heads", "refs/tags", folder=self.mirror
        )
        known = ", ".join(heads.decode().split()) or "none: the repository has no commit yet"
        raise BadSource(f"There is no ref “{wanted}” here. Refs: {known}.")

    def tree(self, commit: str) -> Iterator[tuple[str, str, int, str]]:
        """(path, blob, size, mode) of every file of a commit."""
        listing = _git("ls-tree", "-r", "-z", "-l", "--full-tree", commit, folder=self.mirror)
        for row in listing.split(b"\0"):
            if not row:
                continue
            head, _, path = row.partition(b"\t")
            mode, kind, blob, size = head.decode().split()
            if kind == "blob":
                yield path.decode("utf-8", "replace"), blob, int(size), mode

    def blob(self, name: str) -> bytes:
        """The bytes of one blob, through one long-lived child."""
        if self._reader is None:
            self._reader = subprocess.Popen(
                ["git", *_SAFE, "--git-dir", str(self.mirror), "cat-file", "--batch"],
                stdin=subprocess.PIPE,
                stdout=subprocess.PIPE,
                stderr=subprocess.DEVNULL,
                env=_environment(),
            )
        reader = self._reader
        if reader.stdin is None or reader.stdout is None:
            raise OSError("git gives no answer")
        reader.stdin.write(name.encode() + b"\n")
        reader.stdin.flush()
        head = reader.stdout.readline().split()
        if len(head) != 3:
            raise OSError("git does not have this blob")
        data = reader.stdout.read(int(head[2]))
        reader.stdout.read(1)
        return data

    def close(self) -> None:
        """End the child that reads blobs."""
        reader, self._reader = self._reader, None
        if reader is None:
            return
        for stream in (reader.stdin, reader.stdout):
            if stream is not None:
                stream.close()
        reader.terminate()
        reader.wait(timeout=20)


def mirror(source: str, mirrors: Path) -> GitRepository:
    """Fetch ``source`` (URL or path) into our own bare copy. Raises BadSource."""
    if source.startswith("-"):
        raise BadSource(f"“{source}” is no repository.")
    path = Path(source).expanduser()
    if not is_url(source):
        if not path.is_dir():
            raise BadSource(f"There is no folder “{source}”, and it is no git URL.")
        if not is_repository(path):
            raise BadSource(f"{source} is a plain folder, not a git repository, so it has no ref. Leave the ref empty.")
        source = str(path.resolve())
    folder = mirrors / (hashlib.sha256(source.encode()).hexdigest()[:24] + ".git")
    if not (folder / "HEAD").exists():
        mirrors.mkdir(parents=True, exist_ok=True)
        _git("init", "--quiet", "--bare", "--template=", str(folder))
    try:
        _git(
            "fetch",
            "--quiet",
            "--force",
            "--prune",
            "--tags",
            "--no-recurse-submodules",
            "--",
            source,
            "+refs/heads/*:refs/heads/*",
            "+HEAD:refs/yoake/head",
            folder=folder,
        )
    except BadSource as error:
        if "find remote ref HEAD" in str(error):
            raise BadSource(f"{source} has no commit yet. Commit something, then scan.") from error
        raise BadSource(
            f"{source} cannot be fetched: {error}. Is it a repository you can reach with your own git?"
        ) from error
    _git("symbolic-ref", "HEAD", "refs/yoake/head", folder=folder)
    return GitRepository(folder)
