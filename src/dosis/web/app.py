"""The application, composed: routes, guards, problem documents and the built pages."""

from asyncio import to_thread
from collections.abc import AsyncIterator, Sequence
from contextlib import asynccontextmanager
from pathlib import Path

from fastapi import FastAPI
from fastapi.responses import FileResponse, Response
from starlette.staticfiles import StaticFiles

from dosis import __version__
from dosis.batches.runner import Runner
from dosis.store.database import Database
from dosis.store.seals import Sealer
from dosis.web import problems
from dosis.web.access import ANYONE, all_declared
from dosis.web.compressed import Compressed
from dosis.web.context import Context, alone
from dosis.web.guard import Guard, Host
from dosis.web.headers import Headers
from dosis.web.mistakes import Mistakes
from dosis.web.pace import Pace
from dosis.web.provider import Provider
from dosis.web.readiness import Readiness
from dosis.web.routes import (
    archives,
    compare,
    courses,
    deciding,
    figures,
    files,
    house,
    intake,
    laying_out,
    ledger,
    methods,
    models,
    notes,
    numbers,
    people,
    reports,
    reviews,
    runs,
    shelf,
    sign_in,
    studies,
    trends,
)
from dosis.web.routes import batches as batch_routes
from dosis.web.routes import instruments as instrument_routes
from dosis.web.routes import provider as provider_routes

LOOPBACK = ("127.0.0.1", "localhost", "::1")


def create_app(
    database: Database,
    alone_as: str | None,
    pages: Path | None = None,
    hosts: Sequence[str] = LOOPBACK,
    instruments: Sequence[str] = (),
    readiness: Readiness | None = None,
    cluster: str = "",
    provider: Provider | None = None,
) -> FastAPI:
    """The app over a database.

    alone_as : the name of the one who has it to themselves and needs no sign-in; None where people have accounts.
    pages : folder of the built front end, when it is to be served.
    instruments : addresses ("host:port") of those connected.
    provider : by which people may sign in, beside passwords.
    readiness : waited for before a curve is fitted. cluster : a scheduler that batches are worked on, if not here.
    hosts : names it answers to; a page elsewhere that points its own name at this address gets nothing.
    """
    readiness = readiness or Readiness()
    batches, sealer = Runner(database, readiness.wait, cluster), Sealer(database)

    @asynccontextmanager
    async def living(_: FastAPI) -> AsyncIterator[None]:
        batches.start()
        sealer.start()
        yield
        await to_thread(batches.close)
        await to_thread(sealer.close)

    app = FastAPI(
        title="Dosis", version=__version__, docs_url=None, redoc_url=None, openapi_url="/api/openapi.json",
        lifespan=living,
        generate_unique_id_function=lambda route: route.name,
        responses={"default": {"model": problems.Problem, "description": "What went wrong, and what to do"}},
    )  # fmt: skip
    app.state.context = Context(
        database,
        batches,
        alone(alone_as) if alone_as else None,
        provider=provider,
        instruments=tuple(instruments),
        readiness=readiness,
    )
    app.add_middleware(Compressed, minimum_size=20_000, compresslevel=1)
    app.add_middleware(Guard)
    app.add_middleware(Pace)
    app.add_middleware(Headers)
    app.add_middleware(Host, names=hosts)
    app.add_middleware(Mistakes)
    problems.install(app)
    for routes in (
        studies,
        intake,
        files,
        archives,
        house,
        runs,
        methods,
        compare,
        notes,
        trends,
        courses,
        deciding,
        figures,
        reports,
        laying_out,
        shelf,
        models,
        ledger,
        numbers,
        sign_in,
        people,
        provider_routes,
        reviews,
        instrument_routes,
        batch_routes,
    ):
        app.include_router(routes.router)
    app.include_router(ledger.chain)
    app.include_router(reviews.lab)

    @app.get("/api/health", tags=["health"], dependencies=[ANYONE])
    def health() -> dict[str, str]:
        """Whether the database answers."""
        with database.transaction() as db:
            db.one("SELECT 1 AS up")
        return {"database": "up"}

    all_declared(app)
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
