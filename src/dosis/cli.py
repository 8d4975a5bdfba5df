"""The command line: serve, demo, and evaluating a file without a server."""

import json
import sys
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
    file: Annotated[Path, typer.Argument(help="A table as CSV, TSV or semicolon-separated text; - reads stdin.")],
    json_out: Annotated[Path | None, typer.Option("--json", help="Write the whole outcome here as JSON.")] = None,
    question: Annotated[
        str, typer.Option(help="The question: concentration, additions, dose or mortality.")
    ] = "concentration",
) -> None:
    """Evaluate a table of readings and print the answers and the verdict."""
    from dosis.intake.text import IntakeError, decode
    from dosis.intake.understand import understand
    from dosis.output.terminal import answers_text
    from dosis.run.evaluate import evaluate as work
    from dosis.run.opening import opened
    from dosis.run.questions.registry import QUESTIONS

    if question not in QUESTIONS:
        typer.echo(f"dosis: “{question}” is not a question. There are: {', '.join(QUESTIONS)}.", err=True)
        raise typer.Exit(2)
    try:
        data = sys.stdin.buffer.read() if str(file) == "-" else file.read_bytes()
        intake = understand(decode(data))
    except (OSError, IntakeError) as error:
        typer.echo(f"dosis: {file}: {error}", err=True)
        raise typer.Exit(2) from error
    for statement in intake.understanding.statements:
        if statement.state != "ok":
            typer.echo(f"! {statement.text.replace('**', '')}", err=True)
    if intake.readings is None or intake.layout is None:
        raise typer.Exit(2)
    layout, method = opened(intake.readings, intake.layout, question)
    outcome = work(intake.readings, layout, method, whole=json_out is not None)
    if json_out:
        json_out.write_text(outcome.model_dump_json(indent=1) + "\n", "utf-8")
    typer.echo(answers_text(outcome), nl=False)


if __name__ == "__main__":
    app()
