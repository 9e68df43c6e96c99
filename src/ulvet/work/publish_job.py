"""The job that puts a pack into a shop."""

from ulvet.core.progress import Progress
from ulvet.store.blobs import Blobs
from ulvet.store.folder import DataFolder
from ulvet.work.job_values import Values

__all__ = ["publish"]


def publish(folder: DataFolder, values: Values, progress: Progress) -> Values:
    """Have the shop at ``address`` offer the pack of a ``digest`` as ``offer``, with what is ``asked`` for it.

    Gives the ``issue`` it has, its ``buyers``, and how many ``times`` it was put there.

    Raises Refused. Stopped and begun again, it asks the shop first what it has.
    """
    from ulvet.work.shop_link import publish_pack

    path = Blobs(folder.blobs).path(values["digest"])
    now = publish_pack(values["address"], values["offer"], path, values["digest"], values["asked"], progress)
    return {"issue": now.issue, "buyers": now.buyers, "times": now.times}
