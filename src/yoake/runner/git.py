"""git as a child process that never prompts, runs no hook, and obeys no configuration of what is scanned."""

from __future__ import annotations

import hashlib
import os
import re
import subprocess
from collections.abc import Iterator, Sequence
from datetime import UTC, datetime
from pathlib import Path
from typing import Final
from urllib.parse import unquote

from yoake.core.values.errors import BadSource
from yoake.runner.git_store import is_repository, read_refs, store_of

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
_CHUNK: Final = 64 * 1024
_MAX_COMMITS: Final = 5_000  # of one step: nobody works through more
_MAX_LISTING: Final = 100 * 1024**2  # bytes: 200,000 paths of 500
_MAX_PATH: Final = 64 * 1024  # bytes of one path; systems allow 4,096
_URL: Final = re.compile(r"^(https?|ssh|git|file)://|^[\w.-]+@[\w.-]+:")


def is_url(text: str) -> bool:
    """Whether a source is a git URL rather than a path."""
    return bool(_URL.match(text))


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

    def commit_times(self, commit: str, since: datetime, until: datetime, paths: Sequence[str]) -> list[datetime]:
        """When the commits up to one were written that touch these paths (none: any), between two times. Raises BadSource."""
        said = _git(
            "log",
            f"--max-count={_MAX_COMMITS}",
            "--format=%at",
            f"--since={since.isoformat()}",
            f"--until={until.isoformat()}",
            "--end-of-options",
            commit,
            "--",
            *(f":(literal){path}" for path in paths),
            folder=self.mirror,
        )
        return [datetime.fromtimestamp(int(row), UTC) for row in said.decode().split()]

    def tree(self, commit: str, inside: str = "", most: int = 200_000) -> Iterator[tuple[str, str, int, str]]:
        """(path, blob, size, mode) of every file of a commit, below a folder. Raises BadSource for more than ``most``.

        Trees may name one another many times over, so that a small repository unfolds without end: it is read as it comes.
        """
        arguments = [
            "ls-tree",
            "-r",
            "-z",
            "-l",
            "--full-tree",
            commit,
            "--",
            *([f":(literal){inside}/"] if inside else []),
        ]
        child = subprocess.Popen(
            ["git", *_SAFE, "--git-dir", str(self.mirror), *arguments],
            stdin=subprocess.DEVNULL,
            stdout=subprocess.PIPE,
            stderr=subprocess.DEVNULL,
            env=_environment(),
        )
        count, size, rest = 0, 0, b""
        try:
            while child.stdout is not None and (chunk := child.stdout.read1(_CHUNK)):  # type: ignore[attr-defined]
                *rows, rest = (rest + chunk).split(b"\0")
                count += len(rows)
                size += len(chunk)
                if count > most or size > _MAX_LISTING or len(rest) > _MAX_PATH:
                    raise BadSource(
                        f"Commit {commit[:10]} holds more than {most:,} files, or names without end. Scan its parts as subfolders instead."
                    )
                yield from filter(None, map(_tree_row, rows))
            if child.wait() != 0:
                raise BadSource(
                    f"Commit {commit[:10]} cannot be listed: the repository is damaged or not all of it is there."
                )
        finally:
            child.kill()
            child.wait()
            if child.stdout is not None:
                child.stdout.close()

    def blob(self, name: str, most: int) -> bytes:
        """The first ``most`` bytes of one blob, through one long-lived child."""
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
        size = int(head[2])
        data = reader.stdout.read(min(size, most))
        if size > most:
            self.close()  # the rest of it is not worth reading; the next blob gets a new child
        else:
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


def _tree_row(row: bytes) -> tuple[str, str, int, str] | None:
    head, _, path = row.partition(b"\t")
    mode, kind, blob, size = head.decode("ascii", "replace").split()
    return (path.decode("utf-8", "backslashreplace"), blob, int(size), mode) if kind == "blob" else None


def mirror(source: str, mirrors: Path) -> GitRepository:
    """Our own bare copy of ``source``, a URL (fetched) or a local repository (read in place). Raises BadSource."""
    if source.startswith("-") or "\n" in source:
        raise BadSource(f"“{source}” is no repository.")
    if source.startswith("file://"):
        source = unquote(source.removeprefix("file://"))
    if not is_url(source):
        return _local(source, mirrors)
    folder = _bare(mirrors, source)
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


def _bare(mirrors: Path, name: str, form: str = "sha1") -> Path:
    folder = mirrors / (hashlib.sha256(name.encode("utf-8", "surrogateescape")).hexdigest()[:24] + ".git")
    if not (folder / "HEAD").exists():
        mirrors.mkdir(parents=True, exist_ok=True)
        _git("init", "--quiet", "--bare", "--template=", f"--object-format={form}", str(folder))
    return folder


def _local(source: str, mirrors: Path) -> GitRepository:
    """A repository on this machine: git never opens it, only its objects through a repository of our own.

    So nothing that its configuration says (includes, hooks, helpers) has any effect, and nothing of it is copied.
    """
    path = Path(source).expanduser()
    if not path.is_dir():
        raise BadSource(f"There is no folder “{source}”, and it is no git URL.")
    if not is_repository(path):
        raise BadSource(f"{source} is a plain folder, not a git repository, so it has no ref. Leave the ref empty.")
    inside = store_of(path.resolve())
    refs = read_refs(inside)
    if "HEAD" not in refs:
        raise BadSource(f"{source} has no commit yet. Commit something, then scan.")
    folder = _bare(mirrors, f"local:{inside}", "sha256" if len(refs["HEAD"]) == 64 else "sha1")
    rows = [f"{commit} {'refs/yoake/head' if name == 'HEAD' else name}" for name, commit in refs.items()]
    _write(folder / "objects" / "info" / "alternates", f"{inside / 'objects'}\n")
    _write(
        folder / "packed-refs",
        "\n".join(["# pack-refs with: sorted ", *sorted(rows, key=lambda r: r.split(" ", 1)[1])]) + "\n",
    )
    _write(folder / "HEAD", "ref: refs/yoake/head\n")
    return GitRepository(folder)


def _write(path: Path, text: str) -> None:
    """Write a file so that another job on the same repository sees the old one or the new one."""
    path.parent.mkdir(parents=True, exist_ok=True)
    partial = path.with_name(f"{path.name}.{os.getpid()}.part")
    partial.write_text(text, "utf-8", "surrogateescape")
    partial.replace(path)
