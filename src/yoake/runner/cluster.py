"""Jobs on an existing cluster (Dask ``distributed``): each is one task, which runs in a guarded process on the machine it lands on.

So limits, stops and lost processes mean the same there as here, and results come back as they would from this machine.
What a job reads must lie at the same place on every machine of the cluster: a shared folder, or a URL.
"""

from __future__ import annotations

import pickle
import threading
import time
import uuid
from collections.abc import Callable
from typing import Any, Final

from distributed import CancelledError, Client, Event, Future, KilledWorker, get_client, get_worker
from distributed import TimeoutError as TookTooLong

from yoake.core.values.errors import BadInput, LimitReached, Stopped
from yoake.runner.executor import Limits, ProcessExecutor, Work

_LOOK_EVERY: Final = 0.2  # seconds between two looks of the server
_ASK_EVERY: Final = 0.5  # seconds between two questions of a job whether it is to stop
_CONNECTS_WITHIN: Final = 20.0
_TRIES: Final = 3  # machines that may be lost under one job


class ClusterExecutor:
    """Sends jobs to a scheduler. May be called from several threads at once."""

    def __init__(self, address: str, limits: Limits | None = None) -> None:
        self.address = address
        self.limits = limits or Limits()
        self._closed = threading.Event()
        try:
            self._client = Client(address, timeout=_CONNECTS_WITHIN, set_as_default=False, name="yoake")
        except (OSError, TookTooLong, ValueError) as error:
            raise BadInput(
                f"The cluster at {address} does not answer ({error}). Start its scheduler, or unset YOAKE_CLUSTER."
            ) from error

    def run(self, work: Work, say: Callable[[Any], None], stopped: Callable[[], bool]) -> Any:
        """The result of a job. Raises Stopped, LimitReached, what the work raises, or BrokenJob."""
        name = f"yoake-{uuid.uuid4().hex}"
        stop = Event(name, client=self._client)
        self._client.subscribe_topic(name, lambda event: say(pickle.loads(event[1])))  # noqa: S301  from our own job
        future: Future[Any] = self._client.submit(run_there, work, self.limits, name, key=name, pure=False, retries=0)
        try:
            while not future.done():
                self._closed.wait(_LOOK_EVERY)
                if stopped() or self._closed.is_set():
                    stop.set()
                    future.cancel()
                    raise Stopped("Stopped. What the last finished scan found is still here.")
            result = future.result()
        except (KilledWorker, CancelledError) as error:
            raise LimitReached(
                f"The machines of the cluster that ran this job were lost {_TRIES} times. Look at their logs, then try again."
            ) from error
        finally:
            self._client.unsubscribe_topic(name)
            future.release()
        if isinstance(result, Exception):
            raise result
        return result

    def rest(self) -> None:
        """The cluster is not ours to give back."""

    def close(self) -> None:
        """Let go of what runs, and of the scheduler."""
        self._closed.set()
        time.sleep(_LOOK_EVERY)  # those who wait see it and stop their jobs
        self._client.close()


def run_there(work: Work, limits: Limits, name: str) -> object:
    """What runs on a machine of the cluster: the job in a process of its own; an error comes back as the result."""
    worker, stop = get_worker(), Event(name, client=get_client())
    asked = time.monotonic()

    def stopped() -> bool:
        nonlocal asked
        if time.monotonic() - asked < _ASK_EVERY:
            return False
        asked = time.monotonic()
        return bool(stop.is_set())

    executor = ProcessExecutor(limits)
    try:
        return executor.run(work, lambda body: worker.log_event(name, pickle.dumps(body)), stopped)
    except Exception as error:  # noqa: BLE001  told to the server as it is; the cluster would wrap it
        return error
    finally:
        executor.close()
