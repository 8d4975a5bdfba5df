"""The numbers of runs that are watched: written with each revision, read over all runs by a method."""

import json
from collections.abc import Collection

from pydantic import TypeAdapter

from dosis.run.measured import Measure
from dosis.run.trends import Run
from dosis.store.database import Cursor, Row
from dosis.store.within import within

_MANY = TypeAdapter(tuple[Measure, ...])
# All as one document, as answers are.
_PUT = """INSERT INTO measure (run_id, measure_key, place, title, unit, value, lower, upper, nominal, each_one)
SELECT %s, k, place, title, LEFT(unit, 60), value, lower, upper, nominal, own FROM JSON_TABLE(%s, '$[*]' COLUMNS (
    place FOR ORDINALITY, k VARCHAR(200) PATH '$.key', title VARCHAR(300) PATH '$.title',
    unit VARCHAR(200) PATH '$.unit', value DOUBLE PATH '$.value', lower DOUBLE PATH '$.lower',
    upper DOUBLE PATH '$.upper', nominal DOUBLE PATH '$.nominal', own JSON PATH '$.each')) AS found"""


def packed(measures: tuple[Measure, ...]) -> bytes:
    """As they are handed to the database; what is no number does not go there."""
    finite = tuple(each for each in measures if abs(each.value) < 1e300)
    return _MANY.dump_json(finite)


def put(db: Cursor, run: int, rows: bytes) -> None:
    """Replace the numbers of a run."""
    db.run("DELETE FROM measure WHERE run_id = %s", run)
    db.run(_PUT, run, rows.decode())


def of_method(db: Cursor, method: int, studies: Collection[int] | None = None) -> tuple[Run, ...]:
    """The runs by a method that are not thrown away, in time, with their numbers; in these studies where not in all."""
    allowed, values = within("run.study_id", studies)
    rows = db.all(
        "SELECT run.id, run.title AS run_title, run.created_at, measure.*"
        " FROM run JOIN measure ON measure.run_id = run.id LEFT JOIN batch_item AS item ON item.run_id = run.id"
        " LEFT JOIN batch ON batch.id = item.batch_id"
        " WHERE run.method_id = %s AND run.binned_at IS NULL AND run.gone_at IS NULL"
        f" AND {allowed}"
        # Files of a batch follow each other as they were named, not as they happened to be done.
        " ORDER BY COALESCE(batch.created_at, run.created_at), item.number, run.id, measure.place",
        method, *values,
    )  # fmt: skip
    found: dict[int, list[Row]] = {}
    for row in rows:
        found.setdefault(row["id"], []).append(row)
    return tuple(
        Run(id=id, title=own[0]["run_title"], at=own[0]["created_at"], measures=tuple(map(_measure, own)))
        for id, own in found.items()
    )


def _measure(row: Row) -> Measure:
    return Measure(
        key=row["measure_key"], title=row["title"], unit=row["unit"], value=row["value"], lower=row["lower"],
        upper=row["upper"], nominal=row["nominal"], each=tuple(json.loads(row["each_one"])),
    )  # fmt: skip
