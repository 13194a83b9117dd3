"""Where the pictures of a film come from: frames that came home, a clip, a folder of one's own."""

from collections import OrderedDict
from contextlib import suppress
from pathlib import Path
from typing import Protocol

import av
import cv2
import numpy as np
from av.container import InputContainer

from revani.core.quantities.refusal import Refusal
from revani.jobs.resample import Picture
from revani.settings import settings

_STILLS = (".jpg", ".jpeg", ".png", ".tif", ".tiff")
_CLIPS = (".mp4", ".mov", ".mkv", ".avi", ".webm")
# Pictures that are kept, so that the mean of many reads each once.
_KEPT_BYTES = 600_000_000
# Farther ahead than this in a clip, seeking is quicker than decoding on.
_SEEK_S = 4.0


class Unreadable(Exception):
    """Why pictures cannot be read, in words."""


class Source(Protocol):
    """Pictures by the number of their frame (from 0) and the seconds after the start at which it was taken; BGR."""

    def picture(self, index: int, after_s: float) -> Picture:
        """The picture of a frame. Raises Unreadable."""
        ...

    def close(self) -> None:
        """Let go of what is open."""
        ...


class Stills:
    """Files, one a frame; `numbers` are the frames that there are, counted from 0."""

    def __init__(self, files: dict[int, Path]) -> None:
        self._files = files
        self._kept: OrderedDict[int, Picture] = OrderedDict()

    def picture(self, index: int, after_s: float) -> Picture:
        """The picture of a frame. Raises Unreadable."""
        if index in self._kept:
            return self._kept[index]
        path = self._files.get(index)
        read = None if path is None else cv2.imdecode(np.fromfile(path, dtype=np.uint8), cv2.IMREAD_COLOR)
        if read is None:
            raise Unreadable(f"{path.name if path else f'Frame {index + 1}'} cannot be read as a picture.")
        self._kept[index] = found = np.asarray(read, dtype=np.uint8)
        while sum(one.nbytes for one in self._kept.values()) > _KEPT_BYTES and len(self._kept) > 1:
            self._kept.popitem(last=False)
        return found

    def close(self) -> None:
        """Let go of what is kept."""
        self._kept.clear()


class Clip:
    """A film file; the picture at a moment is the one that stands then."""

    def __init__(self, path: Path) -> None:
        try:
            self._file: InputContainer = av.open(str(path))
            self._stream = self._file.streams.video[0]
            self._stream.thread_type = "AUTO"
            self._frames = self._file.decode(self._stream)
            self._now = next(self._frames)
        except (av.FFmpegError, IndexError, StopIteration, OSError) as error:
            raise Unreadable(f"{path.name} cannot be read as a film.") from error
        self._path = path
        self._next: av.VideoFrame | None = next(self._frames, None)
        self.fps = float(self._stream.average_rate or 30)
        self.count = self._stream.frames or 1
        self._shown: tuple[float, Picture] | None = None

    @property
    def duration_s(self) -> float:
        """How long it is."""
        with suppress(TypeError):
            return float(self._stream.duration * self._stream.time_base)  # type: ignore[operator]
        return self.count / self.fps

    def picture(self, index: int, after_s: float) -> Picture:
        """The picture at a moment; after the last, the last. Raises Unreadable."""
        del index
        after_s += 1e-6
        now_s = self._now.time or 0.0
        if after_s < now_s or after_s > now_s + _SEEK_S:
            self._seek(after_s)
        while self._next is not None and (self._next.time or 0.0) <= after_s:
            self._now = self._next
            self._next = next(self._frames, None)
        at = self._now.time or 0.0
        if self._shown is None or self._shown[0] != at:
            self._shown = (at, np.asarray(self._now.to_ndarray(format="bgr24"), dtype=np.uint8))
        return self._shown[1]

    def _seek(self, after_s: float) -> None:
        self._file.seek(max(int(after_s / float(self._stream.time_base or 1)), 0), stream=self._stream)
        self._frames = self._file.decode(self._stream)
        first = next(self._frames, None)
        if first is None:
            raise Unreadable(f"{self._path.name} cannot be read as a film.")
        self._now, self._next = first, next(self._frames, None)

    def close(self) -> None:
        """Let go of what is open."""
        self._file.close()


def own_folders() -> list[str]:
    """The names of the folders of one's own."""
    folder = settings().own_dir
    return sorted(path.name for path in folder.iterdir() if path.is_dir()) if folder.is_dir() else []


def own_folder(name: str) -> Path:
    """A folder of one's own by its name. Raises Refusal("own") that names those there are."""
    there = own_folders()
    if name not in there:
        raise Refusal("own", "A folder of your own: " + (", ".join(there) or "there is none yet."), name)
    return settings().own_dir / name


def files_of(folder: Path) -> list[Path]:
    """The stills in a folder in the order of their names, or its one clip. Raises Unreadable for neither."""
    inside = sorted(path for path in folder.iterdir() if path.is_file() and not path.name.startswith("."))
    stills = [path for path in inside if path.suffix.lower() in _STILLS]
    if stills:
        return stills
    clips = [path for path in inside if path.suffix.lower() in _CLIPS]
    if not clips:
        kinds = ", ".join(one.removeprefix(".") for one in (*_STILLS, *_CLIPS))
        raise Unreadable(f"The folder {folder.name} holds neither stills nor a film: {kinds} are read.")
    return clips[:1]


def is_clip(files: list[Path]) -> bool:
    """Whether what a folder holds is a film."""
    return files[0].suffix.lower() in _CLIPS
