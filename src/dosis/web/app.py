"""The application, composed: routes, guards, problem documents and the built pages."""

from collections.abc import Sequence
from pathlib import Path

from fastapi import FastAPI
from fastapi.responses import FileResponse, Response
from starlette.staticfiles import StaticFiles

from dosis import __version__
from dosis.store.database import Database
from dosis.web import problems
from dosis.web.compressed import Compressed
from dosis.web.context import Context
from dosis.web.guard import Guard, Host
from dosis.web.headers import Headers
from dosis.web.mistakes import Mistakes
from dosis.web.readiness import Readiness
from dosis.web.routes import (
    courses,
    figures,
    intake,
    laying_out,
    ledger,
    models,
    numbers,
    reports,
    runs,
    shelf,
    studies,
)
from dosis.web.routes import instruments as instrument_routes

LOOPBACK = ("127.0.0.1", "localhost", "::1")


def create_app(
    database: Database,
    author: str,
    pages: Path | None = None,
    hosts: Sequence[str] = LOOPBACK,
    instruments: Sequence[str] = (),
    readiness: Readiness | None = None,
) -> FastAPI:
    """The app over a database.

    pages : folder of the built front end, when it is to be served.
    instruments : addresses ("host:port") of those connected.
    readiness : waited for before a curve is fitted.
    hosts : names it answers to; a page elsewhere that points its own name at this address gets nothing.
    """
    app = FastAPI(
        title="Dosis", version=__version__, docs_url=None, redoc_url=None, openapi_url="/api/openapi.json",
        generate_unique_id_function=lambda route: route.name,
        responses={"default": {"model": problems.Problem, "description": "What went wrong, and what to do"}},
    )  # fmt: skip
    app.state.context = Context(database, author, tuple(instruments), readiness=readiness or Readiness())
    app.add_middleware(Compressed, minimum_size=20_000, compresslevel=1)
    app.add_middleware(Guard)
    app.add_middleware(Headers)
    app.add_middleware(Host, names=hosts)
    app.add_middleware(Mistakes)
    problems.install(app)
    for routes in (
        studies,
        intake,
        runs,
        courses,
        figures,
        reports,
        laying_out,
        shelf,
        models,
        ledger,
        numbers,
        instrument_routes,
    ):
        app.include_router(routes.router)

    @app.get("/api/health", tags=["health"])
    def health() -> dict[str, str]:
        """Whether the database answers."""
        with database.transaction() as db:
            db.one("SELECT 1 AS up")
        return {"database": "up"}

    if pages is not None:
        _serve_pages(app, pages)
    return app


def _serve_pages(app: FastAPI, pages: Path) -> None:
    beside = {file.name for file in pages.iterdir() if file.is_file()}
    app.mount("/assets", StaticFiles(directory=pages / "assets"), name="assets")

    @app.get("/{path:path}", include_in_schema=False)
    def page(path: str) -> Response:
        """The single page; files beside it (the icon) as they are; unknown addresses of the API are not pages."""
        if path.startswith("api/"):
            raise problems.NotFound("resource")
        if path in beside:
            return FileResponse(pages / path)
        return FileResponse(pages / "index.html", headers={"Cache-Control": "no-cache"})
