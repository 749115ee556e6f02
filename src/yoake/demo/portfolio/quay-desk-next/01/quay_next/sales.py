"""Tickets and fares. Money is counted in whole pennies."""

from fastapi import APIRouter, HTTPException

from quay_next.timetable import SAILINGS

router = APIRouter()
PENNIES = {("harrow", "isle"): 1235, ("isle", "harrow"): 1235, ("harrow", "skerry"): 785}


def fare(start: str, end: str, adults: int, children: int) -> float:
    """A child pays half; half a penny is rounded up."""
    each = PENNIES.get((start, end), 2000)
    return (each * adults + (each + 1) // 2 * children) / 100


def ticket(code: str) -> dict:
    if not (code.startswith("W") and code[1:].isdigit()):
        raise HTTPException(404)
    number = int(code[1:])
    sailing = SAILINGS[number % 4]
    found = {"code": code, "sailing": sailing["code"], "adults": 1 + number % 3, "children": number % 2}
    return {**found, "fare": fare(sailing["from"], sailing["to"], found["adults"], found["children"])}


@router.get("/tickets/{code}")
async def look_up(code: str) -> dict:
    return ticket(code)


@router.get("/fares")
async def fares(adults: int = 1, children: int = 0, to: str = "isle") -> dict:
    return {"from": "harrow", "to": to, "fare": fare("harrow", to, adults, children)}
