"""The application: the routers, the built front end, and what both stand on."""

import asyncio
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from importlib.resources import files
from pathlib import Path

from fastapi import APIRouter, FastAPI
from fastapi.responses import FileResponse, HTMLResponse, Response
from fastapi.staticfiles import StaticFiles
from starlette.middleware.trustedhost import TrustedHostMiddleware

from ulvet import __version__
from ulvet.api import (
    bench,
    builds,
    colours,
    editions,
    figure,
    hours,
    jobs,
    learning,
    painting,
    plans,
    proofs,
    release,
    release_sets,
    reviews,
    shelf,
    sizes,
    sources,
    stock,
    strokes,
    trials,
    variants,
    versions,
    ways,
)
from ulvet.api.guard import Guard
from ulvet.api.jobs import Newsroom
from ulvet.api.problems import install_problems
from ulvet.store.folder import DataFolder
from ulvet.work.disk_budget import Keeper
from ulvet.work.importing import resume_uploads
from ulvet.work.issuing import resume_issues
from ulvet.work.job import ENDED, Job
from ulvet.work.releasing import resume_releases
from ulvet.work.shelf import resume_checks
from ulvet.work.studio import Studio
from ulvet.work.supervisor import Supervisor

__all__ = ["create_app", "front_end_folder"]

_UNBUILT = "<!doctype html><title>Ulvet</title><p>The front end is not built yet: run <code>make demo</code>."


def create_app(data: Path, front_end: Path | None = None) -> FastAPI:
    """The application on a data folder. Jobs run while it is up, and end with it."""
    newsroom = Newsroom()
    folder = DataFolder(data)

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        with folder.lock():

            def heard(job: Job) -> None:
                newsroom.tell(job)
                if job.state in ENDED:
                    keeper.wake()

            supervisor = Supervisor(data, heard)
            app.state.studio = Studio(folder, supervisor)
            app.state.studio.sessions.heard = newsroom.tell_change
            keeper = Keeper(app.state.studio)
            newsroom.open()
            supervisor.start()
            keeper.start()
            resume_uploads(app.state.studio)
            resume_checks(app.state.studio)
            resume_releases(app.state.studio)
            resume_issues(app.state.studio)
            yield
            newsroom.close()
            supervisor.close()
            keeper.close()

    app = FastAPI(title="Ulvet", version=__version__, lifespan=lifespan, docs_url=None, redoc_url=None,
                  openapi_url="/api/openapi.json")  # fmt: skip
    app.state.newsroom = newsroom
    app.state.brushes = asyncio.Semaphore(strokes.MOST_BRUSHES)
    app.add_middleware(TrustedHostMiddleware, allowed_hosts=["127.0.0.1", "localhost", "testserver"])
    app.add_middleware(Guard)
    install_problems(app)
    api = APIRouter(prefix="/api")
    for room in (
        shelf,
        sources,
        figure,
        editions,
        trials,
        ways,
        strokes,
        sizes,
        builds,
        variants,
        versions,
        release,
        release_sets,
        reviews,
        bench,
        colours,
        painting,
        plans,
        stock,
        hours,
        proofs,
        learning,
        jobs,
    ):
        api.include_router(room.router)
    app.include_router(api)
    _serve_front_end(app, front_end or front_end_folder())
    return app


def front_end_folder() -> Path:
    """Where the built front end lies: in the package, or beside it in a checkout."""
    packaged = Path(str(files("ulvet"))) / "front_end"
    return packaged if packaged.is_dir() else Path(__file__).parents[3] / "frontend" / "dist"


def _serve_front_end(app: FastAPI, folder: Path) -> None:
    if (folder / "assets").is_dir():
        app.mount("/assets", StaticFiles(directory=folder / "assets"), name="assets")

    @app.get("/{page:path}", include_in_schema=False)
    def page(page: str) -> Response:
        index = folder / "index.html"
        # Pages are routed in the browser; whatever is asked for under the API and is not there stays a 404.
        if page.startswith("api/"):
            return Response(status_code=404)
        return FileResponse(index) if index.is_file() else HTMLResponse(_UNBUILT, 503)
