"""The package of a workbook (Open Packaging Conventions, ISO/IEC 29500-2): parts in a ZIP file, copied as they are.

A part that nobody changed goes into the new file with the very bytes that it is packed in, so it is neither unpacked
nor packed again, and nothing of it can be lost.
"""

from __future__ import annotations

import posixpath
import struct
import zlib
from collections.abc import Callable, Iterable
from copy import copy
from typing import IO, Any, BinaryIO
from zipfile import ZIP_DEFLATED, BadZipFile, ZipFile, ZipInfo

from lxml import etree

from tin_bucket.core.problem import ProblemError, fail

TYPES = "[Content_Types].xml"
_TYPES_NS = "http://schemas.openxmlformats.org/package/2006/content-types"
_RELATIONS_NS = "http://schemas.openxmlformats.org/package/2006/relationships"
_LOCAL_HEADER = struct.Struct("<4s5H3L2H")  # ZIP 6.3.10, §4.3.7
_ENCRYPTED = 0x1
_SIZES_BEHIND = 0x8  # The sizes stand behind the data instead of before it (§4.4.4, bit 3).
_OLE = b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1"  # A compound file: an encrypted workbook, or one of the older format.
_LEVEL = 3  # Packs a sheet in a third of the time of the usual level, a few per cent larger.
_MOST_PART = 1 << 30
_CHUNK = 1 << 20

Write = Callable[[IO[bytes]], None]


def parse(data: bytes, where: str) -> Any:
    """A part as a tree. Nothing outside of it is read.

    Raises:
        ProblemError: ``workbook-damaged``.
    """
    parser = etree.XMLParser(resolve_entities=False, no_network=True, huge_tree=True)
    try:
        return etree.fromstring(data, parser)
    except etree.XMLSyntaxError as error:
        raise damaged(where) from error


def damaged(where: str) -> ProblemError:
    """What is said of a workbook that cannot be read."""
    return fail(
        "workbook-damaged",
        "The workbook is damaged: a part of it cannot be read.",
        where=where,
        do="Open it in your spreadsheet program, save it, and try again. Or restore an older version.",
    )


def serialise(tree: Any) -> bytes:
    """A tree as the bytes of a part."""
    made: bytes = etree.tostring(tree, xml_declaration=True, encoding="UTF-8", standalone=True)
    return made


class Relation:
    """A relation of a part to another one (ISO/IEC 29500-2, §9)."""

    def __init__(self, element: Any, base: str) -> None:
        self.element = element
        self.id: str = element.get("Id", "")
        # The last word of the type is the same in the transitional and the strict form.
        self.kind = str(element.get("Type", "")).rpartition("/")[2]
        self.external = element.get("TargetMode") == "External"
        target = str(element.get("Target", ""))
        self.target = (
            target.lstrip("/") if target.startswith("/") else posixpath.normpath(posixpath.join(base, target))
        )  # fmt: skip


class Package:
    """The parts of a workbook, and what is changed of them."""

    def __init__(self, file: BinaryIO, where: str) -> None:
        """Open a workbook.

        Args:
            file: open for reading, and for as long as the package is used.
            where: the file, for problems.

        Raises:
            ProblemError: ``workbook-encrypted``, ``workbook-damaged``.
        """
        self.where = where
        start = file.read(len(_OLE))
        file.seek(0)
        if start == _OLE:
            raise fail(
                "workbook-encrypted",
                "The workbook is protected by a password, or is of the older format .xls.",
                where=where,
                do="Save it as .xlsx without a password to open it.",
            )
        try:
            self._zip = ZipFile(file)
        except (BadZipFile, OSError, ValueError, NotImplementedError) as error:
            raise damaged(where) from error
        self._file = file
        self._entries = {entry.filename: entry for entry in self._zip.infolist()}
        if any(entry.flag_bits & _ENCRYPTED for entry in self._entries.values()):
            raise fail(
                "workbook-encrypted", "The workbook is encrypted.", where=where, do="Save it without a password."
            )
        self._changed: dict[str, bytes | Write] = {}
        self._removed: set[str] = set()
        self._late: dict[str, Callable[[], bytes | None]] = {}

    # Reading ---------------------------------------------------------------------------------------------------

    def names(self) -> list[str]:
        """The names of the parts, in the order of the file; new ones last."""
        known = [name for name in self._entries if name not in self._removed]
        return known + [name for name in self._changed if name not in self._entries]

    def has(self, name: str) -> bool:
        """Whether there is such a part."""
        return name not in self._removed and (name in self._entries or name in self._changed)

    def read(self, name: str) -> bytes:
        """A part as it is now.

        Raises:
            ProblemError: ``workbook-damaged``.
        """
        changed = self._changed.get(name)
        if isinstance(changed, bytes):
            return changed
        entry = self._entries.get(name)
        if entry is None or entry.file_size > _MOST_PART:
            raise damaged(f"{self.where}, part {name}")
        try:
            return self._unpacked(entry)
        except (BadZipFile, OSError, ValueError, EOFError, zlib.error, NotImplementedError) as error:
            raise damaged(f"{self.where}, part {name}") from error

    def _unpacked(self, entry: ZipInfo) -> bytes:
        """What an entry holds. A large sheet is unpacked in one go, which takes half the memory of piece by piece."""
        if entry.compress_type != ZIP_DEFLATED:
            return self._zip.read(entry)
        self._find(entry)
        data = zlib.decompress(self._file.read(entry.compress_size), -zlib.MAX_WBITS, max(1, entry.file_size))
        if len(data) != entry.file_size or zlib.crc32(data) != entry.CRC:
            raise BadZipFile
        return data

    def _find(self, entry: ZipInfo) -> None:
        """Go to where an entry's packed bytes begin."""
        self._file.seek(entry.header_offset)
        header = self._file.read(_LOCAL_HEADER.size)
        if len(header) < _LOCAL_HEADER.size or header[:4] != b"PK\x03\x04":
            raise BadZipFile
        fields = _LOCAL_HEADER.unpack(header)
        self._file.seek(fields[-2] + fields[-1], 1)

    def tree(self, name: str) -> Any:
        """A part as a tree.

        Raises:
            ProblemError: ``workbook-damaged``.
        """
        return parse(self.read(name), f"{self.where}, part {name}")

    def relations(self, name: str) -> list[Relation]:
        """The relations of a part to others; none where it has none.

        Raises:
            ProblemError: ``workbook-damaged``.
        """
        part = _relations_of(name)
        if not self.has(part):
            return []
        return [
            Relation(element, posixpath.dirname(name))
            for element in self.tree(part)
            if isinstance(element.tag, str)
        ]  # fmt: skip

    def related(self, name: str, kind: str) -> list[str]:
        """The parts that a part has a relation of a kind to, such as ``table``."""
        found = (one for one in self.relations(name) if one.kind == kind and not one.external)
        return [one.target for one in found if self.has(one.target)]

    # Changing --------------------------------------------------------------------------------------------------

    @property
    def touched(self) -> list[str]:
        """The names of the parts that are changed, added or removed."""
        return sorted({*self._changed, *self._removed})

    def put(self, name: str, content: bytes | Write) -> None:
        """Set a part.

        Args:
            content: its bytes, or what writes them into an open file when the package is written.
        """
        self._removed.discard(name)
        self._changed[name] = content

    def put_late(self, name: str, make: Callable[[], bytes | None]) -> None:
        """Let a part be made when all others are written; it stays as it is where ``None`` is made."""
        self._late[name] = make

    def add(self, name: str, content: bytes | Write, content_type: str, *, of: str, kind: str) -> str:
        """Add a part that another one has a relation to; returns the id of the relation.

        Args:
            content_type: of the part.
            of: the other part.
            kind: the type of the relation, a URI.
        """
        self.put(name, content)
        types = self.tree(TYPES)
        etree.SubElement(types, f"{{{_TYPES_NS}}}Override", PartName=f"/{name}", ContentType=content_type)
        self.put(TYPES, serialise(types))
        part = _relations_of(of)
        tree = self.tree(part) if self.has(part) else etree.Element(f"{{{_RELATIONS_NS}}}Relationships")
        taken = {element.get("Id") for element in tree}
        number = next(at for at in range(1, len(taken) + 2) if f"rId{at}" not in taken)
        target = posixpath.relpath(name, posixpath.dirname(of) or ".")
        etree.SubElement(tree, f"{{{_RELATIONS_NS}}}Relationship", Id=f"rId{number}", Type=kind, Target=target)
        self.put(part, serialise(tree))
        return f"rId{number}"

    def remove(self, name: str, of: str) -> None:
        """Remove a part, with its content type and the relation that another part has to it."""
        if not self.has(name):
            return
        self._changed.pop(name, None)
        self._removed.add(name)
        types = self.tree(TYPES)
        for element in list(types):
            if element.get("PartName") == f"/{name}":
                types.remove(element)
        self.put(TYPES, serialise(types))
        part = _relations_of(of)
        if self.has(part):
            tree = self.tree(part)
            for element in list(tree):
                if isinstance(element.tag, str) and Relation(element, posixpath.dirname(of)).target == name:
                    tree.remove(element)
            self.put(part, serialise(tree))

    # Writing ---------------------------------------------------------------------------------------------------

    def write(self, out: BinaryIO) -> None:
        """Write the whole package.

        Raises:
            ProblemError: ``workbook-damaged``.
            OSError: the file cannot be written.
        """
        with ZipFile(out, "w", ZIP_DEFLATED, allowZip64=True) as made:
            made.comment = self._zip.comment
            names = self.names()
            for name in [one for one in names if one not in self._late] + [one for one in names if one in self._late]:
                changed = self._changed.get(name)
                if name in self._late and (late := self._late[name]()) is not None:
                    changed = self._changed[name] = late
                if changed is None:
                    self._copy(self._entries[name], made)
                    continue
                info = copy(self._entries[name]) if name in self._entries else ZipInfo(name, (1980, 1, 1, 0, 0, 0))
                fresh = ZipInfo(info.filename, info.date_time)
                fresh.external_attr, fresh.create_system = info.external_attr, info.create_system
                fresh.compress_type = ZIP_DEFLATED
                fresh._compresslevel = _LEVEL  # type: ignore[attr-defined]  # Only writestr() takes a level.
                with made.open(fresh, "w", force_zip64=not isinstance(changed, bytes)) as part:
                    if isinstance(changed, bytes):
                        part.write(changed)
                    else:
                        changed(part)

    def _copy(self, entry: ZipInfo, made: ZipFile) -> None:
        """Copy an entry as it is packed."""
        file = self._file
        try:
            self._find(entry)
        except BadZipFile as error:
            raise damaged(f"{self.where}, part {entry.filename}") from error
        info = copy(entry)
        info.flag_bits &= ~_SIZES_BEHIND
        # Its own extra fields may be a ZIP64 one, which FileHeader() writes anew where it is needed.
        info.extra = b""
        out: Any = made.fp
        out.seek(made.start_dir)
        info.header_offset = out.tell()
        out.write(info.FileHeader(zip64=None))
        left = entry.compress_size
        while left > 0:
            chunk = file.read(min(_CHUNK, left))
            if not chunk:
                raise damaged(f"{self.where}, part {entry.filename}")
            out.write(chunk)
            left -= len(chunk)
        made.start_dir = out.tell()
        made.filelist.append(info)
        made.NameToInfo[info.filename] = info
        made._didModify = True  # type: ignore[attr-defined]

    def check(self) -> None:
        """Read every part that is copied, to see that it is whole.

        Raises:
            ProblemError: ``workbook-damaged``.
        """
        for name in self._entries:
            if name not in self._changed and name not in self._removed and not name.endswith("/"):
                self._drain(name)

    def _drain(self, name: str) -> None:
        try:
            with self._zip.open(name) as part:
                while part.read(_CHUNK):
                    pass
        except (BadZipFile, OSError, ValueError, EOFError, zlib.error, NotImplementedError) as error:
            raise damaged(f"{self.where}, part {name}") from error


def _relations_of(name: str) -> str:
    folder, file = posixpath.split(name)
    return posixpath.join(folder, "_rels", f"{file}.rels")


def main_part(package: Package) -> str:
    """The name of the part that is the workbook itself.

    Raises:
        ProblemError: ``workbook-damaged``, ``not-a-workbook``.
    """
    found: Iterable[str] = package.related("", "officeDocument")
    name = next(iter(found), None)
    if name is None or not package.has(TYPES):
        raise fail(
            "not-a-workbook",
            "The file is no workbook.",
            where=package.where,
            do="Name a file that a spreadsheet program saved as .xlsx or .xlsm.",
        )
    return name
