"""The inside of a job's process."""

import os
import signal
import traceback
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any

__all__ = ["LOOKED_ON", "THREAD_LIMITS", "run_one_job"]

LOOKED_ON = frozenset({"bring-in", "preview", "scan"})
"""Short jobs that somebody waits for; the others leave the processor to them, to the server and to the browser."""
_YIELDS = 4
"""Steps of niceness by which a job yields to what somebody waits for."""

THREAD_LIMITS = dict.fromkeys(("OMP_NUM_THREADS", "OPENBLAS_NUM_THREADS", "MKL_NUM_THREADS", "NUMBA_NUM_THREADS"), "1")
"""One thread for each library: two jobs share the machine, and the layer raster brings threads of its own."""

_TOO_LARGE = (
    "There is not enough memory for this; everything saved is safe. "
    "Close other programs and try again, or bring in a lighter mesh."
)


def run_one_job(pipe: Connection, data: str, kind: str, values: dict[str, Any], yields: bool) -> None:
    """Run one job, answer on the pipe, and end. One that ``yields`` leaves the processor to what somebody waits for.

    Sends ("progress", share, says) and ("seen", station, values) any number of times, then one of ("done", values),
    ("refused", sentence) for input that cannot be used, or ("failed", traceback).
    """
    # Ctrl-C reaches every process of the terminal; the server alone decides what ends.
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    if yields:
        os.nice(_YIELDS)
    from ulvet.core.bench.setup import UnknownOnBench
    from ulvet.core.formats.errors import UnreadableFile, UnwritableFile
    from ulvet.standins.scanner import CannotScan
    from ulvet.store.blobs import DISK_FULL, DISK_FULL_SAYS
    from ulvet.store.folder import DataFolder
    from ulvet.work.job_progress import JobProgress
    from ulvet.work.jobs import JOBS
    from ulvet.work.refusals import Refused

    try:
        done = JOBS[kind](DataFolder(Path(data)), values, JobProgress(pipe.send))
    except (UnreadableFile, UnwritableFile, UnknownOnBench, CannotScan, Refused) as refusal:
        pipe.send(("refused", str(refusal)))
    except MemoryError:
        pipe.send(("refused", _TOO_LARGE))
    except BrokenPipeError:
        # The server is gone, or has given this process up; there is nobody to tell.
        return
    except OSError as error:
        if error.errno not in DISK_FULL:
            pipe.send(("failed", traceback.format_exc()))
        else:
            pipe.send(("refused", DISK_FULL_SAYS))
    except Exception:
        pipe.send(("failed", traceback.format_exc()))
    else:
        pipe.send(("done", done))
