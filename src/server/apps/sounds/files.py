"""Recordings in files beside the database: written whole or not at all, gone once nothing names them any more."""

from uuid import uuid4

from server.config.paths import CLIPS


def write_clip(data: bytes) -> str:
    """Writes a recording; returns the file's name. Raises OSError where the disk is full, and leaves nothing then."""
    name = f"{uuid4().hex}.wav"
    CLIPS.mkdir(mode=0o700, parents=True, exist_ok=True)
    part = CLIPS / f"{name}.part"
    try:
        part.write_bytes(data)
        part.replace(CLIPS / name)
    finally:
        part.unlink(missing_ok=True)
    return name


def remove_clip(name: str) -> None:
    (CLIPS / name).unlink(missing_ok=True)
