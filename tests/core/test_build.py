import numpy as np

from tests.kept import build_kept
from tests.shapes import ball, box, concatenated, cylinder
from ulvet.core.bench.edition import Edition
from ulvet.core.bring_in.steps import BringIn
from ulvet.core.geometry.mesh import Mesh
from ulvet.core.lengths import PrintMM
from ulvet.core.recipe.runner import Recipe
from ulvet.core.stations import Station


def built(mesh, edition=None):
    recipe = Recipe(steps=(BringIn(source=mesh.hash, name="x.stl"),))
    return build_kept(recipe, edition or Edition(), {mesh.hash: mesh})


def test_walls_of_a_mostly_open_mesh_are_unseen_not_clear():
    rng = np.random.default_rng(3)
    loose = Mesh(rng.uniform(0, 20, (900, 3)), np.arange(900, dtype=np.int32).reshape(-1, 3))
    build = built(loose)
    assert [gap.station for gap in build.unseen] == [Station.GAUGE]
    assert not any(finding.code == "thin-wall" for finding in build.findings)
    assert {finding.code for finding in build.findings} >= {"open-edges", "open-layers"}


def test_a_figure_too_large_to_look_at_still_has_its_other_findings():
    build = built(concatenated(ball(10), cylinder(0.2, 30, 24)), Edition(height=PrintMM(9000)))
    assert [gap.station for gap in build.unseen] == [Station.LAYERS]
    assert {finding.code for finding in build.findings} == {
        "coarse-facets",
        "overlapping-shells",
        "tips-over",
        "too-large-for-printer",
    }
    assert build.layers == (None,)
    assert build.estimates == (None,)


def test_findings_come_station_by_station_the_grave_ones_first():
    cut = box(20, 20, 20)
    build = built(
        concatenated(Mesh(cut.vertices, cut.faces[1:]), cylinder(0.3, 30, 24, at=(10, 10, 0)), ball(2, (10, 10, 40)))
    )
    stations = [finding.station for finding in build.findings]
    assert stations == sorted(stations, key=list(Station).index)
    assert {"open-edges", "island"} <= {finding.code for finding in build.findings}
