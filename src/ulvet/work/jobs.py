"""The jobs: functions of plain values that run in a process of their own. Done twice, they do the same."""

from collections.abc import Callable

from ulvet.store.folder import DataFolder
from ulvet.work.build_job import build
from ulvet.work.compare_job import compare
from ulvet.work.import_jobs import bring_in, scan
from ulvet.work.issue_job import issue
from ulvet.work.job_progress import JobProgress
from ulvet.work.job_values import Values
from ulvet.work.plan_job import plan, win_time
from ulvet.work.publish_job import publish
from ulvet.work.release_job import release
from ulvet.work.trial_job import preview
from ulvet.work.ways_job import ways

__all__ = ["JOBS"]

JOBS: dict[str, Callable[[DataFolder, Values, JobProgress], Values]] = {
    "bring-in": bring_in,
    "scan": scan,
    "build": build,
    "preview": preview,
    "compare": compare,
    "ways": ways,
    "plan": plan,
    "win": win_time,
    "release": release,
    "issue": issue,
    "publish": publish,
}
"""Every kind of job by name."""
