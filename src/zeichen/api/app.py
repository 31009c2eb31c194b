"""The application: start and stop, routes, the built front end."""

import asyncio
import logging
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from pathlib import Path

from fastapi import FastAPI, Request
from fastapi.responses import HTMLResponse
from fastapi.staticfiles import StaticFiles

from zeichen import __version__
from zeichen.api.guard import Guard
from zeichen.api.hangups import Hangups
from zeichen.api.problems import DECLARED, tell
from zeichen.api.routes import (
    briefs,
    cleaning,
    collections,
    drawings,
    editing,
    jobs,
    products,
    scene,
    sketches,
    tracing,
    workshop,
)
from zeichen.api.workplace import Workplace
from zeichen.core.errors import OutsideError, ZeichenError
from zeichen.demo import Begun, begin_if_new, set_out
from zeichen.jobs import preparing
from zeichen.jobs.kinds import PLAIN, job_kinds
from zeichen.jobs.runner import JobRunner
from zeichen.jobs.settings import Settings, read_settings
from zeichen.jobs.workers import ProgressChannel, WorkerPool
from zeichen.store.database import Database

log = logging.getLogger("zeichen.api")
FRONT_END = Path(__file__).parent / "static"
_LIVE_WORKERS = 2
# Files from elsewhere are read in processes of their own, so that two bad ones hold nobody up.
_FOREIGN_WORKERS = 2
_WARM_UP_AFTER_S = 0.3


async def _demo(database: Database, runner: JobRunner, begun: Begun) -> None:
    try:
        await set_out(database, runner, begun)
    except ZeichenError:
        log.exception("the demo is not complete; it is set out anew at the next start")


def create_app(settings: Settings | None = None, *, with_demo: bool = False) -> FastAPI:
    """Return the app; its data folder is opened when it starts, and the demo set out in it if it is new."""
    chosen = settings or read_settings()

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        database = Database(chosen.data)
        channel = ProgressChannel()
        live = WorkerPool(_LIVE_WORKERS, chosen.live_limits())
        foreign = WorkerPool(_FOREIGN_WORKERS, chosen.live_limits())
        background = WorkerPool(chosen.workers, chosen.job_limits(), channel)
        runner = JobRunner(
            database,
            background,
            channel,
            job_kinds(),
            at_once=chosen.workers,
            prepares=preparing.KIND,
            plain=PLAIN,
        )
        await runner.start()
        app.state.workplace = Workplace(chosen, database, live, foreign, runner)

        prepared = await preparing.prepare_if_needed(runner)

        async def warm_up() -> None:
            # Only once the first page is out: what loads at the same time would slow it down.
            await asyncio.sleep(_WARM_UP_AFTER_S)
            if prepared is not None:
                await runner.wait(prepared.id)
            for pool in (live, background, foreign):
                await pool.warm_up()

        tasks = [asyncio.create_task(warm_up())]
        if with_demo and (begun := begin_if_new(database)) is not None:
            tasks.append(asyncio.create_task(_demo(database, runner, begun)))
        yield
        for task in tasks:
            task.cancel()
        await runner.close()
        for pool in (live, foreign, background):
            await asyncio.to_thread(pool.close)
        database.close()

    app = FastAPI(
        title="Zeichen",
        version=__version__,
        lifespan=lifespan,
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/openapi.json",
        generate_unique_id_function=lambda route: route.name,
        responses=DECLARED,
    )
    tell(app)
    routes = (scene, collections, briefs, sketches, cleaning, tracing, drawings, editing, products)
    for module in (*routes, workshop, jobs):
        app.include_router(module.router, prefix="/api")
    _serve_front_end(app)
    app.add_middleware(Hangups)
    app.add_middleware(Guard, port=chosen.port)
    return app


def _serve_front_end(app: FastAPI) -> None:
    assets = FRONT_END / "assets"
    if assets.is_dir():
        app.mount("/assets", StaticFiles(directory=assets), name="assets")

    @app.get("/", include_in_schema=False)
    def page(request: Request) -> HTMLResponse:
        index = FRONT_END / "index.html"
        if not index.exists():
            raise OutsideError("The screens have not been built. Run: make demo")
        html = index.read_text(encoding="utf-8").replace("__NONCE__", request.state.nonce)
        return HTMLResponse(html, headers={"Cache-Control": "no-store"})

    @app.get("/mark.svg", include_in_schema=False)
    def mark() -> HTMLResponse:
        return HTMLResponse((FRONT_END / "mark.svg").read_text(encoding="utf-8"), media_type="image/svg+xml")
