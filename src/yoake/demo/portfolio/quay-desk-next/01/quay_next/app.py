"""The application of the new desk."""

from fastapi import FastAPI

from quay_next import sales, timetable

app = FastAPI(title="Quay desk", openapi_url=None)
app.include_router(timetable.router)
app.include_router(sales.router)
