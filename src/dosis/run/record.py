"""The base of everything a run is made of: immutable, strict about unknown fields, written the same way every time."""

from pydantic import BaseModel, ConfigDict


class Record(BaseModel):
    """An immutable value with named fields."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)
