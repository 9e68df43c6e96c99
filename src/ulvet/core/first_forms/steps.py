"""The step that puts a first form into a figure."""

from typing import Literal

from pydantic import Field

from ulvet.core.bits.placement import PlacedReceipt, PlacedStep
from ulvet.core.first_forms.shapes import Form, UnusableForm, form_mesh
from ulvet.core.lengths import FigureMM
from ulvet.core.recipe.receipt import Receipt
from ulvet.core.recipe.step import Context, Number, Part, Sentence, StepResult

__all__ = ["AddForm"]


class AddForm(PlacedStep):
    """Stand a plain solid in a figure as a part of its own; see ``form_mesh`` for what its sizes mean."""

    kind: Literal["add-form"] = "add-form"
    form: Form
    wide: FigureMM = Field(default=FigureMM(10), gt=0, le=1e5)
    deep: FigureMM = Field(default=FigureMM(10), gt=0, le=1e5)
    tall: FigureMM = Field(default=FigureMM(10), gt=0, le=1e5)
    curve: tuple[tuple[FigureMM, FigureMM, FigureMM], ...] = Field(default=(), max_length=200)
    """Places a tube goes through."""

    def run(self, parts: tuple[Part, ...], context: Context) -> StepResult:
        try:
            mesh = form_mesh(self.form, self.wide, self.deep, self.tall, self.curve)
        except UnusableForm as refusal:
            return StepResult(parts, PlacedReceipt(idle=True, not_done=str(refusal).removesuffix(".")))
        return self.stood(parts, mesh, mesh.hash)

    def sentence(self, receipt: Receipt) -> Sentence:
        wide = Number(field="wide", value=self.wide, unit="mm")
        said: Sentence = (f"Added a {self.form}, {self.name}, ", wide, " wide")
        if self.form == "box":
            said = (*said, ", ", Number(field="deep", value=self.deep, unit="mm"), " deep")
        if self.form not in {"sphere", "tube"}:
            said = (*said, ", ", Number(field="tall", value=self.tall, unit="mm"), " tall")
        if self.grow != 1:
            said = (*said, ", grown by ", Number(field="grow", value=self.grow, unit="times"))
        return (*said, ", at ", *self.where(), ".")
