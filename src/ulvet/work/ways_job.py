"""The job that sets ways to stand a part beside each other."""

import io

import numpy as np
from PIL import Image

from ulvet.core.bench.bench import Bench
from ulvet.core.bench.edition import Edition
from ulvet.core.bench.part_setups import PartSetups
from ulvet.core.build.picture import draw_figure
from ulvet.core.gauge.walls.thickness import Thickness
from ulvet.core.geometry.mesh import scaled
from ulvet.core.layers.raster import TooManyLayers
from ulvet.core.lengths import PrintMM
from ulvet.core.progress import Progress
from ulvet.core.recipe.stance import Stance
from ulvet.core.stand.ways import ways_to_stand
from ulvet.store.blobs import Blobs
from ulvet.store.folder import DataFolder
from ulvet.work.job_values import Values
from ulvet.work.trial_record import DrawnWay, WaysTold

__all__ = ["ways"]

_PIXELS = 260
"""Of a picture's larger side."""


def ways(folder: DataFolder, values: Values, progress: Progress) -> Values:
    """Weigh how ``mesh`` of a ``part``, grown by ``factor``, could stand in its setup of ``edition`` on ``bench``.
    Gives the hash of what came of it."""
    blobs = Blobs(folder.blobs)
    bench, edition = Bench.model_validate(values["bench"]), Edition.model_validate(values["edition"])
    setup = PartSetups(bench, edition).of(values["part"])
    mesh = scaled(blobs.mesh(values["mesh"]), values["factor"])
    show = None if values["show"] is None else np.array(values["show"])
    x, y, z = values["up"]
    try:
        found = ways_to_stand(mesh, setup, show, [(x, y, z)], progress)
    except TooManyLayers as refusal:
        return {"ways": blobs.put(WaysTold(part=values["part"], ways=[], why=str(refusal)).model_dump_json().encode())}
    drawn = []
    for way in found:
        turned = Stance(up=way.up, spin=way.spin, lift=PrintMM(0)).in_print(mesh, 1.0)
        picture = io.BytesIO()
        Image.fromarray(draw_figure(turned, Thickness.unknown(turned), 0.0, _PIXELS)).save(picture, "PNG")
        drawn.append(DrawnWay(way=way, picture=blobs.put(picture.getvalue())))
    told = WaysTold(part=values["part"], ways=drawn)
    return {"ways": blobs.put(told.model_dump_json().encode())}
