"""Everything in one folder: the database as pg_dump writes it, the files of runs, and a hash of each.

Sources: pg_dump(1), pg_restore(1). Passwords are given in the environment of these programs, never on their lines.
"""

import hashlib
import json
import os
import shutil
import signal
import subprocess
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import psycopg

from revani.settings import Settings
from revani.store.cluster import private_cluster, program
from revani.store.pool import conninfo, migrate, wait_for_database

_DUMP = "database.dump"
_MANIFEST = "manifest.json"
_NAMES = {"host": "PGHOST", "port": "PGPORT", "user": "PGUSER", "password": "PGPASSWORD", "dbname": "PGDATABASE",
          "sslmode": "PGSSLMODE"}  # fmt: skip


class BackupError(Exception):
    """What cannot be backed up or restored, and why, in words for the person at the terminal."""


def back_up(here: Settings, folder: Path) -> int:
    """Write a backup; gives the number of files in it. The folder appears under its name when it is whole."""
    if folder.exists():
        raise BackupError(f"{folder} is there already: choose a name that is free.")
    partial = folder.with_name(folder.name + ".part")
    if partial.exists():
        shutil.rmtree(partial)
    partial.mkdir(parents=True, mode=0o700)
    with running_database(here):
        _run("pg_dump", here.database_owner, "--format=custom", "--no-owner", "--no-privileges", "--file",
             str(partial / _DUMP))  # fmt: skip
    for name in ("runs", "spool"):
        source = here.data_dir / name
        if source.is_dir():
            shutil.copytree(
                source, partial / "files" / name, ignore=shutil.ignore_patterns("*.part", "*.part.mp4", "lock")
            )
    hashes = {str(path.relative_to(partial)): _hash(path) for path in sorted(partial.rglob("*")) if path.is_file()}
    with (partial / _MANIFEST).open("w") as out:
        json.dump({"sha256": hashes}, out, indent=1)
        out.flush()
        os.fsync(out.fileno())
    os.sync()
    partial.rename(folder)
    return len(hashes)


def restore(here: Settings, folder: Path, over: bool) -> int:
    """Put a backup back; gives the number of files. Nothing is touched before every hash has been found right.

    Raises BackupError where the backup is damaged, or there is something already and `over` is not said.
    """
    hashes = _checked(folder)
    with running_database(here):
        owner = here.database_owner
        if not over and _has_shots(owner):
            raise BackupError("There are shots in this database: say --over to have the backup in their place.")
        _run("pg_restore", owner, "--clean", "--if-exists", "--no-owner", "--no-privileges", "--single-transaction",
             "--exit-on-error", "--dbname", str(conninfo(owner)["dbname"]), str(folder / _DUMP))  # fmt: skip
        migrate(owner, here.database)
    here.make_folders()
    for name in hashes:
        if name.startswith("files/"):
            target = here.data_dir / Path(name).relative_to("files")
            target.parent.mkdir(parents=True, exist_ok=True)
            partial = target.with_name(target.name + ".part")
            shutil.copy2(folder / name, partial)
            if _hash(partial) != hashes[name]:
                raise BackupError(f"{target} did not arrive as it is in the backup: the disk may be failing.")
            partial.rename(target)
    return len(hashes)


@contextmanager
def running_database(here: Settings) -> Iterator[None]:
    """The database, which is started for the time of the block where it does not run."""
    try:
        wait_for_database(here.database_owner, patience_s=0)
    except psycopg.OperationalError as error:
        if here.database_url:
            raise BackupError(f"The database does not answer: {str(error).strip().splitlines()[-1]}") from error
    else:
        yield
        return
    cluster = private_cluster(here)
    cluster.create()
    quiet = subprocess.DEVNULL
    server = subprocess.Popen(cluster.command(), cwd=cluster.folder, stdout=quiet, stderr=quiet, start_new_session=True)
    try:
        wait_for_database(here.database_owner, patience_s=60)
        yield
    finally:
        server.send_signal(signal.SIGINT)
        server.wait(120)


def _checked(folder: Path) -> dict[str, str]:
    try:
        hashes: dict[str, str] = json.loads((folder / _MANIFEST).read_text())["sha256"]
    except (OSError, ValueError, LookupError, TypeError) as error:
        raise BackupError(f"{folder} is no whole backup: its list of files cannot be read.") from error
    for name, wanted in hashes.items():
        path = folder / name
        if not path.resolve().is_relative_to(folder.resolve()) or not path.is_file() or _hash(path) != wanted:
            raise BackupError(f"{name} in the backup is missing or damaged; nothing was changed.")
    return hashes


def _has_shots(url: str) -> bool:
    with psycopg.connect(url) as conn:
        there = conn.execute("SELECT to_regclass('shot') IS NOT NULL").fetchone()
        return bool(there and there[0] and conn.execute("SELECT 1 FROM shot LIMIT 1").fetchone())


def _run(name: str, url: str, *words: str) -> None:
    parts = conninfo(url)
    environment = os.environ | {variable: str(parts[key]) for key, variable in _NAMES.items() if parts.get(key)}
    done = subprocess.run([program(name), *words], env=environment, capture_output=True, text=True)
    if done.returncode:
        raise BackupError(f"{name} did not succeed: {done.stderr.strip().splitlines()[-1] if done.stderr else ''}")


def _hash(path: Path) -> str:
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()
