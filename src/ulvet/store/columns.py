"""What the tables have in common: their base, and columns of types of our own."""

from datetime import UTC, datetime
from typing import Any, ClassVar

from pydantic import BaseModel, ValidationError
from sqlalchemy import JSON, DateTime, Dialect, String, TypeDecorator
from sqlalchemy.orm import DeclarativeBase

from ulvet.core.blob_hash import BlobHash

__all__ = ["Base", "ModelColumn", "Moment", "StampColumn", "StampTerms", "now"]


def now() -> datetime:
    return datetime.now(UTC)


class Moment(TypeDecorator[datetime]):
    """A moment in UTC, which SQLite would hand back without saying so."""

    impl = DateTime
    cache_ok = True

    def process_bind_param(self, value: datetime | None, dialect: Dialect) -> datetime | None:
        return value.astimezone(UTC).replace(tzinfo=None) if value else None

    def process_result_value(self, value: datetime | None, dialect: Dialect) -> datetime | None:
        return value.replace(tzinfo=UTC) if value else None


class BlobName(TypeDecorator[BlobHash]):
    """The hash of a blob that its row needs."""

    impl = String(64)
    cache_ok = True

    def process_result_value(self, value: str | None, dialect: Dialect) -> BlobHash | None:
        return BlobHash(value) if value else None


class StampTerms(BaseModel):
    """What the shelf knows of the picture of a stamp."""

    sha256: BlobHash
    file_name: str
    ratio: float
    """Its height over its width."""
    narrowest: float
    """Its narrowest strokes, as a share of its width."""


class StampColumn(TypeDecorator[StampTerms]):
    """A ``StampTerms`` as JSON."""

    impl = JSON(none_as_null=True)
    cache_ok = True

    def process_bind_param(self, value: StampTerms | None, dialect: Dialect) -> dict[str, Any] | None:
        return value.model_dump(mode="json") if value else None

    def process_result_value(self, value: dict[str, Any] | None, dialect: Dialect) -> StampTerms | None:
        return StampTerms.model_validate(value) if value else None


class ModelColumn(TypeDecorator[BaseModel | dict[str, Any]]):
    """A value of a model as JSON; what another version wrote and this one cannot read stays as it is."""

    impl = JSON
    cache_ok = True

    def __init__(self, model: type[BaseModel]) -> None:
        super().__init__()
        self.model = model

    def process_bind_param(self, value: BaseModel | dict[str, Any] | None, dialect: Dialect) -> dict[str, Any] | None:
        return value.model_dump(mode="json") if isinstance(value, BaseModel) else value

    def process_result_value(self, value: dict[str, Any] | None, dialect: Dialect) -> BaseModel | dict[str, Any] | None:
        try:
            return self.model.model_validate(value)
        except ValidationError:
            return value


class Base(DeclarativeBase):
    """Of all tables."""

    type_annotation_map: ClassVar[dict[Any, Any]] = {BlobHash: BlobName}
