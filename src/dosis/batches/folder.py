"""A folder of readings by one method, from the command line: answers as files, and a verdict for each."""

import json
import sys
from collections import Counter
from pathlib import Path

from pydantic import ValidationError

from dosis.batches.spread import batch
from dosis.batches.work import Failed
from dosis.from_files import Refused
from dosis.intake.methods.kept import KeptMethod
from dosis.intake.methods.shelf import SHIPPED
from dosis.output.answers import Cell
from dosis.output.exports.delimited import written
from dosis.served import served
from dosis.settings import Settings
from dosis.store.batches import Made

ALL, SOME, NONE = 0, 1, 2  # what the program ends with
READABLE = {".txt", ".csv", ".tsv", ".dat", ".asc", ".xlsx", ".xls", ".ods", ".json", ".jdx", ".dx", ".prn"}
HEADINGS: list[Cell] = [
    "File", "Verdict", "Headline", "What did not fit", "Name", "Role", "Bound", "Value", "Lower", "Upper", "Unit",
]  # fmt: skip


def method_named(name: str) -> KeptMethod:
    """A method from a file, by the name of one that ships with Dosis, or of the server that is running.

    Raises
    ------
    Refused : where there is none, naming those there are.
    """
    file = Path(name)
    if file.is_file():
        try:
            return KeptMethod.model_validate_json(file.read_bytes())
        except ValidationError as error:
            raise Refused(f"{name} is not a method: {error.errors()[0]['msg']}.") from error
    known = {each.name.casefold(): each for each in SHIPPED}
    if name.casefold() in known:
        return known[name.casefold()]
    here = _methods_here()
    if name.casefold() in here:
        id = here[name.casefold()]
        return KeptMethod.model_validate(json.loads(served(f"methods/{id}"))["body"])
    there = ", ".join(f"“{each.name}”" for each in SHIPPED)
    also = "" if here else " No server is running here whose methods could be asked for."
    raise Refused(f"There is no method “{name}”. With Dosis come {there}.{also}")


def _methods_here() -> dict[str, int]:
    try:
        return {each["name"].casefold(): each["id"] for each in json.loads(served("methods"))}
    except OSError:
        return {}


def work_folder(folder: Path, method: KeptMethod, out: Path, workers: int | None = None) -> int:
    """Work every readable file of a folder: answers.csv, an outcome for each file, and the code to end with.

    What each file came to is told as it comes; files of other kinds are named at the end.

    Raises
    ------
    Refused : where there is nothing to work.
    """
    files = sorted(each for each in folder.iterdir() if each.is_file()) if folder.is_dir() else [folder]
    readable = [each for each in files if each.suffix.lower() in READABLE]
    if not readable:
        raise Refused(f"There is no file of readings in {folder}: Dosis reads {', '.join(sorted(READABLE))}.")
    out.mkdir(parents=True, exist_ok=True)
    rows: dict[Path, list[list[Cell]]] = {}
    states: Counter[str] = Counter()
    for count, (file, made) in enumerate(batch(readable, method, workers=workers, address=Settings().cluster), start=1):
        rows[file] = _rows(file, made)
        states[made.worked.state if isinstance(made, Made) else "failed"] += 1
        if isinstance(made, Made):
            (out / f"{file.name}.outcome.json").write_bytes(made.worked.outcome)
        _tell(file, made, count, len(readable))
    table = [HEADINGS, *(row for file in readable for row in rows.get(file, []))]
    (out / "answers.csv").write_bytes(written(table))
    left = [each.name for each in files if each not in readable]
    if left:
        print(f"Not read, being of another kind: {', '.join(left[:5])}{' …' if len(left) > 5 else ''}", file=sys.stderr)
    passed = states["pass"] + states["look"]
    print(
        f"{len(readable)} files: {states['pass']} pass, {states['look']} to be looked at, {states['fail']} fail, "
        f"{states['failed']} not worked. Answers in {out / 'answers.csv'}",
        file=sys.stderr,
    )
    return ALL if passed == len(readable) else SOME if passed + states["fail"] else NONE


def _rows(file: Path, made: Made | Failed) -> list[list[Cell]]:
    if isinstance(made, Failed):
        return [[file.name, "not worked", made.why, *[None] * 8]]
    answers = json.loads(made.worked.answers or b"[]")
    head: list[Cell] = [file.name, made.worked.state, made.headline, made.noted]
    return [
        [*head, name, role, censor, value, lower, upper, made.worked.unit]
        for _, name, role, value, lower, upper, censor in answers
    ] or [[*head, *[None] * 7]]


def _tell(file: Path, made: Made | Failed, count: int, of: int) -> None:
    said = made.headline if isinstance(made, Made) else made.why
    state = {"pass": "✓", "look": "!", "fail": "✗"}[made.worked.state] if isinstance(made, Made) else "✗"
    if sys.stderr.isatty():
        done = round(24 * count / of)
        print(f"\r\x1b[K{state} {file.name}: {said}", file=sys.stderr)
        print(f"[{'█' * done}{'·' * (24 - done)}] {count} of {of}", end="" if count < of else "\n", file=sys.stderr)
        sys.stderr.flush()
    else:
        print(f"{count}/{of} {state} {file.name}: {said}", file=sys.stderr)
