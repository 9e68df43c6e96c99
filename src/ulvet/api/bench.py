"""The bench: its values with unit, range and origin, changed one by one, undone, taken out and in as a file."""

from datetime import UTC, datetime
from typing import Annotated

from fastapi import APIRouter, Header, Request, Response
from pydantic import BaseModel, Field

from ulvet.api.asked import AtStudio
from ulvet.core.bench import bench_edits
from ulvet.core.bench.bench import Bench
from ulvet.core.bench.bench_file import UnusableBench, bench_text, read_bench
from ulvet.core.bench.materials import Material
from ulvet.core.bench.printers import Printer
from ulvet.core.bench.settings import Setting
from ulvet.core.bench.setup import Setup
from ulvet.core.bench.sheet import ValueRow, value_rows
from ulvet.work.refusals import Refused
from ulvet.work.studio import Studio

__all__ = ["router"]

router = APIRouter(tags=["bench"])

SeenBench = Annotated[int, Header(alias="If-Match", description="Number of the revision of the bench that was seen.")]
_MOST_BYTES = 5_000_000
"""Of a bench file; a bench of a thousand settings has some two million."""


class SetupView(BaseModel):
    """A setting with its printer and material."""

    id: str
    name: str
    retired: bool
    printer: Printer
    material: Material
    setting: Setting


class ThingView(BaseModel):
    """One thing on the bench, with its values."""

    id: str
    name: str
    retired: bool
    shipped: bool = Field(description="Whether Ulvet comes with it.")
    values: list[ValueRow]


class ListView(BaseModel):
    """Things of one kind."""

    place: str
    title: str
    things: list[ThingView]


class BenchView(BaseModel):
    """The bench as it stands."""

    revision: int
    says: str
    can_undo: bool
    can_redo: bool
    lists: list[ListView]


class Value(BaseModel):
    """Which value of the bench: the list, the thing in it, the path of the field."""

    place: str = Field(max_length=40)
    thing: str = Field(max_length=60)
    path: str = Field(max_length=80)


class NewValue(Value):
    """A value of the bench to set."""

    value: float | bool | str | tuple[float, float, float] | None


class NewThing(BaseModel):
    """A thing to copy under another name."""

    place: str = Field(max_length=40)
    thing: str = Field(max_length=60)
    name: str = Field(min_length=1, max_length=60)


class Retire(BaseModel):
    """A thing to offer no more, or again."""

    place: str = Field(max_length=40)
    thing: str = Field(max_length=60)
    retired: bool


@router.get("/setups")
def setups(studio: AtStudio) -> list[SetupView]:
    """Every setting with its printer and material, also those that are offered no more."""
    bench = studio.bench.value
    return [_setup_view(bench.setup(one.id)) for one in bench.settings]


@router.get("/bench")
def look(studio: AtStudio) -> BenchView:
    """The bench as it stands."""
    return _view(studio)


@router.put("/bench/value")
def set_value(asked: NewValue, seen: SeenBench, studio: AtStudio) -> BenchView:
    """Set one value, which is the user's own from today."""
    says = _called(studio, asked)
    today = datetime.now(UTC).date()
    studio.bench.change(
        seen,
        says,
        lambda bench: bench_edits.with_value(bench, asked.place, asked.thing, asked.path, asked.value, today),
    )
    return _view(studio)


@router.put("/bench/default")
def set_default(asked: Value, seen: SeenBench, studio: AtStudio) -> BenchView:
    """Take one value back to what Ulvet comes with."""
    studio.bench.change(
        seen,
        f"{_called(studio, asked)} back to default",
        lambda bench: bench_edits.with_value_as_shipped(bench, asked.place, asked.thing, asked.path),
    )
    return _view(studio)


@router.post("/bench/things", status_code=201)
def copy(asked: NewThing, seen: SeenBench, studio: AtStudio) -> BenchView:
    """Put a copy of a thing beside it under another name."""
    today = datetime.now(UTC).date()
    studio.bench.change(
        seen,
        f"{asked.name} added",
        lambda bench: bench_edits.with_copy(bench, asked.place, asked.thing, asked.name, today)[0],
    )
    return _view(studio)


@router.put("/bench/retired")
def retire(asked: Retire, seen: SeenBench, studio: AtStudio) -> BenchView:
    """Offer a thing no more, or again; what used it keeps it."""
    studio.bench.change(
        seen,
        f"{_name_of(studio, asked.place, asked.thing)} {'retired' if asked.retired else 'offered again'}",
        lambda bench: bench_edits.with_retired(bench, asked.place, asked.thing, asked.retired),
    )
    return _view(studio)


@router.post("/bench/undo")
def undo(seen: SeenBench, studio: AtStudio) -> BenchView:
    """Take the last change of the bench back."""
    studio.bench.undo(seen)
    return _view(studio)


@router.post("/bench/redo")
def redo(seen: SeenBench, studio: AtStudio) -> BenchView:
    """Make the change again that was taken back last."""
    studio.bench.redo(seen)
    return _view(studio)


@router.get("/bench.json", response_class=Response)
def export(studio: AtStudio) -> Response:
    """The bench as a file."""
    headers = {"Content-Disposition": 'attachment; filename="bench.json"'}
    return Response(bench_text(studio.bench.value), media_type="application/json", headers=headers)


@router.put(
    "/bench.json",
    openapi_extra={"requestBody": {"required": True, "content": {"application/json": {"schema": {"type": "object"}}}}},
)
async def bring_in(request: Request, seen: SeenBench, studio: AtStudio) -> BenchView:
    """Use the bench in a file, sent as the body; a wrong one is refused field by field."""
    data = b""
    async for chunk in request.stream():
        data += chunk
        if len(data) > _MOST_BYTES:
            raise Refused("That is too large for a bench: export one and change that.")
    try:
        bench = read_bench(data)
    except UnusableBench as error:
        raise Refused("Nothing was changed. " + " ".join(error.problems)) from error

    def other(_: Bench) -> Bench:
        return bench

    studio.bench.change(seen, "bench brought in from a file", other)
    return _view(studio)


def _called(studio: Studio, asked: Value) -> str:
    """A value in words, for what is said of its change: "Exposure of Plain ivory on Lantern 6, fine"."""
    bench = studio.bench.value
    things = getattr(bench, asked.place, ()) if asked.place in Bench.model_fields else ()
    rows = [row for one in things if one.id == asked.thing for row in value_rows(bench, asked.place, one)]
    label = next((row.label for row in rows if row.path == asked.path), asked.path)
    return f"{label} of {_name_of(studio, asked.place, asked.thing)}"


def _name_of(studio: Studio, place: str, thing: str) -> str:
    things = getattr(studio.bench.value, place, ()) if place in Bench.model_fields else ()
    return next((one.name for one in things if one.id == thing), thing)


def _view(studio: Studio) -> BenchView:
    now = studio.bench.now()
    return BenchView(
        revision=now.revision,
        says=now.says,
        can_undo=now.can_undo,
        can_redo=now.can_redo,
        lists=[
            ListView(
                place=place,
                title=field.title or place,
                things=[
                    ThingView(
                        id=one.id,
                        name=one.name,
                        retired=one.retired,
                        shipped=bench_edits.is_shipped(place, one.id),
                        values=list(value_rows(now.bench, place, one)),
                    )
                    for one in getattr(now.bench, place)
                ],
            )
            for place, field in Bench.model_fields.items()
        ],
    )


def _setup_view(setup: Setup) -> SetupView:
    return SetupView(
        id=setup.setting.id,
        name=setup.setting.name,
        retired=setup.retired,
        printer=setup.printer,
        material=setup.material,
        setting=setup.setting,
    )
