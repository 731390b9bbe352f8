"""The application factory."""

from collections.abc import Iterable
from functools import partial
from pathlib import Path

from fastapi import FastAPI, Response
from limits.strategies import FixedWindowRateLimiter
from sqlalchemy import Engine
from starlette.exceptions import HTTPException
from starlette.middleware.gzip import GZipMiddleware
from starlette.staticfiles import StaticFiles
from starlette.types import Scope

from zesty_copper import __doc__ as summary
from zesty_copper.api.description import share_problems
from zesty_copper.api.gate.access import is_signed_in, must_be_signed_in
from zesty_copper.api.gate.arrival import Arrival
from zesty_copper.api.gate.csrf import Csrf
from zesty_copper.api.gate.guard import RequestGuard
from zesty_copper.api.gate.idle import LastAsked, Times, letting_go
from zesty_copper.api.load_tests import LoadTests
from zesty_copper.api.problems import add_handlers, responses
from zesty_copper.api.routes.calls import call_router
from zesty_copper.api.routes.catalogue import catalogue_router
from zesty_copper.api.routes.door import door_router
from zesty_copper.api.routes.filing import filing_router
from zesty_copper.api.routes.follow_up import follow_up_router
from zesty_copper.api.routes.hand_over import hand_over_router
from zesty_copper.api.routes.health import health_router
from zesty_copper.api.routes.load_tests import load_test_router
from zesty_copper.api.routes.opening import opening_router
from zesty_copper.api.routes.people import people_router
from zesty_copper.api.routes.ratings import rating_router
from zesty_copper.api.routes.repair import repair_router
from zesty_copper.api.routes.work import work_router
from zesty_copper.store.attempts import Attempts

__all__ = ["create_app"]


class Pages(StaticFiles):
    """The built pages; any path that is not a file is the application's one page."""

    async def get_response(self, path: str, scope: Scope) -> Response:
        """Answer with the file, or with the page."""
        if path.split("/", maxsplit=1)[0] == "api":
            raise HTTPException(404)
        is_asset = path.startswith("assets/")
        response = await super().get_response(path if is_asset or "." in Path(path).name else "index.html", scope)
        # Assets carry their content's hash in their names; the page must always be asked for anew.
        response.headers["cache-control"] = "public, max-age=31536000, immutable" if is_asset else "no-cache"
        return response


def create_app(
    engine: Engine | None,
    pages: Path | None = None,
    names: Iterable[str] = (),
    *,
    secret: str = "",
    clamp: tuple[str, int] | None = None,
    is_local: bool = False,
) -> FastAPI:
    """Make the application.

    Parameters
    ----------
    engine
        The database; None only to describe the routes.
    pages
        Folder of the built pages, if they are to be served.
    names
        Host names by which the server is known, besides its addresses and `localhost`.
    secret
        What the tokens of pages are signed with, the same for every process on the database.
    clamp
        Where a logging clamp is reached; none: there is none.
    is_local
        Whether it serves this machine alone, so that the demo's people may be offered.
    """
    app = FastAPI(
        title="Zesty Copper",
        description=summary,
        docs_url=None,
        openapi_url=None,
        redoc_url=None,
        separate_input_output_schemas=False,
        lifespan=letting_go,
    )
    add_handlers(app)
    share_problems(app)
    app.add_middleware(Arrival, is_signed_in=partial(is_signed_in, engine))
    app.state.engine = engine
    app.state.is_local = is_local
    if engine is not None:
        app.state.load_tests = LoadTests(engine, clamp)
        app.state.limiter = FixedWindowRateLimiter(Attempts(engine))
    app.state.times = Times()
    app.add_middleware(LastAsked, state=app.state.times)
    app.include_router(health_router)
    app.include_router(door_router)
    for router in (
        people_router,
        filing_router,
        catalogue_router,
        call_router,
        opening_router,
        work_router,
        rating_router,
        repair_router,
        load_test_router,
        hand_over_router,
        follow_up_router,
    ):
        app.include_router(router, dependencies=[must_be_signed_in], responses=responses(401, 403))
    app.add_middleware(Csrf, secret=secret)
    app.add_middleware(GZipMiddleware, minimum_size=1000, compresslevel=5)
    app.add_middleware(RequestGuard, names=tuple(names))
    if pages is not None:
        # What no route takes; a route asked by another method keeps its own answer.
        app.router.default = Pages(directory=pages, html=True)
    return app
