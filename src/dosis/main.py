"""The program `dosis`, where the package is installed: the command line, or what is missing for it."""

import sys


def main() -> None:
    """Run the command line; a sentence where only the core is installed."""
    try:
        from dosis.cli import app
    except ImportError as error:
        sys.exit(
            f"dosis: the command line needs the server's packages ({error.name} is missing). Install them with "
            "pip install '.[server]' in a checkout of Dosis. The core works without: from dosis.core import fit."
        )
    app()
