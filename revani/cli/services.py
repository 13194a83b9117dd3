"""`revani …`: the processes, and what is done to what they keep."""

import gc
import os
import signal
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

if TYPE_CHECKING:
    from revani.rig.known import Reached
    from revani.settings import Settings

app = typer.Typer()


def settings() -> "Settings":
    """The settings of this environment; read when they are asked for."""
    from revani.settings import settings as of_this_environment

    return of_this_environment()


# Firing comes first: camera and runner before the page, and long work last. (nice(2); lower is granted to root alone.)
_NICE = {"camera": -15, "mover": -15, "runner": -15, "web": 5, "worker": 15}


def _process(name: str = "") -> None:
    """What holds for every process of ours: its precedence, and that what it writes is for nobody else to read."""
    import structlog

    from revani.supervisor import unusable

    structlog.configure(
        processors=[
            structlog.processors.TimeStamper(fmt="%H:%M:%S"),
            structlog.processors.add_log_level,
            structlog.dev.ConsoleRenderer(colors=False),
        ]
    )
    os.umask(0o077)
    with suppress(OSError):
        os.nice(_NICE.get(name, 0))
    if trouble := unusable(settings()):
        print(trouble, file=sys.stderr)
        raise typer.Exit(1)


def _prepare_database(name: str) -> str:
    """Wait for the database, lay it out, and give the address to work with."""
    from revani.jobs.queue import install
    from revani.store.pool import migrate, wait_for_database

    _process(name)
    with _told():
        owner = settings().database_owner
        wait_for_database(owner)
        install(owner)
        migrate(owner, settings().database)
    return settings().database


@app.command()
def web() -> None:
    """The web server."""
    import uvicorn

    from revani.api.app import make_app
    from revani.api.prompt import PromptProtocol

    _prepare_database("web")
    application = make_app()
    # What is loaded now stays; a collection that looks through all of it holds an answer up for a tenth of a second.
    gc.collect()
    gc.freeze()
    uvicorn.run(application, host="127.0.0.1", port=settings().port, log_level="warning", timeout_graceful_shutdown=1,
                http=PromptProtocol, limit_concurrency=400)  # fmt: skip


# The key of a rig; this machine's own where none is given.
OfRig = Annotated[str, typer.Option("--rig", help="The rig; this machine's own, where none is given.")]


def _rig(key: str) -> "Reached":
    """Where a rig is; one that this machine does not know yet is asked of the database. Raises typer.Exit."""
    import asyncio

    import psycopg
    from psycopg_pool import PoolTimeout

    from revani.core.quantities.refusal import Refusal
    from revani.rig.known import reached
    from revani.store.pool import open_pool
    from revani.store.rigs import copy

    async def ask() -> None:
        async with open_pool(settings().database, most=1) as pool:
            await copy(pool, settings())

    here = settings()
    try:
        return reached(here, key or here.rig)
    except Refusal as error:
        try:
            with _told():
                asyncio.run(ask())
            return reached(here, key)
        except (Refusal, psycopg.Error, PoolTimeout):
            print(error, file=sys.stderr)
            raise typer.Exit(1) from None


@app.command()
def camera(rig: OfRig = "") -> None:
    """The simulated camera of a rig."""
    import uvicorn

    from revani.rig.standins.camera_server import camera_app

    _process("camera")
    its = _rig(rig)
    its.card_dir.mkdir(parents=True, exist_ok=True)
    uvicorn.run(
        camera_app(its.card_dir, settings().code_key(), its.rig.key, its.ptp_port), host="127.0.0.1",
        port=its.camera_port, log_level="warning", timeout_graceful_shutdown=1,
    )  # fmt: skip


@app.command()
def link(rig: OfRig = "") -> None:
    """The link to a rig's camera, where that is a body on a cable or a network."""
    import os

    import uvicorn

    from revani.core.quantities.refusal import Refusal
    from revani.rig.drivers import body_at
    from revani.rig.drivers.http_camera import HttpCamera
    from revani.rig.link import LinkedCamera, link_app

    _process("link")
    its = _rig(rig)
    try:
        body = body_at(its.body)
    except Refusal as error:
        print(error, file=sys.stderr)
        raise typer.Exit(1) from None
    # A driver that never comes back cannot be ended from here: the process is, and is started again.
    camera = LinkedCamera(body, its.link_dir, HttpCamera(its.stage) if its.stage else None, lambda: os._exit(1))
    uvicorn.run(link_app(camera), host="127.0.0.1", port=its.link_port, log_level="warning",
                timeout_graceful_shutdown=1)  # fmt: skip
    camera.close()


@app.command()
def rigs(
    rig: OfRig = "",
    camera: Annotated[str, typer.Option(help="Try the camera at this address; the rig's, where none is given.")] = "",
    mover: Annotated[str, typer.Option(help="Try the mover at this address; the rig's, where none is given.")] = "",
    frame: Annotated[bool, typer.Option(help="Take a test frame.")] = False,
    move: Annotated[bool, typer.Option(help="Take each axis a little way and back.")] = False,
    find: Annotated[bool, typer.Option(help="Look what is on this machine's sockets.")] = False,
    json: Annotated[bool, typer.Option(help="As JSON Lines.")] = False,
) -> None:
    """What answers at a rig: camera, clock, dials, a test frame, mover, a dry move."""
    from revani.rig.tried import found, try_camera, try_mover

    its = _rig(rig)
    # A body has one connection; where the link has it, the link is asked.
    asked = its.camera if camera in ("", its.body) else camera
    if find:
        for one in found():
            print(one.model_dump_json() if json else f"{one.what:>12}  {one.name}  {one.address}")
        return
    failed = False
    for tried in (*try_camera(asked, frame), *try_mover(mover or its.mover, move)):
        failed |= tried.went is False
        mark = {True: " ", False: "!", None: "?"}[tried.went]
        print(tried.model_dump_json() if json else f"{mark} {tried.what:>12}  {tried.told}", flush=True)
    raise typer.Exit(failed)


@app.command()
def sensors() -> None:
    """The simulated sensors of the demo."""
    from revani.rig.standins.sensors import speak

    _process("sensors")
    signal.signal(signal.SIGTERM, lambda *_: sys.exit(0))
    speak(f"http://127.0.0.1:{settings().port}", settings().data_dir)


@app.command()
def mover(rig: OfRig = "") -> None:
    """The simulated mover of a rig."""
    import asyncio

    from revani.rig.standins.mover_server import serve_mover

    _process("mover")
    its = _rig(rig)
    signal.signal(signal.SIGTERM, lambda *_: sys.exit(0))
    with suppress(KeyboardInterrupt):
        asyncio.run(serve_mover(its.mover_port))


@app.command()
def runner(rig: OfRig = "") -> None:
    """The runner of a rig."""
    import asyncio

    from revani.core.quantities.refusal import Refusal
    from revani.rig.drivers import camera_at, mover_at
    from revani.runner.main import serve_rig
    from revani.store.cluster import ClusterError

    # It waits for no database: a run that was being shot goes on without one.
    _process("runner")
    its = _rig(rig)
    try:
        url = settings().database
        camera_at(its.camera).close()
        mover_at(its.mover).close()
    except (ClusterError, Refusal) as error:
        print(error, file=sys.stderr)
        raise typer.Exit(1) from None
    signal.signal(signal.SIGTERM, lambda *_: sys.exit(0))
    try:
        asyncio.run(serve_rig(url, its))
    except KeyboardInterrupt:
        return


@app.command()
def worker(demo: Annotated[bool, typer.Option(help="Make the demo data first.")] = False) -> None:
    """The worker on the queue of long work."""
    import asyncio

    from procrastinate.exceptions import AlreadyEnqueued

    from revani.jobs import queue as queues
    from revani.jobs.demo import make_demo
    from revani.jobs.may_go import keep_looking
    from revani.jobs.watch import keep_watch

    url = _prepare_database("worker")

    async def serve() -> None:
        if demo:
            async with queues.open_queue(url):
                with suppress(AlreadyEnqueued):
                    await make_demo.defer_async()
        await asyncio.gather(queues.work(url), keep_looking(url), keep_watch(url))

    asyncio.run(serve())


@app.command()
def database() -> None:
    """The private PostgreSQL cluster, in the foreground."""
    from revani.store.cluster import private_cluster

    cluster = private_cluster(settings())
    cluster.create()
    os.chdir(cluster.folder)
    command = cluster.command()
    os.execvp(command[0], command)


@app.command()
def up(demo: Annotated[bool, typer.Option(help="With the demo data.")] = False) -> None:
    """Everything together, until Ctrl-C."""
    from revani.supervisor import run_everything

    raise typer.Exit(run_everything(demo))


@app.command()
def stop() -> None:
    """End what `up` started from this folder."""
    from revani.supervisor import end_everything

    raise typer.Exit(end_everything())


@app.command("reset-demo")
def reset_demo() -> None:
    """Throw the private database and all demo files of this folder away."""
    from revani.supervisor import forget_everything

    raise typer.Exit(forget_everything())


@app.command("units")
def units_command(folder: Annotated[Path, typer.Argument(help="For a user's own: ~/.config/systemd/user")]) -> None:
    """Write the services as systemd units, with the settings of this environment."""
    from revani.exports.units import units
    from revani.supervisor import wanted_processes

    given = {name: value for name, value in os.environ.items() if name.startswith("REVANI_")}
    given = {"REVANI_DATA_DIR": str(settings().data_dir), "REVANI_PORT": str(settings().port)} | given
    folder.mkdir(parents=True, exist_ok=True)
    os.umask(0o077)
    for name, text in units(
        Path(sys.executable).parent / "revani", given, [*wanted_processes(settings(), demo=False)]
    ).items():
        (folder / name).write_text(text)
        print(folder / name)


@app.command()
def tidy(
    look: Annotated[bool, typer.Option("--look", help="Only say what would be thrown away.")] = False,
) -> None:
    """Throw away what the rules say, and tell each thing with its reason (the queue does it daily, at noon)."""
    import asyncio

    from revani.jobs.tidy import tidy as tidy_up
    from revani.store.backup import running_database
    from revani.store.pool import open_pool

    async def go() -> None:
        async with open_pool(settings().database, most=1) as pool:
            thrown = await tidy_up(pool, settings(), for_real=not look)
        for one in thrown:
            print(f"{one.path}: {one.why}")
        told = "would be" if look else "are"
        print(f"{len(thrown)} things, {sum(one.size_bytes for one in thrown) / 1e6:.1f} MB, {told} thrown away.")

    _process()
    with _told(), running_database(settings()):
        asyncio.run(go())


@app.command()
def backup(folder: Annotated[Path, typer.Argument(help="A name that is free.")]) -> None:
    """Write the database and the files of runs into one folder, with a hash of each."""
    from revani.store.backup import back_up

    _process()
    with _told():
        print(f"{back_up(settings(), folder)} files, each with its hash, are in {folder}.")


@app.command()
def restore(
    folder: Annotated[Path, typer.Argument(help="What `revani backup` wrote.")],
    over: Annotated[bool, typer.Option(help="In the place of what is there.")] = False,
) -> None:
    """Put a backup back, once every hash of it has been found right; nothing else may run meanwhile."""
    from revani.processes import Register, alive
    from revani.store.backup import BackupError
    from revani.store.backup import restore as put_back

    _process()
    with _told():
        running = Register.read(settings().register_file)
        if alive(running.keeper) or any(map(alive, running.children.values())):
            raise BackupError("Revani runs from here: `make stop` first.")
        print(f"{put_back(settings(), folder, over)} files, each as it was, are back.")


@app.command()
def check() -> None:
    """Hold the journals against the files at home and against the card; status 1 where they do not agree."""
    import asyncio

    from revani.jobs.check import check as check_all
    from revani.store.backup import running_database
    from revani.store.pool import open_pool

    async def go() -> list[str]:
        async with open_pool(settings().database, most=1) as pool:
            return await check_all(pool)

    _process()
    with _told(), running_database(settings()):
        found = asyncio.run(go())
    print("\n".join(found) or "Journals, files and cards agree.")
    raise typer.Exit(1 if found else 0)


@contextmanager
def _told() -> Iterator[None]:
    """What cannot be done is told in one sentence."""
    from revani.store.backup import BackupError
    from revani.store.cluster import ClusterError
    from revani.store.pool import BadAddress, NewerDatabase

    try:
        yield
    except (BackupError, BadAddress, ClusterError, NewerDatabase) as error:
        print(error, file=sys.stderr)
        raise typer.Exit(1) from None


@app.command("wait")
def wait_for_page(seconds: float = 60.0) -> None:
    """Return when the page answers; status 1 when it does not in time."""
    import httpx

    until = time.monotonic() + seconds
    while time.monotonic() < until:
        try:
            if httpx.get(f"http://127.0.0.1:{settings().port}/api/health", trust_env=False).status_code == 200:
                return
        except httpx.HTTPError:
            pass
        time.sleep(0.2)
    raise typer.Exit(1)
