"""The command line: serve, demo, and evaluating a file without a server."""

import json
from collections.abc import Callable
from pathlib import Path
from typing import Annotated

import typer

app = typer.Typer(add_completion=False, no_args_is_help=True, rich_markup_mode=None, pretty_exceptions_enable=False)


def _serve(folder: str, *, demo: bool) -> None:
    # Imported here so that `evaluate` starts without the web.
    from dosis.demo.load import load
    from dosis.settings import Settings
    from dosis.store.private_server import ServerError
    from dosis.web.serve import serve as run

    settings = Settings()
    try:
        run(settings, settings.home / folder, load if demo else None)
    except ServerError as error:
        typer.echo(f"dosis: {error}", err=True)
        raise typer.Exit(1) from error
    except KeyboardInterrupt:
        raise typer.Exit(130) from None


@app.command()
def serve() -> None:
    """Serve your own studies."""
    _serve("lab", demo=False)


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
    from dosis.batch import Refused, evaluate_files

    try:
        code, said, warned = evaluate_files(files, question=question, model=model, method=method, json_out=json_out)
    except Refused as error:
        typer.echo(f"dosis: {error}", err=True)
        raise typer.Exit(2) from error
    for line in warned:
        typer.echo(f"! {line}", err=True)
    typer.echo(said, nl=False)
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
    from dosis.batch import Refused

    try:
        warned = work()
    except Refused as error:
        typer.echo(f"dosis: {error}", err=True)
        raise typer.Exit(2) from error
    for line in warned:
        typer.echo(f"! {line}", err=True)


@app.command()
def schema() -> None:
    """Print the JSON schema of what `evaluate --json` writes."""
    from dosis.batch import outcome_schema

    typer.echo(json.dumps(outcome_schema(), indent=1, ensure_ascii=False))


if __name__ == "__main__":
    app()
