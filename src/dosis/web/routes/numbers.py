"""Numbers as they are typed into a setting: "10^0.5", "sqrt(10)"."""

from typing import Annotated

from fastapi import APIRouter, Query

from dosis.run.changes import ChangeError
from dosis.run.recipes import number
from dosis.run.record import Record
from dosis.web.access import READ

router = APIRouter(prefix="/api/number", tags=["numbers"])


class Number(Record):
    """What it comes to."""

    value: float


@router.get("", dependencies=[READ])
def work_out_number(text: Annotated[str, Query(max_length=100)]) -> Number:
    """A bare number as typed or worked out."""
    try:
        return Number(value=number(text))
    except ValueError as error:
        raise ChangeError(str(error)) from error
