"""What the interface is told."""

from datetime import datetime

from pydantic import BaseModel, Field

from ulvet.core.bench.edition import Edition
from ulvet.core.bench.editions import NamedEdition, unlike
from ulvet.core.findings.check import check_kinds
from ulvet.core.findings.finding import Finding
from ulvet.core.proof.state import StateKind
from ulvet.core.recipe.in_edition import left_out
from ulvet.core.recipe.variants import differing
from ulvet.core.release.cautions import cautions_for
from ulvet.core.stations import Station
from ulvet.store.models import Revision
from ulvet.work.proofing import state_of_build
from ulvet.work.record import BuildRecord, Glance
from ulvet.work.shelf import ShelfEntry
from ulvet.work.studio import FigureNow, Studio
from ulvet.work.supervisor import Job, JobState

__all__ = [
    "EditionView",
    "FigurePage",
    "JobView",
    "Marks",
    "ShelfFigure",
    "SourceView",
    "StationView",
    "edition_views",
    "figure_page",
    "job_view",
    "marks_of",
    "shelf_figure",
]


class JobView(BaseModel):
    """A job as it stands."""

    id: int
    kind: str
    says: str
    state: JobState
    share: float
    doing: str
    seconds_left: float | None
    error: str
    figures: list[int] = Field(description="Figures that want it.")
    seen: list[Station] = Field(description="Stations whose checks are done already, of one that checks a figure.")
    made: dict[str, int | str] = Field(description="What a finished job made, by name.")


class Marks(BaseModel):
    """Open findings by severity."""

    stop: int = 0
    caution: int = 0
    note: int = 0


class StationView(BaseModel):
    """A segment of the line."""

    station: Station
    checked: bool = Field(description="Whether there are checks of it.")


class SourceView(BaseModel):
    """A source of a figure."""

    file_name: str
    bytes: int
    sha256: str
    now: bool
    """Whether the figure is made from it at its head."""


class ShelfFigure(BaseModel):
    """A figure as it stands on the shelf."""

    id: int
    name: str
    brought: datetime
    size_mm: tuple[float, float, float] | None
    picture: str | None
    marks: Marks
    files: list[str] = Field(description="Names of the files it is, and was, made from.")
    collection: str = Field(description="Empty where it stands in none.")
    worked: datetime = Field(description="When it was last changed.")
    next: str
    next_station: Station | None = Field(description="Where what is next is done; null where it is not known.")
    trouble: str = Field(description="Why it cannot be used; empty where it can.")
    job: JobView | None


class EditionView(BaseModel):
    """An edition of a figure, with what is seen of its build; nothing of one that is not built."""

    id: str
    name: str
    sized_by: str = Field(description="Which length was meant when its size was set; empty for the overall height.")
    made: Edition
    setting: str
    material: str
    retired: bool = Field(description="Whether its printer, material or setting is offered no more.")
    form: str = Field(description="What of the recipe it leaves out, and whether it is mirrored; empty for nothing.")
    unlike: list[str] = Field(description="What is not as in the edition before it in the list.")
    built: bool
    proofed: str = Field(description="What proofs say of it as it is now.")
    held_in: int | None = Field(description="Number of the proof in which exactly what it is now came out.")
    picture: str | None
    size_mm: tuple[float, float, float] | None
    marks: Marks | None
    seconds: float | None
    ml: float | None
    money: float | None


class FigurePage(BaseModel):
    """Everything the figure page shows."""

    id: int
    name: str
    revision: int
    changes: int = Field(description="How often its head was moved; of two answers the one with more is the later.")
    says: str
    can_undo: bool
    can_redo: bool
    looked: str = Field(description="Id of the edition that is shown: the first where the one asked for is gone.")
    edition: Edition = Field(description="What that edition makes.")
    editions: list[EditionView]
    variants: list[str]
    variant: str = Field(description="The variant that is shown; empty for the figure itself.")
    differing: list[int] = Field(description="Ids of the steps in which that variant differs from the figure.")
    left_out: dict[int, str] = Field(description="By step why the edition that is shown leaves it out.")
    holds_in: dict[int, list[str]] = Field(description="By step the ids of its editions, where it is not all.")
    sources: list[SourceView]
    stations: list[StationView]
    look: str | None = Field(
        description="Display mesh of the source with coarse walls, to look at until the first build is done."
    )
    build: BuildRecord | None
    job: JobView | None
    cautions: list[str]


def job_view(job: Job) -> JobView:
    """A job for the interface."""
    return JobView(
        id=job.id,
        kind=job.kind,
        says=job.says,
        state=job.state,
        share=job.share,
        doing=job.doing,
        seconds_left=job.remaining(),
        error=job.error,
        figures=sorted(job.figures),
        seen=[Station(station) for station in job.seen],
        made={
            name: value
            for name, value in job.result.items()
            if name
            in (
                "figure",
                "build",
                "release",
                "release_set",
                "issue",
                "buyers",
                "times",
                "file_name",
                "comparison",
                "tried",
                "ways",
                "plan",
                "won",
            )
        },
    )


def shelf_figure(one: ShelfEntry) -> ShelfFigure:
    """A figure for the shelf."""
    figure, glance, job = one.figure, one.glance, one.job
    return ShelfFigure(
        id=figure.id,
        name=figure.name,
        brought=figure.created,
        size_mm=glance.size_mm if glance else None,
        picture=glance.picture if glance else None,
        marks=Marks(**glance.open) if glance else Marks(),
        files=[source.file_name for source in figure.sources],
        collection=figure.collection,
        worked=figure.worked,
        next="cannot be used" if one.trouble else _next(glance),
        next_station=_next_station(glance),
        trouble=one.trouble,
        job=job_view(job) if job else None,
    )


def figure_page(studio: Studio, now: FigureNow, looked: NamedEdition, job: Job | None) -> FigurePage:
    """A figure's page in the edition that is looked at."""
    figure, head, record, can_redo = now
    checked = {kind.station for kind in check_kinds() if kind.is_judged()}
    recipe = studio.recipe(head).in_variant(looked.made.variant)
    brought = studio.source(figure, head, looked.id)
    reasons = {step.id: left_out(step, looked.made, looked.id) for step in recipe.made.steps}
    return FigurePage(
        id=figure.id,
        name=figure.name,
        revision=head.number,
        changes=figure.changes,
        says=head.says,
        can_undo=head.parent_id is not None,
        can_redo=can_redo,
        looked=looked.id,
        edition=looked.made,
        editions=edition_views(studio, head),
        variants=list(recipe.variants),
        variant=recipe.variant,
        differing=list(differing(recipe)),
        left_out={step: why for step, why in reasons.items() if why},
        holds_in={step.id: list(step.editions) for step in recipe.steps if step.editions},
        sources=[
            SourceView(
                file_name=source.file_name, bytes=source.file_bytes, sha256=source.file_hash, now=source is brought
            )
            for source in figure.sources
        ],
        stations=[StationView(station=one, checked=one in checked) for one in Station],
        look=brought.look if record is None else None,
        build=record,
        job=job_view(job) if job else None,
        cautions=list(cautions_for(studio.bench.value.setup(looked.made.setting).process)),
    )


def edition_views(studio: Studio, head: Revision) -> list[EditionView]:
    """The editions of a revision, each with what is seen of its build."""
    bench, editions = studio.bench.value, studio.editions(head)
    proofs = studio.proofs.of_figure(head.figure_id)
    found = []
    with studio.sessions() as session:
        for place, one in enumerate(editions):
            key = studio.key_of(head, one.id)
            glance = studio.builds.glance(session, key)
            # Records are large, and most figures have no proofs.
            record = studio.builds.current(session, key) if proofs else None
            state = state_of_build(studio, one, head.figure_id, record)
            setup = bench.setup(one.made.setting)
            estimate = glance.estimate if glance else None
            found.append(
                EditionView(
                    id=one.id,
                    name=one.name,
                    sized_by=one.sized_by,
                    made=one.made,
                    setting=setup.setting.name,
                    material=setup.material.name,
                    retired=setup.retired,
                    form=one.made.form.says,
                    unlike=list(unlike(one.made, editions[place - 1].made)) if place else [],
                    built=glance is not None,
                    proofed=state.says,
                    held_in=state.proof if state.kind is StateKind.EXACT else None,
                    picture=glance.picture if glance else None,
                    size_mm=glance.size_mm if glance else None,
                    marks=Marks(**glance.open) if glance else None,
                    seconds=estimate.seconds if estimate else None,
                    ml=estimate.material_ml if estimate else None,
                    money=estimate.money if estimate else None,
                )
            )
    return found


def marks_of(findings: list[Finding]) -> Marks:
    """Open findings counted by severity."""
    counts = {"stop": 0, "caution": 0, "note": 0}
    for finding in findings:
        counts[finding.severity.value] += 1
    return Marks(**counts)


def _next_station(glance: Glance | None) -> Station | None:
    """Where what is next is done."""
    if glance is None:
        return None
    return glance.next.station if glance.next else Station.RELEASE


def _next(glance: Glance | None) -> str:
    """The next thing a careful person would do."""
    if glance is None:
        return "being checked"
    return glance.next.title if glance.next else "nothing open; make a release"
