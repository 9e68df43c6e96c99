"""ZIP archives. Nothing from strangers is unpacked before its bytes are counted, and no name becomes a path."""

import io
import lzma
import struct
import zipfile
import zlib
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path, PurePosixPath
from tempfile import TemporaryDirectory

from ulvet.core.formats.errors import UnreadableFile

__all__ = [
    "DAMAGED",
    "MOST_UNPACKED",
    "MOST_UNPACKED_XML",
    "archive_bytes",
    "chunks_of",
    "open_archive",
    "refuse_document_types",
    "unpacked_member",
]

MOST_UNPACKED = 2_000_000_000
"""Bytes an archive may unpack to, all members together."""
MOST_UNPACKED_XML = 600_000_000
"""Bytes one may unpack to that is read as XML, which takes twice as many (bench default: some seven million triangles
of a 3MF)."""
_MOST_MEMBERS = 2_000
"""Files in an archive from a stranger (bench default)."""
_CHUNK = 1 << 20
"""Bytes unpacked at a time."""
_TEXT = (".xml", ".rels", ".model", ".mtl")
DAMAGED = (
    zipfile.BadZipFile,
    zlib.error,
    lzma.LZMAError,
    struct.error,
    NotImplementedError,
    RuntimeError,
    EOFError,
    OSError,
    ValueError,
    IndexError,
)
"""What the standard library says of archives that are not whole."""
_DECLARATIONS = tuple(
    word.encode(coding) for word in ("<!DOCTYPE", "<!ENTITY") for coding in ("utf-8", "utf-16-le", "utf-16-be")
)


def archive_bytes(files: Sequence[tuple[str, bytes]]) -> bytes:
    """Named files as a ZIP with fixed dates, so that equal files give equal bytes."""
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED, compresslevel=6) as archive:
        for name, data in files:
            entry = zipfile.ZipInfo(name, (1980, 1, 1, 0, 0, 0))
            entry.compress_type = zipfile.ZIP_DEFLATED
            entry.external_attr = 0o644 << 16
            archive.writestr(entry, data)
    return buffer.getvalue()


@contextmanager
def open_archive(path: Path, most: int | None = None) -> Iterator[zipfile.ZipFile]:
    """The archive, after its members were unpacked once without keeping them, to count what they hold.

    Raises UnreadableFile for what is no ZIP, is damaged, is locked, or unpacks to more than ``most`` bytes (two
    billion where that is not given), which is told as soon as so many were counted.
    """
    try:
        with zipfile.ZipFile(path) as archive:
            _count(path, archive, MOST_UNPACKED if most is None else most)
            yield archive
    except UnreadableFile:
        raise
    except DAMAGED as error:
        raise UnreadableFile(
            f"{path.name} is damaged, locked, or not what its name says: export or pack it again."
        ) from error


def _count(path: Path, archive: zipfile.ZipFile, most: int) -> None:
    members = archive.infolist()
    if len(members) > _MOST_MEMBERS:
        raise UnreadableFile(f"{path.name} holds {len(members):,} files: pack only the figure and bring that in.")
    unpacked = sum(member.file_size for member in members)
    if unpacked <= most:
        # What the directory says may be a lie: count what really comes out.
        unpacked = 0
        for member in members:
            with archive.open(member) as file:
                while unpacked <= most and (chunk := file.read(_CHUNK)):
                    unpacked += len(chunk)
    if unpacked > most:
        raise UnreadableFile(
            f"{path.name} unpacks to more than {most / 1e9:g} GB, and was not unpacked: "
            "thin out its triangles, or bring only the figure in, as STL."
        )


def chunks_of(archive: zipfile.ZipFile, member: str) -> Iterator[bytes]:
    """What a member unpacks to, a megabyte at a time."""
    with archive.open(member) as file:
        while chunk := file.read(_CHUNK):
            yield chunk


def refuse_document_types(path: Path, archive: zipfile.ZipFile) -> None:
    """Refuse XML that declares a document type or entities, which no figure needs and which can blow up or reach out.

    Raises UnreadableFile.
    """
    for member in archive.infolist():
        if not member.filename.lower().endswith(_TEXT):
            continue
        before = b""
        for chunk in chunks_of(archive, member.filename):
            if any(word in before + chunk for word in _DECLARATIONS):
                raise UnreadableFile(
                    f"{path.name} declares a document type or entities in its XML, which a figure never needs: "
                    "it was not opened; export it again."
                )
            before = chunk[-32:]


@contextmanager
def unpacked_member(path: Path, archive: zipfile.ZipFile, endings: tuple[str, ...]) -> Iterator[Path]:
    """The one figure in an archive, unpacked under a name of our own; textures and libraries beside it stay packed.

    Raises UnreadableFile when there is none or more than one.
    """
    figures = [
        member
        for member in archive.infolist()
        if PurePosixPath(member.filename).suffix.lower() in endings
        and not PurePosixPath(member.filename).name.startswith(".")
        and "__MACOSX" not in member.filename
    ]
    if len(figures) != 1:
        found = f"{len(figures):,} figures" if figures else "no figure"
        raise UnreadableFile(f"{path.name} holds {found}: pack one figure with its textures and bring that in.")
    with TemporaryDirectory(prefix="ulvet-") as folder:
        out = Path(folder) / f"figure{PurePosixPath(figures[0].filename).suffix.lower()}"
        with archive.open(figures[0]) as file, out.open("wb") as kept:
            while chunk := file.read(_CHUNK):
                kept.write(chunk)
        yield out
