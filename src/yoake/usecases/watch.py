"""Standing watch: what is done by itself every so many days, a forecast kept each week, and the digest that tells of it."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from datetime import datetime, timedelta

from yoake.context.context import Context
from yoake.core.portfolio.axis import Axis
from yoake.core.values.errors import YoakeError
from yoake.formats.digests import digest_mail
from yoake.runner.mail import MailServer, send_mail, write_mail
from yoake.store.applications import Application, list_applications
from yoake.store.crossings import all_crossings
from yoake.store.watch import KeptForecast, Watch, has_work, keep_forecasts, keep_work, read_watch, write_watch
from yoake.usecases.cross import crossing_rules
from yoake.usecases.grow_shares import grow_shares
from yoake.usecases.route_steps import renew_route_steps
from yoake.usecases.set_watch import _NOBODY, addresses
from yoake.usecases.take_record import take_record
from yoake.views.digest import digest, period_of
from yoake.views.forecasts import work_now
from yoake.views.wave_bars import wave_bars
from yoake.views.wave_plans import planned

Ask = Callable[[list[Application], str], list[int]]
"""Asks for something to be done with applications, in somebody's name."""


@dataclass(frozen=True, slots=True)
class Watcher:
    """Who does what is due. ``scan``, ``look_up`` and ``scan_next`` ask for it; ``mail``: a server, None for files only."""

    context: Context
    scan: Ask
    look_up: Ask
    scan_next: Ask
    mail: MailServer | None = None

    def do_what_is_due(self) -> list[str]:
        """Do it, and say what was done. What fails is said, and tried again next time."""
        watch, now = read_watch(self.context.db), self.context.clock()
        done = []
        applications = list_applications(self.context.db)
        if applications and _due(watch.rescan_days, watch.rescanned_at, now):
            self.scan(applications, "")
            self._keep(lambda w: replace(w, rescanned_at=self.context.stamp))
            done.append(f"{len(applications)} applications are scanned again")
        if applications and _due(watch.next_days, watch.next_at, now):
            self.scan_next(applications, "")
            self._keep(lambda w: replace(w, next_at=self.context.stamp))
            done.append(f"{len(applications)} applications are scanned against the lines after their destinations")
        if applications and _due(watch.records_days, watch.looked_up_at, now):
            self.look_up(applications, "")
            self._keep(lambda w: replace(w, looked_up_at=self.context.stamp))
            done.append(f"records of {len(applications)} applications are looked up")
        if applications and keep_forecast(self.context):
            done.append("this week’s forecast was kept")
        if _due(watch.digest_days, watch.digest_at, now):
            done.append(self._digest(watch))
        done.extend(self._crossings())
        return done

    def _crossings(self) -> Iterator[str]:
        """What gateways wrote down is taken in, also while nobody looks; says which rules cannot be read."""
        for crossing in all_crossings(self.context.db):
            try:
                rules = crossing_rules(self.context, crossing)
                taken = take_record(self.context, crossing, rules)
                yield from grow_shares(self.context, taken, rules)
                renew_route_steps(self.context, taken, crossing_rules(self.context, taken))
            except YoakeError as error:
                yield f"a crossing was left out: {error}"

    def _digest(self, watch: Watch) -> str:
        made = digest(self.context, max(watch.digest_days, 1))
        self._keep(lambda w: replace(w, digest_at=self.context.stamp))
        message = digest_mail(
            made,
            period_of(made),
            self.mail.sender if self.mail is not None else _NOBODY,
            addresses(watch.mail_to) or [_NOBODY],
            self.context.clock(),
        )
        path = write_mail(self.context.home.folder / "digests", f"{made.until}", message)
        if self.mail is None or not watch.mail_to:
            return f"the digest lies in {path}"
        try:
            send_mail(self.mail, message)
        except YoakeError as error:
            return f"{error} It lies in {path}."
        return f"the digest went to {watch.mail_to}"

    def _keep(self, change: Callable[[Watch], Watch]) -> None:
        with self.context.db.write() as connection:
            write_watch(connection, change(read_watch(self.context.db)))


def _due(days: int, last: str | None, now: datetime) -> bool:
    return days > 0 and (last is None or now - datetime.fromisoformat(last) >= timedelta(days=days))


def keep_forecast(context: Context) -> bool:
    """Keep what is left this week, and what its forecast says of each stage; False where that was done already."""
    week = Axis(context.today).monday
    if has_work(context.db, week):
        return False
    plan = planned(context)
    numbers = {a.slug: a.id for a in list_applications(context.db)}
    bars = wave_bars(plan.portfolio.problem, plan.waves.table, plan.simulated)
    rows = [
        KeptForecast(
            application=numbers[bar.application],
            stage=bar.key.split("|")[1],
            made=week,
            p50=bar.p50,
            p80=bar.p80,
            late=bar.late,
        )
        for bar in bars
        if bar.application in numbers
    ]
    with context.db.write() as connection:
        keep_work(connection, replace(work_now(plan), made=week))
        keep_forecasts(connection, rows)
    return True
