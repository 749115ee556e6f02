"""Sailings and the boards in the ports."""

from fastapi import APIRouter
from fastapi.responses import HTMLResponse

router = APIRouter()
PORTS = {"harrow": "Harrowmere", "isle": "Isle of Brent", "skerry": "Skerry Light"}
SAILINGS = [
    {"code": "H1", "from": "harrow", "to": "isle", "leaves": "07:40", "minutes": 55, "seats": 120},
    {"code": "H2", "from": "harrow", "to": "isle", "leaves": "12:10", "minutes": 55, "seats": 120},
    {"code": "H3", "from": "harrow", "to": "skerry", "leaves": "09:00", "minutes": 35, "seats": 40},
    {"code": "I1", "from": "isle", "to": "harrow", "leaves": "16:20", "minutes": 55, "seats": 120},
]


@router.get("/sailings")
async def all_sailings() -> dict:
    return {"sailings": SAILINGS}


@router.get("/sailings/{day}")
async def of_day(day: str) -> dict:
    rows = [row for row in SAILINGS if row["to"] != "skerry" or not day.endswith("-sun")]
    return {"sailings": [{**row, "day": day} for row in rows], "day": day}


@router.get("/ports/{port}/board", response_class=HTMLResponse)
async def board(port: str) -> str:
    lines = "".join(
        f"<tr class=row><td>{row['leaves']}</td> <td>{PORTS[row['to']]}</td></tr>" for row in SAILINGS if row["from"] == port
    )
    return f"<!doctype html><body class=board><h1>{PORTS.get(port, 'No such port')}</h1>\n<table>{lines}</table></body>"
