"""Litres an hour, by vessel."""
import asyncio
from importlib import resources


def rate(litres, hours):
    return round(litres / hours, 2) if hours else 0.0


async def rates(readings):
    async with asyncio.timeout(5):
        return {name: rate(*values) for name, values in readings.items()}


def table():
    return resources.files("ledger").joinpath("table.csv")
