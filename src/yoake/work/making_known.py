"""Make a library known: its timeline and its release record, built from what the package client gives."""

from __future__ import annotations

import json

from yoake.core.coordinates import Coordinate
from yoake.core.errors import BadCoordinate, Stopped
from yoake.store.applications import Application, list_applications
from yoake.store.scans import latest_scan
from yoake.work.building import build
from yoake.work.cataloguing import build_catalogue
from yoake.work.office import Office
from yoake.work.scanning import Control, Progress


def check_makeable(coordinate: Coordinate) -> Coordinate:
    """The coordinate, when a package client exists for it. Raises BadCoordinate."""
    if coordinate.ecosystem not in ("pypi", "npm"):
        raise BadCoordinate(f"{coordinate.short} cannot be made known: only packages of PyPI and npm can.")
    return coordinate


def make_known(office: Office, coordinate: Coordinate, control: Control) -> None:
    """Build everything that can be known of one package. Raises BadSource when the package client does not know it."""
    check_makeable(coordinate)
    done = 0

    def say(_word: str) -> None:
        nonlocal done
        done += 1
        control.say(Progress(f"reading {coordinate.short}", done))
        if control.stopped():
            raise Stopped(f"Making {coordinate.short} known was stopped; nothing was kept of it.")

    control.say(Progress(f"asking for {coordinate.short}"))
    folder = office.home.knowledge
    build_catalogue(coordinate, folder / "catalogue", office.today, say, office.knowledge)
    build(coordinate, [], folder / "timelines", say)
    office.look_again()  # what uses it is scanned again at once, and must not meet the old knowledge


def users_of(office: Office, coordinate: Coordinate) -> list[Application]:
    """Applications whose newest scan names this package."""
    found = []
    for application in list_applications(office.db):
        scan = latest_scan(office.db, application.id, application.destination.id)
        packages = json.loads(scan["detail"])["packages"] if scan is not None else []
        if any(package["coordinate"] == coordinate.purl for package in packages):
            found.append(application)
    return found
