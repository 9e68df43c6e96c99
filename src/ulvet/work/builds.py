"""Finished builds, by their keys: kept in the database, the latest in memory too."""

from collections import OrderedDict
from threading import Lock
from typing import Any

from sqlalchemy.orm import Session

from ulvet.core.blob_hash import blobs_named
from ulvet.store.blobs import Blobs
from ulvet.store.database import Sessions
from ulvet.store.models import BuildRow
from ulvet.work.record import BuildRecord, Glance
from ulvet.work.record_reading import read_record
from ulvet.work.refusals import NotThere

__all__ = ["Builds"]

_RECORDS = 24
"""Records of builds that are kept in memory; a large one takes some ten MB."""


class Builds:
    """The finished builds of a studio."""

    def __init__(self, sessions: Sessions, blobs: Blobs) -> None:
        self._sessions, self._blobs = sessions, blobs
        self._records: OrderedDict[str, BuildRecord] = OrderedDict()
        self._glances: dict[str, Glance] = {}
        self._reading = Lock()

    def one(self, key: str) -> BuildRecord:
        """A finished build.

        Raises NotThere.
        """
        with self._sessions() as session:
            record = self.built(session, key)
        if record is None:
            raise NotThere("That build is not finished, or was never asked for.")
        return record

    def built(self, session: Session, key: str) -> BuildRecord | None:
        """The finished build with a key; one that another version wrote, or of which a blob is missing, is none."""
        with self._reading:
            if key in self._records:
                self._records.move_to_end(key)
                return self._records[key]
        record = read_record(session.get(BuildRow, key))
        if record is None or not all(map(self._blobs.holds, blobs_named(record))):
            return None
        with self._reading:
            self._records[key] = record
            while len(self._records) > _RECORDS:
                self._records.popitem(last=False)
        return record

    def current(self, session: Session, key: str) -> BuildRecord | None:
        """The finished build with a key as one works on it: what an earlier version wrote is read as far as it goes and
        is no such."""
        record = self.built(session, key)
        return record if record and record.measured is not None else None

    def glance(self, session: Session, key: str) -> Glance | None:
        """What is seen of a finished build from afar. It is small, and kept for every one that was asked for."""
        known = self._glances.get(key)
        if known is None or (known.picture and not self._blobs.holds(known.picture)):
            record = self.current(session, key)
            if record is None:
                return None
            known = self._glances[key] = Glance.of(record)
        return known

    def keep(self, session: Session, record: dict[str, Any], keys: set[str]) -> None:
        """Keep a build as it was written, under each of its keys."""
        for key in keys:
            session.merge(BuildRow(key=key, record={**record, "key": key}))
        with self._reading:
            for key in keys:
                self._records.pop(key, None)
