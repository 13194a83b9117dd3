"""The services as systemd units of an ordinary user. Source: systemd.unit(5), systemd.service(5), systemd.kill(5)."""

import re
from collections.abc import Sequence
from pathlib import Path

# Name, what it is, extra lines of its [Service]. None needs another: each waits for what it lacks.
_SERVICES = (
    ("database", "database", "KillSignal=SIGINT\nTimeoutStopSec=120\n"),
    ("camera", "simulated camera", ""),
    ("mover", "simulated mover", ""),
    ("link", "link to the camera", ""),
    ("runner", "runner of a rig", "Nice=-5\nOOMScoreAdjust=-500\n"),
    ("worker", "worker on the queue of long work", "Nice=5\n"),
    ("web", "page and API", ""),
)


def units(program: Path, settings: dict[str, str], wanted: Sequence[str]) -> dict[str, str]:
    """The units by file name: one a service, and `revani.target` for all of them.

    `program` is the `revani` command, `settings` are the environment variables that it is to have; `wanted` names the
    services, those of a further rig with its key: `runner@hill`.
    """
    environment = "".join(f"Environment={_quoted(f'{name}={value}')}\n" for name, value in sorted(settings.items()))
    about = {name: (what, extra) for name, what, extra in _SERVICES}
    services = [one for one in wanted if one.partition("@")[0] in about]
    found = {}
    for service in services:
        name, _, rig = service.partition("@")
        what, extra = about[name]
        words = f"{name} {_quoted(f'--rig={rig}')}" if rig else name
        what += f" {rig}" if rig else ""
        # Ended in the order against that of starting, so the database comes last.
        after = "" if name == "database" else "After=revani-database.service\n"
        found[f"revani-{_plain(service)}.service"] = (
            f"[Unit]\nDescription=Revani: {what}\nPartOf=revani.target\n{after}StartLimitIntervalSec=0\n\n"
            f"[Service]\nExecStart={_quoted(str(program)).replace('$', '$$')} {words}\n{environment}"
            f"Restart=always\nRestartSec=2\nUMask=0077\n{extra}\n"
            "[Install]\nWantedBy=revani.target\n"
        )
    wants = "".join(f"Wants=revani-{_plain(service)}.service\n" for service in services)
    found["revani.target"] = f"[Unit]\nDescription=Revani: all services\n{wants}\n[Install]\nWantedBy=default.target\n"
    return found


def _plain(service: str) -> str:
    """A service's name as that of a unit."""
    return re.sub(r"[^\w.-]", "-", service)


def _quoted(text: str) -> str:
    """A word of a unit's line: quotes, backslashes and per cent signs mean themselves."""
    return '"' + text.replace("\\", "\\\\").replace('"', '\\"').replace("%", "%%") + '"'
