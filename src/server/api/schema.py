"""What every body and answer of the API is made of."""

from typing import Annotated, Any, ClassVar

import ninja
from django.http import HttpRequest
from ninja.files import UploadedFile
from ninja.parser import Parser
from pydantic import ConfigDict, Field, model_validator

from documents.json_in import parse_json
from engine.errors import ImpossibleInputError

Finite = Annotated[float, Field(allow_inf_nan=False)]
MEGABYTE = 1024 * 1024
MOST_DOCUMENT, MOST_LOG, MOST_PACKAGE = 32 * MEGABYTE, 128 * MEGABYTE, 256 * MEGABYTE


class Schema(ninja.Schema):
    """Numbers are finite: what is not could be stored and then read by no browser."""

    model_config = ConfigDict(allow_inf_nan=False)


class Change(Schema):
    """A change of what is stored: only the fields given are changed. Null is a value for the fields in ``nullable`` alone."""

    nullable: ClassVar[frozenset[str]] = frozenset()

    @model_validator(mode="before")
    @classmethod
    def _no_nulls(cls, data: Any) -> Any:
        given = getattr(data, "_obj", data)  # the API wraps what it validates
        given = given if isinstance(given, dict) else {}
        named = [name for name, value in given.items() if value is None and name in cls.model_fields and name not in cls.nullable]
        if named:
            raise ValueError(f"null is no value for {', '.join(named)}: give one, or leave the field out")
        return data


class StrictParser(Parser):
    """Bodies are read as strictly as files are."""

    def parse_body(self, request: HttpRequest) -> Any:
        return parse_json(request.body, "body")


def no_larger(file: UploadedFile, most: int) -> None:
    """Raises ImpossibleInputError for a file of more than ``most`` bytes."""
    if file.size is not None and file.size > most:
        what = f"the file has {file.size / MEGABYTE:.0f} MB, more than the {most // MEGABYTE} MB that are read"
        raise ImpossibleInputError(what, file.name or "file", "Split it, or leave out what is not needed.")


def content_of(file: UploadedFile, most: int) -> bytes:
    """A file's bytes. Raises ImpossibleInputError for one that is larger than ``most``."""
    no_larger(file, most)
    data: bytes = file.read()
    return data
