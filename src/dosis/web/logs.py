"""Where the server writes what went wrong: a file that is begun anew before it grows large, and the terminal."""

import logging
import logging.handlers
import sys
from pathlib import Path

import structlog

SIZE, KEPT = 1_000_000, 5


def write_logs(folder: Path) -> None:
    """One line for each event, to `folder`/dosis.log, of which the last few are kept, and to the standard error."""
    folder.mkdir(parents=True, exist_ok=True)
    file = logging.handlers.RotatingFileHandler(folder / "dosis.log", maxBytes=SIZE, backupCount=KEPT, encoding="utf-8")
    logging.basicConfig(
        level=logging.INFO, handlers=[file, logging.StreamHandler(sys.stderr)], format="%(message)s", force=True
    )
    structlog.configure(
        processors=[
            structlog.processors.add_log_level, structlog.processors.TimeStamper(fmt="iso", utc=True),
            structlog.processors.JSONRenderer(ensure_ascii=False),
        ],
        logger_factory=structlog.stdlib.LoggerFactory(), cache_logger_on_first_use=True,
    )  # fmt: skip
