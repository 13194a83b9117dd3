"""Where things are: ports, addresses and folders, from the environment."""

import os
import secrets
from contextlib import suppress
from functools import lru_cache
from pathlib import Path

from pydantic_settings import BaseSettings, SettingsConfigDict

from revani.core.documents.rig import RigKey

CHECKOUT = Path(__file__).resolve().parent.parent


class Settings(BaseSettings):
    """Environment variables of the form REVANI_…; the ports beside the page's follow it."""

    model_config = SettingsConfigDict(env_prefix="REVANI_")

    port: int = 8030
    database_url: str = ""
    owner_url: str = ""
    data_dir: Path = CHECKOUT / "var"
    web_dist: Path = CHECKOUT / "web" / "dist"
    camera_url: str = ""
    mover_url: str = ""
    rig: RigKey = "stand-in"

    @property
    def database_port(self) -> int:
        """Port of the private PostgreSQL cluster."""
        return self.port + 2

    @property
    def runs_dir(self) -> Path:
        """Frames and films brought home, a folder a run."""
        return self.data_dir / "runs"

    @property
    def own_dir(self) -> Path:
        """Folders of one's own: stills or a film that a camera which nobody is linked to has kept."""
        return self.data_dir / "own"

    @property
    def rehearsed_dir(self) -> Path:
        """Films of what shots would be, in parts; each can be made again."""
        return self.data_dir / "rehearsed"

    @property
    def rigs_file(self) -> Path:
        """The rigs, as the database has them, for those that do not wait for one."""
        return self.data_dir / "rigs.json"

    @property
    def rigs_dir(self) -> Path:
        """What processes of further rigs keep, a folder a rig."""
        return self.data_dir / "rigs"

    @property
    def spool_dir(self) -> Path:
        """What the runner of this machine's own rig has noted and the database has not yet."""
        return self.data_dir / "spool"

    @property
    def log_dir(self) -> Path:
        """Logs of the processes that one supervisor keeps."""
        return self.data_dir / "logs"

    @property
    def register_file(self) -> Path:
        """What runs from this data folder."""
        return self.data_dir / "processes.json"

    def make_folders(self) -> None:
        """Make the folders of runs, which nobody else may read. Raises OSError."""
        if not self.data_dir.exists():
            self.data_dir.mkdir(parents=True)
            # The database's own user lives below it where we are root, and may pass through.
            self.data_dir.chmod(0o711 if os.geteuid() == 0 else 0o700)
        for folder in (self.runs_dir, self.own_dir, self.rehearsed_dir, self.spool_dir, self.log_dir, self.card_dir):
            folder.mkdir(exist_ok=True)
            folder.chmod(0o700)

    def code_key(self) -> bytes:
        """The key that code cards of this rig are signed with; made where there is none. Raises OSError."""
        file = self.data_dir / "code.key"
        if not file.exists():
            fresh = self.data_dir / f"code.key.{os.getpid()}"
            fresh.touch(mode=0o600)
            fresh.write_bytes(secrets.token_bytes(32))
            # Whoever comes first has made it, whole.
            with suppress(FileExistsError):
                os.link(fresh, file)
            fresh.unlink()
        return file.read_bytes()

    @property
    def card_dir(self) -> Path:
        """The cards of the own rig's simulated camera."""
        return self.data_dir / "camera"

    @property
    def database(self) -> str:
        """The database to work with: another server's, or that of the private cluster."""
        if self.database_url:
            return self.database_url
        from revani.store.cluster import private_cluster

        return private_cluster(self).url

    @property
    def database_owner(self) -> str:
        """The same database, as the role that owns its tables: another server's may have one role for both."""
        if self.database_url:
            return self.owner_url or self.database_url
        from revani.store.cluster import private_cluster

        return private_cluster(self).owner_url


@lru_cache(maxsize=1)
def settings() -> Settings:
    """The settings of this process."""
    return Settings()
