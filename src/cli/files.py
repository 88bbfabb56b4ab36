"""Files that commands are given: read, or said to be unreadable."""

from pathlib import Path

from documents.job.models import JobDoc
from documents.job.reader import read_job
from engine.errors import OventaError


def read_bytes(path: str) -> bytes:
    try:
        return Path(path).read_bytes()
    except OSError as error:
        raise OventaError(f"cannot read the file ({error.strerror})", path, "Check the name and the folder.") from error


def write_bytes(path: str, data: bytes) -> None:
    try:
        Path(path).write_bytes(data)
    except OSError as error:
        raise OventaError(f"cannot write the file ({error.strerror})", path, "Check the name and the folder.") from error


def read_job_file(path: str) -> JobDoc:
    return read_job(read_bytes(path)).doc
