"""Names of blobs inside values, so that what a value refers to can be asked of the value itself."""

from collections.abc import Mapping
from typing import Any

from pydantic import BaseModel, GetCoreSchemaHandler
from pydantic_core import CoreSchema, core_schema

__all__ = ["BlobHash", "blobs_named"]


class BlobHash(str):
    """The SHA-256 (hex) of bytes that are kept under it: a mesh, a scan, a picture, a file."""

    __slots__ = ()

    @classmethod
    def __get_pydantic_core_schema__(cls, source: Any, handler: GetCoreSchemaHandler) -> CoreSchema:
        return core_schema.no_info_after_validator_function(cls, core_schema.str_schema(max_length=64))


def blobs_named(value: object) -> frozenset[BlobHash]:
    """Every blob that a model names in a field of type ``BlobHash``, at any depth of models, mappings and sequences."""
    if isinstance(value, BlobHash):
        return frozenset((value,))
    if isinstance(value, BaseModel):
        return blobs_named(value.__dict__)
    if isinstance(value, Mapping):
        return blobs_named(list(value.values()))
    if isinstance(value, list | tuple | set | frozenset):
        return frozenset().union(*map(blobs_named, value))
    return frozenset()
