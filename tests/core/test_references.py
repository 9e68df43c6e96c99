"""Pictures to work from."""

from io import BytesIO

import pytest
from PIL import Image

from tests.core.test_kit import FIRST, SOURCES, made
from ulvet.core.bench.edition import Edition
from ulvet.core.recipe.changes import with_steps_added
from ulvet.core.recipe.runner import Recipe, run_recipe
from ulvet.core.references.picture import shown_picture
from ulvet.core.references.steps import ReferTo
from ulvet.core.sources.picture import UnusablePicture

HASH = "a" * 64


def drawn(kind, size, **how):
    data = BytesIO()
    Image.new("RGB", size, "teal").save(data, kind, **how)
    return data.getvalue()


def test_a_picture_is_drawn_small_and_upright_and_nothing_else_of_its_file_is_kept():
    turned = Image.Exif()
    turned[0x0112] = 6
    turned[0x010E] = "secret words"
    png, ratio = shown_picture(drawn("JPEG", (4000, 1000), exif=turned))
    with Image.open(BytesIO(png)) as shown:
        assert (shown.format, shown.size) == ("PNG", (400, 1600))
    assert ratio == pytest.approx(4)
    assert b"secret" not in png


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"<svg/>", "neither"),
        (b"", "neither"),
        (drawn("PNG", (50, 50))[:60], "damaged"),
        (drawn("GIF", (9, 9)), "neither"),
    ],
)
def test_what_is_no_picture_is_refused_in_one_sentence(data, says):
    with pytest.raises(UnusablePicture, match=says):
        shown_picture(data)


def test_it_changes_nothing_of_the_figure_and_stands_with_the_sources():
    recipe = with_steps_added(Recipe(steps=(FIRST,)), (ReferTo(name="side.jpg", shown=HASH, ratio=1.5, wide=20),))
    run = run_recipe(recipe, SOURCES, Edition())
    assert run.parts[0].mesh.hash == made().parts[0].mesh.hash
    assert recipe.steps[1].said(run.receipts[1])[0] == "side.jpg to work from, seen from the front, "
