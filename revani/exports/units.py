"""The services as systemd units of an ordinary user. Source: systemd.unit(5), systemd.service(5), systemd.kill(5)."""

from pathlib import Path

# Name, what it is, extra lines of its [Service]. None needs another: each waits for what it lacks.
_SERVICES = (
    ("database", "database", "KillSignal=SIGINT\nTimeoutStopSec=120\n"),
    ("camera", "simulated camera", ""),
    ("mover", "simulated mover", ""),
    ("runner", "runner of this machine's rig", "Nice=-5\nOOMScoreAdjust=-500\n"),
    ("worker", "worker on the queue of long work", "Nice=5\n"),
    ("web", "page and API", ""),
)


def units(program: Path, settings: dict[str, str]) -> dict[str, str]:
    """The units by file name: one a service, and `revani.target` for all of them.

    `program` is the `revani` command, `settings` are the environment variables that it is to have.
    """
    environment = "".join(f"Environment={_quoted(f'{name}={value}')}\n" for name, value in sorted(settings.items()))
    services = [one for one in _SERVICES if one[0] != "database" or not settings.get("REVANI_DATABASE_URL")]
    found = {}
    for name, what, extra in services:
        # Ended in the order against that of starting, so the database comes last.
        after = "" if name == "database" else "After=revani-database.service\n"
        found[f"revani-{name}.service"] = (
            f"[Unit]\nDescription=Revani: {what}\nPartOf=revani.target\n{after}StartLimitIntervalSec=0\n\n"
            f"[Service]\nExecStart={_quoted(str(program)).replace('$', '$$')} {name}\n{environment}"
            f"Restart=always\nRestartSec=2\nUMask=0077\n{extra}\n"
            "[Install]\nWantedBy=revani.target\n"
        )
    wants = "".join(f"Wants=revani-{name}.service\n" for name, _, _ in services)
    found["revani.target"] = f"[Unit]\nDescription=Revani: all services\n{wants}\n[Install]\nWantedBy=default.target\n"
    return found


def _quoted(text: str) -> str:
    """A word of a unit's line: quotes, backslashes and per cent signs mean themselves."""
    return '"' + text.replace("\\", "\\\\").replace('"', '\\"').replace("%", "%%") + '"'
