"""The command line: serve, demo, and evaluating a file without a server."""

import json
from collections.abc import Callable
from contextlib import closing
from pathlib import Path
from typing import Annotated, NoReturn

import typer

app = typer.Typer(add_completion=False, no_args_is_help=True, rich_markup_mode=None, pretty_exceptions_enable=False)


def _serve(folder: str, *, demo: bool, workers: int | None = None) -> None:
    # Imported here so that `evaluate` starts without the web.
    from dosis.demo.load import load
    from dosis.settings import Settings
    from dosis.store.private_server import ServerError
    from dosis.web.serve import serve as run

    settings = Settings()
    if workers is not None:
        settings.workers = workers
    try:
        run(settings, settings.home / folder, load if demo else None)
    except ServerError as error:
        typer.echo(f"dosis: {error}", err=True)
        raise typer.Exit(1) from error
    except KeyboardInterrupt:
        raise typer.Exit(130) from None


@app.command()
def serve(
    workers: Annotated[int | None, typer.Option(min=1, max=64, help="Processes that answer; DOSIS_WORKERS.")] = None,
) -> None:
    """Serve your own studies."""
    _serve("lab", demo=False, workers=workers)


@app.command()
def demo() -> None:
    """Serve the demo study; what is done in it is kept."""
    _serve("demo", demo=True)


@app.command()
def openapi() -> None:
    """Print the OpenAPI document, from which the front end's types are made."""
    from dosis.store.database import Database
    from dosis.web.app import create_app

    document = create_app(Database("mysql://nobody@127.0.0.1:9/none"), "nobody").openapi()
    typer.echo(json.dumps(document, indent=1, ensure_ascii=False))


@app.command()
def declared() -> None:
    """Print what the front end takes from the declarations: questions with their roles, roles, exports."""
    from dosis.web.declared import declared as found

    typer.echo(json.dumps(found(), indent=2, ensure_ascii=False))


@app.command()
def evaluate(
    files: Annotated[
        list[Path], typer.Argument(help="Readings: text, XLSX, ODS, JSON or JCAMP-DX; several are one run; - is stdin.")
    ],
    json_out: Annotated[
        Path | None, typer.Option("--json", help="Write the whole outcome here as JSON (its form: dosis schema).")
    ] = None,
    question: Annotated[str | None, typer.Option(help="What is asked; without it, what the table proposes.")] = None,
    model: Annotated[str | None, typer.Option(help="The curve, by its id, such as line or logistic4.")] = None,
    method: Annotated[Path | None, typer.Option(help="A JSON file with steps of the working, by kind.")] = None,
) -> None:
    """Evaluate readings and print the answers and the verdict.

    Ends with 0 when they are answered, 1 when a check has failed, 2 when there is no answer.
    """
    from dosis.from_files import Refused, evaluate_files

    try:
        code, said, warned = evaluate_files(files, question=question, model=model, method=method, json_out=json_out)
    except Refused as error:
        typer.echo(f"dosis: {error}", err=True)
        raise typer.Exit(2) from error
    for line in warned:
        typer.echo(f"! {line}", err=True)
    typer.echo(said, nl=False)
    raise typer.Exit(code)


@app.command()
def batch(
    folder: Annotated[Path, typer.Argument(help="A folder of files, each of which is one run.", exists=True)],
    method: Annotated[str, typer.Option(help="A method by its name, or a file that one was written out to.")],
    out: Annotated[Path | None, typer.Option(help="Where answers and outcomes go; by default “answers” in it.")] = None,
    workers: Annotated[int | None, typer.Option(help="How many processes; by default one a processor.")] = None,
) -> None:
    """Work every file of a folder by one method.

    Ends with 0 when all pass or are only to be looked at, 1 when some fail, 2 when none could be worked.
    """
    from dosis.batches.folder import method_named, work_folder
    from dosis.core.fitting.sigmoids.prepare import prepare
    from dosis.from_files import Refused

    try:
        found = method_named(method)
        prepare()
        code = work_folder(folder, found, out or folder / "answers", workers)
    except Refused as error:
        typer.echo(f"dosis: {error}", err=True)
        raise typer.Exit(2) from error
    raise typer.Exit(code)


Out = Annotated[Path, typer.Option("-o", "--out", help="Where to write it; the ending says what it is.")]
Question = Annotated[str | None, typer.Option(help="What is asked; without it, what the table proposes.")]
Model = Annotated[str | None, typer.Option(help="The curve, by its id, such as line or logistic4.")]
RunOrFiles = Annotated[
    list[str], typer.Argument(help="Readings, or the number of a run of the server that is running.")
]


@app.command()
def figure(
    what: RunOrFiles,
    out: Out,
    dpi: Annotated[int, typer.Option(help="Dots per inch of a PNG or TIFF: 150, 300, 600 or 1200.")] = 300,
    width: Annotated[str | None, typer.Option(help="Such as 85mm, 8.5cm or 3.35in.")] = None,
    height: Annotated[str | None, typer.Option(help="Such as 64mm.")] = None,
    look: Annotated[
        Path | None, typer.Option(help="A JSON file with a look: paper, words, axes, series, notes.")
    ] = None,
    question: Question = None,
    model: Model = None,
) -> None:
    """Draw the figure of readings, or of a run, as SVG, PDF, PNG or TIFF."""
    from dosis.printing import draw_files

    _told(lambda: draw_files(what, out, dpi=dpi, width=width, height=height, look=look, question=question, model=model))


@app.command()
def report(
    what: RunOrFiles,
    out: Out,
    paper: Annotated[str, typer.Option(help="A4 or Letter.")] = "A4",
    question: Question = None,
    model: Model = None,
) -> None:
    """Write the report of readings, or of a run, as PDF or HTML."""
    from dosis.printing import report_files

    _told(lambda: report_files(what, out, question=question, model=model, paper=paper))


def _told(work: Callable[[], list[str]]) -> None:
    """Do it, and say what was doubtful or refused."""
    from dosis.from_files import Refused

    try:
        warned = work()
    except Refused as error:
        typer.echo(f"dosis: {error}", err=True)
        raise typer.Exit(2) from error
    for line in warned:
        typer.echo(f"! {line}", err=True)


def _verify_ledger(folder: str) -> NoReturn:
    """Check the chain of a database, which is started where it does not run; ends the program."""
    from dosis.settings import Settings
    from dosis.store import seals
    from dosis.store.database import Database
    from dosis.store.private_server import ServerError, reached

    settings = Settings()
    try:
        with reached(settings.home / folder, settings.database_url) as url:
            store = Database(url)
            if store.pending():
                raise ServerError("This database is of an older version. Start Dosis once, which brings it up to date.")
            with store.transaction() as db:
                found = seals.check(db)
            store.close()
    except ServerError as error:
        typer.echo(f"dosis: {error}", err=True)
        raise typer.Exit(2) from error
    if found.broken is not None:
        typer.echo(f"The ledger does not fit from entry {found.broken} on: {found.why}.")
        raise typer.Exit(1)
    waiting = f"; {found.waiting} are still to be sealed" if found.waiting else ""
    typer.echo(f"{found.sealed:,} entries fit{waiting}. The last seal is {found.head or 'none yet'}.")
    raise typer.Exit(0)


@app.command()
def verify(
    archive: Annotated[Path | None, typer.Argument(help="An archive of a study.", exists=True, dir_okay=False)] = None,
    demo: Annotated[bool, typer.Option("--demo", help="The ledger of the demo study instead of your own.")] = False,
) -> None:
    """Work every revision of a study's archive out again, and say which answers differ; exit code 1 where some do.

    Without an archive: check the chain of the ledger, and name the first entry that does not fit.
    """
    if archive is None:
        _verify_ledger("demo" if demo else "lab")
    from dosis.core.fitting.sigmoids.prepare import prepare
    from dosis.intake.text import IntakeError
    from dosis.store.archive import Archive
    from dosis.store.verify import verify as verified

    try:
        with archive.open("rb") as file:
            found = Archive(file)
            altered = found.altered()
            for name in altered:
                typer.echo(f"! {name}: not as it was written", err=True)
            if altered:
                raise typer.Exit(1)
            prepare()
            differing = count = 0
            for each in verified(found):
                count += 1
                if not each.same:
                    differing += 1
                    typer.echo(f"! {each.title} ({each.run}), revision {each.revision}: {each.differs}")
    except IntakeError as error:
        typer.echo(f"dosis: {error}", err=True)
        raise typer.Exit(2) from error
    differ = "1 differs" if differing == 1 else f"{differing or 'none'} differ"
    typer.echo(f"{count} revisions worked out again; {differ}.")
    raise typer.Exit(1 if differing else 0)


Demo = Annotated[bool, typer.Option("--demo", help="Of the demo study instead of your own.")]


@app.command()
def backup(
    file: Annotated[Path, typer.Argument(help="Where to write it, such as backup.zip.")],
    demo: Demo = False,
    check: Annotated[bool, typer.Option(help="Bring it back into a place of its own before it counts.")] = True,
) -> None:
    """Back everything up into one file, also while Dosis runs; it is tried out before it counts."""
    from dosis.settings import Settings
    from dosis.store.backup import BackupError, back_up
    from dosis.store.private_server import ServerError, reached

    settings = Settings()
    try:
        with reached(settings.home / ("demo" if demo else "lab"), settings.database_url) as url:
            rows = back_up(url, file, check=check)
    except (BackupError, ServerError) as error:
        typer.echo(f"dosis: {error}", err=True)
        raise typer.Exit(1) from error
    tried = f"; brought back once and counted: {sum(rows.values()):,} rows in {len(rows)} tables" if rows else ""
    typer.echo(f"{file}, {file.stat().st_size / 1e6:.1f} MB{tried}.")


@app.command()
def restore(
    file: Annotated[Path, typer.Argument(help="A file that dosis backup wrote.", exists=True, dir_okay=False)],
    demo: Demo = False,
) -> None:
    """Bring a backup back into a new place: the folder DOSIS_HOME names, which must have no database yet."""
    from dosis.settings import Settings
    from dosis.store.backup import BackupError
    from dosis.store.backup import restore as restored
    from dosis.store.private_server import ServerError

    home = Settings().home / ("demo" if demo else "lab")
    try:
        rows = restored(file, home)
    except (BackupError, ServerError) as error:
        typer.echo(f"dosis: {error}", err=True)
        raise typer.Exit(1) from error
    typer.echo(f"{sum(rows.values()):,} rows in {len(rows)} tables are in {home}. Start with ./dosis serve.")


@app.command("let-in")
def let_in(email: Annotated[str, typer.Argument(help="The address of an account.")]) -> None:
    """Print a one-time link for somebody, where no administrator can: whoever runs this has the machine."""
    from dosis.served import address
    from dosis.settings import Settings
    from dosis.store import accounts
    from dosis.store.database import Database
    from dosis.store.private_server import ServerError, reached

    settings = Settings()
    try:
        with (
            reached(settings.home / "lab", settings.database_url) as url, closing(Database(url)) as store,
            store.transaction() as db,
        ):  # fmt: skip
            row = db.one("SELECT id FROM account WHERE email = %s", email.strip().lower())
            secret = accounts.link_again(db, row["id"], "Dosis, on its machine") if row else None
    except ServerError as error:
        typer.echo(f"dosis: {error}", err=True)
        raise typer.Exit(2) from error
    if secret is None:
        typer.echo(f"dosis: There is no open account of {email}.", err=True)
        raise typer.Exit(2)
    typer.echo(f"{address()}/welcome#{secret}\nIt works once, for {accounts.LINK_HOURS} hours.")


@app.command()
def schema() -> None:
    """Print the JSON schema of what `evaluate --json` writes."""
    from dosis.from_files import outcome_schema

    typer.echo(json.dumps(outcome_schema(), indent=1, ensure_ascii=False))


if __name__ == "__main__":
    app()
