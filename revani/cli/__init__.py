"""`revani …`."""

import typer

from revani.cli import computing, services

app = typer.Typer(no_args_is_help=True, add_completion=False, pretty_exceptions_enable=False)
for _room in (computing, services):
    app.add_typer(_room.app)
