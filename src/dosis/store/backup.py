"""A backup of everything while Dosis runs, and bringing it back into a new place: one file, checked both times.

A ZIP archive of the database as SQL, in one consistent snapshot, and what it should come to:

    database.sql     schema and rows; readings, files in pieces and recordings are among them
    manifest.json    program, SHA-256 of the SQL and, where it was tried, the rows of each table
"""

import hashlib
import json
import os
import subprocess
import tempfile
import zipfile
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path
from typing import IO, Any
from urllib.parse import unquote, urlsplit

from dosis import __version__
from dosis.store.database import Database
from dosis.store.private_server import PrivateServer

FORM = 1
PART = 1 << 20
NIGHTLY = "nightly-"
END = b"-- Dump completed"  # what the last line of a dump that is whole begins with


class BackupError(RuntimeError):
    """What stands in the way of a backup or of bringing one back, in words."""


def back_up(url: str, to: Path, *, check: bool = True) -> dict[str, int]:
    """Write everything to a file; what was there under that name stays until the new one is whole and checked.

    check : whether it is brought back into a place of its own before it counts.
    Returns the rows of each table, where it was checked.

    Raises
    ------
    BackupError : where the database cannot be written out, or what was written does not come back.
    """
    fresh = to.with_name(f"{to.name}.part")
    try:
        to.parent.mkdir(parents=True, exist_ok=True)
        with zipfile.ZipFile(fresh, "w", zipfile.ZIP_DEFLATED, compresslevel=1) as archive:
            digest = hashlib.sha256()
            with archive.open("database.sql", "w", force_zip64=True) as sql:
                for part in _dumped(url):
                    digest.update(part)
                    sql.write(part)
        rows = _tried(fresh) if check else {}
        manifest = {"form": FORM, "program": __version__, "made_at": datetime.now(UTC).isoformat(),
                    "sha256": digest.hexdigest(), "rows": rows}  # fmt: skip
        with zipfile.ZipFile(fresh, "a", zipfile.ZIP_DEFLATED) as archive:
            archive.writestr("manifest.json", json.dumps(manifest, indent=1))
        fresh.replace(to)
    except OSError as error:
        raise BackupError(f"The backup could not be written to {to}: {error.strerror or error}.") from error
    finally:
        fresh.unlink(missing_ok=True)
    return rows


def restore(file: Path, home: Path) -> dict[str, int]:
    """Bring a backup back into a new place. Returns the rows of each table.

    Raises
    ------
    BackupError : for a place that is in use, a file that is no backup, is damaged, or comes from a newer program.
    """
    if (home / "data").exists():
        raise BackupError(f"There is a database in {home} already. Choose another folder with DOSIS_HOME, or move it.")
    manifest = _manifest(file)
    server = PrivateServer(home, supervise=False)
    server.start()
    try:
        with _sql(file) as sql:
            rows = _loaded(sql, server)
    finally:
        server.stop()
    if manifest["rows"] and rows != manifest["rows"]:
        off = [name for name in manifest["rows"] if rows.get(name) != manifest["rows"][name]]
        raise BackupError(f"What was brought back is not what the backup holds: the rows of {', '.join(off)} differ.")
    return rows


def keep_nightly(url: str, folder: Path, keep: int, now: datetime) -> Path | None:
    """A backup where there is none of this day; of the earlier ones so many are kept. None where none was due."""
    made = folder / f"{NIGHTLY}{now:%Y-%m-%d}.zip"
    if keep < 1 or made.exists():
        return None
    back_up(url, made, check=False)
    for old in sorted(folder.glob(f"{NIGHTLY}*.zip"))[:-keep]:
        old.unlink()
    return made


def _manifest(file: Path) -> dict[str, Any]:
    """What the backup says of itself, once its SQL is as it was written."""
    try:
        with zipfile.ZipFile(file) as archive, archive.open("database.sql") as sql:
            found: dict[str, Any] = json.loads(archive.read("manifest.json"))
            if found["form"] > FORM:
                raise BackupError(
                    f"{file} was made by a newer Dosis ({found['program']}). Bring it back with that one."
                )
            digest = hashlib.sha256()
            while part := sql.read(PART):
                digest.update(part)
    except (zipfile.BadZipFile, KeyError, ValueError, EOFError) as error:
        raise BackupError(f"{file} is no backup of Dosis, or it is damaged.") from error
    except OSError as error:
        raise BackupError(f"{file} cannot be read: {error.strerror or error}.") from error
    if digest.hexdigest() != found["sha256"]:
        raise BackupError(f"{file} is damaged: its contents are not those that were written. Use another backup.")
    return found


def _tried(file: Path) -> dict[str, int]:
    with tempfile.TemporaryDirectory(prefix="dosis-check-") as folder:
        server = PrivateServer(Path(folder), supervise=False)
        server.start()
        try:
            with _sql(file) as sql:
                return _loaded(sql, server)
        finally:
            server.stop()


@contextmanager
def _sql(file: Path) -> Iterator[IO[bytes]]:
    with zipfile.ZipFile(file) as archive, archive.open("database.sql") as sql:
        yield sql


def _dumped(url: str) -> Iterator[bytes]:
    """The database as SQL, as it stands at one moment."""
    command = [
        "mariadb-dump", *_where(url), "--single-transaction", "--quick", "--hex-blob", "--no-tablespaces",
        "--skip-lock-tables", "--default-character-set=utf8mb4", urlsplit(url).path.strip("/"),
    ]  # fmt: skip
    last = b""
    with tempfile.TemporaryFile() as told:
        with subprocess.Popen(command, stdout=subprocess.PIPE, stderr=told, env=_environment(url)) as process:
            assert process.stdout is not None
            while part := process.stdout.read(PART):
                last = (last + part)[-200:]
                yield part
        if process.returncode or END not in last:
            raise BackupError(f"The database could not be written out: {_said(told) or 'it stopped in the middle'}.")


def _loaded(sql: IO[bytes], server: PrivateServer) -> dict[str, int]:
    """Carry the SQL out on a server that is empty, and count what is there then."""
    url = server.owner_url
    command = ["mariadb", *_where(url), "--default-character-set=utf8mb4", urlsplit(url).path.strip("/")]
    with tempfile.TemporaryFile() as told:
        with subprocess.Popen(command, stdin=subprocess.PIPE, stderr=told, env=_environment(url)) as process:
            assert process.stdin is not None
            try:
                while part := sql.read(PART):
                    process.stdin.write(part)
                process.stdin.close()
            except BrokenPipeError:
                pass  # it says itself why it has stopped
        if process.returncode:
            raise BackupError(f"The backup does not come back: {_said(told)}.")
    store = Database(url)
    try:
        with store.transaction() as db:
            names = [next(iter(row.values())) for row in db.all("SHOW TABLES")]
            return {name: int((db.one(f"SELECT COUNT(*) AS n FROM `{name}`") or {"n": 0})["n"]) for name in names}
    finally:
        store.close()


def _said(told: IO[bytes]) -> str:
    """The end of what a program has said."""
    told.seek(0)
    return told.read().decode(errors="replace").strip()[-400:]


def _where(url: str) -> list[str]:
    parts = urlsplit(url)
    return [f"--host={parts.hostname}", f"--port={parts.port or 3306}", f"--user={unquote(parts.username or '')}"]


def _environment(url: str) -> dict[str, str]:
    """The password is handed on where other users of the machine do not see it."""
    return {**os.environ, "MYSQL_PWD": unquote(urlsplit(url).password or "")}
