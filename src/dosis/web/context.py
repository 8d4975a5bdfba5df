"""What routes need of the application: its database and who is working."""

from dataclasses import dataclass
from typing import Annotated, cast

from fastapi import Depends, Request

from dosis.store.database import Database


@dataclass(frozen=True)
class Context:
    """Handed to every route."""

    database: Database
    author: str
    instruments: tuple[str, ...] = ()


def _context(request: Request) -> Context:
    return cast(Context, request.app.state.context)


Here = Annotated[Context, Depends(_context)]
