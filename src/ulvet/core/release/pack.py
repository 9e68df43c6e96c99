"""A pack: a ZIP that vouches for every one of its bytes, written as a stream and verified anywhere."""

import hashlib
import re
import zipfile
from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from typing import BinaryIO

from pydantic import BaseModel, ConfigDict, ValidationError

from ulvet.core.formats.archive import DAMAGED
from ulvet.core.release.manifest import MANIFEST, FileEntry, Manifest

__all__ = ["CHECKSUMS", "Member", "NoPack", "Verified", "manifest_of", "verify_pack", "write_pack"]

CHECKSUMS = "checksums.sha256"
"""Name of the file that says the same as the manifest to whoever has no Ulvet."""
_CHUNK = 1 << 20
"""Bytes read at a time."""
_AT_ONCE = 2
"""Files looked at at once, which keeps two cores at work."""
_SEAL = b"sha256 of all before this: "
_DIGEST = 64
"""Letters of a SHA-256 in hex."""
_BEGIN = b"PK\x03\x04"
"""First bytes of a ZIP."""
_LAST = b"PK\x05\x06"
"""First bytes of a ZIP's last record."""
_END = 22
"""Bytes of a ZIP's last record, before its comment."""
_STORED = (".3mf", ".png", ".pdf", ".stl")
"""Endings of files that are packed already, or hardly shrink: STL of a sculpt by less than a tenth."""
_MOST_MANIFEST = 50_000_000
"""Bytes of a manifest that are read at most."""


class NoPack(Exception):
    """What is no pack; its text is for the user."""


@dataclass(frozen=True)
class Member:
    """A file to be packed, and how its bytes are had, part by part."""

    entry: FileEntry
    chunks: Callable[[], Iterable[bytes | memoryview]]


class Verified(BaseModel):
    """Whether a pack is whole, and what of it is not. ``why`` is a sentence."""

    model_config = ConfigDict(frozen=True)

    whole: bool
    why: str
    name: str
    number: int
    tier: str
    files: int
    bytes: int
    sha256: str
    """Of the whole pack."""
    altered: tuple[str, ...] = ()
    missing: tuple[str, ...] = ()
    added: tuple[str, ...] = ()


def write_pack(path: Path, manifest: Manifest, members: Iterable[Member], wrote: Callable[[int], None]) -> None:
    """Write the members in order, checksums and manifest behind them, all dated as the manifest is, then the SHA-256 of
    all of it as the archive's comment. ``wrote`` hears how many bytes of each member are done.

    Equal members give equal bytes.
    """
    date = (max(manifest.date.year, 1980), manifest.date.month, manifest.date.day, 0, 0, 0)
    with zipfile.ZipFile(path, "w") as archive:
        for member in members:
            with archive.open(_info(member.entry.name, date, member.entry.bytes), "w") as file:
                for chunk in member.chunks():
                    file.write(chunk)
            wrote(member.entry.bytes)
        sums = "".join(f"{entry.sha256}  {entry.name}\n" for entry in manifest.files).encode()
        for name, data in ((CHECKSUMS, sums), (MANIFEST, manifest.to_bytes())):
            with archive.open(_info(name, date, len(data)), "w") as file:
                file.write(data)
        archive.comment = _SEAL + b"0" * _DIGEST
    with path.open("r+b") as file:
        digest, _ = _digests(file, path.stat().st_size)
        file.seek(-_DIGEST, 2)
        file.write(digest.encode())


def verify_pack(path: Path) -> Verified:
    """Look at every byte of a pack.

    Raises NoPack for what cannot be read, or is no ZIP, or one without anything of a pack.
    """
    try:
        size = path.stat().st_size
        with path.open("rb") as file:
            is_zip = file.read(len(_BEGIN)) == _BEGIN
            end = _end_of(file, size)
            before, whole_hash = _digests(file, size)
            right = end == size and before == _sealed(file, size)
    except OSError as error:
        raise NoPack(f"{path.name} could not be read ({error.strerror}): give the name of a pack.") from error
    try:
        with zipfile.ZipFile(path) as archive:
            begins = min((info.header_offset for info in archive.infolist()), default=0)
            # What begins later is a 3MF within a pack whose end was cut off.
            if begins == 0 and end < 0 and not {MANIFEST, CHECKSUMS} & set(archive.namelist()):
                raise NoPack(f"{path.name} is a ZIP, but no pack of a release: it has neither manifest nor seal.")
            return _verified(path, archive, size, whole_hash, end, right)
    except (ValidationError, KeyError, *DAMAGED) as error:
        if not is_zip and end < 0:
            raise NoPack(f"{path.name} is no pack of a release: give one.") from error
        why = "Altered: it was cut, or changed so far that it names nothing any more. Get it again."
        return Verified(
            whole=False, why=why, name="", number=0, tier="", files=0, bytes=size, sha256=whole_hash,
            altered=(path.name,),
        )  # fmt: skip


def manifest_of(path: Path) -> Manifest:
    """The manifest of a pack that was verified."""
    with zipfile.ZipFile(path) as archive:
        return Manifest.model_validate_json(archive.read(MANIFEST))


def _verified(path: Path, archive: zipfile.ZipFile, size: int, whole_hash: str, end: int, right: bool) -> Verified:
    if archive.getinfo(MANIFEST).file_size > _MOST_MANIFEST:
        raise KeyError(MANIFEST)
    manifest = Manifest.model_validate_json(archive.read(MANIFEST))
    meant = {entry.name: entry for entry in manifest.files}
    there = [info.filename for info in archive.infolist()]
    added = sorted({name for name in there if name not in meant and name not in (MANIFEST, CHECKSUMS)})
    added += sorted({f"{name}, twice" for name in there if there.count(name) > 1})
    missing = [name for name in meant if name not in there]
    with ThreadPoolExecutor(_AT_ONCE) as pool:
        looked = [entry for name, entry in meant.items() if name in there]
        whole = list(pool.map(lambda entry: _is_whole(path, entry), looked))
    altered = [entry.name for entry, is_whole in zip(looked, whole, strict=True) if not is_whole]
    why = "Whole: every byte is as it was packed."
    if altered or missing or added:
        why = "Altered: a file is not as it was packed. Print none of it, and get it again."
    elif end > 0 and end != size:
        why = f"Altered: {size - end:,} bytes follow the archive's end. Get it again."
    elif not right:
        why = "Altered: the files are as they were packed, but something about them is not. Get it again."
    return Verified(
        whole=why.startswith("Whole"), why=why, name=manifest.name, number=manifest.number, tier=manifest.tier,
        files=len(there), bytes=size, sha256=whole_hash, altered=tuple(altered), missing=tuple(missing),
        added=tuple(added),
    )  # fmt: skip


def _is_whole(path: Path, entry: FileEntry) -> bool:
    digest, count = hashlib.sha256(), 0
    try:
        with zipfile.ZipFile(path) as archive, archive.open(entry.name) as file:
            while count <= entry.bytes and (chunk := file.read(_CHUNK)):
                digest.update(chunk)
                count += len(chunk)
    except DAMAGED:
        return False
    return count == entry.bytes and digest.hexdigest() == entry.sha256


def _end_of(file: BinaryIO, size: int) -> int:
    """Where the archive ends by what it says of itself, which is the file's end where nothing was added."""
    length = _END + len(_SEAL) + _DIGEST
    file.seek(max(size - 4 * _CHUNK, 0))
    tail = file.read()
    found = [match.start() for match in re.finditer(re.escape(_LAST), tail)]
    for start in reversed(found):
        if tail[start + _END : start + _END + len(_SEAL)] == _SEAL:
            return size - len(tail) + start + length
    return -1


def _sealed(file: BinaryIO, size: int) -> str:
    """The digest that stands at the end."""
    file.seek(size - _DIGEST)
    return file.read().decode("ascii", "replace")


def _digests(file: BinaryIO, size: int) -> tuple[str, str]:
    """SHA-256 of all but the digest at its end, and of all."""
    digest = hashlib.sha256()
    file.seek(0)
    for chunk in _chunks(file, size - _DIGEST):
        digest.update(chunk)
    before = digest.hexdigest()
    digest.update(file.read())
    return before, digest.hexdigest()


def _chunks(file: BinaryIO, count: int) -> Iterator[bytes]:
    while count > 0 and (chunk := file.read(min(_CHUNK, count))):
        yield chunk
        count -= len(chunk)


def _info(name: str, date: tuple[int, int, int, int, int, int], size: int) -> zipfile.ZipInfo:
    info = zipfile.ZipInfo(name, date)
    info.compress_type = zipfile.ZIP_STORED if name.endswith(_STORED) else zipfile.ZIP_DEFLATED
    info.external_attr = 0o644 << 16
    info.create_system = 3
    info.file_size = size
    return info
