#!/usr/bin/env python3
"""Lists what a lake holds: versions, files, ranges, masks and births, as JSON.

Written from format.md alone. It needs Python 3 and the zstd library (libzstd.so.1), reads the
metadata and no data file, and checks every hash on its way.

Usage: read-lake.py DIRECTORY
"""
import ctypes
import hashlib
import json
import os
import re
import struct
import sys
import uuid

ZSTD = ctypes.CDLL("libzstd.so.1")
ZSTD.ZSTD_decompress.restype = ctypes.c_size_t
ZSTD.ZSTD_decompress.argtypes = [ctypes.c_char_p, ctypes.c_size_t, ctypes.c_char_p, ctypes.c_size_t]

SERIAL, BIRTH, FIRST_PART = 1_900_000_001, 1_900_000_002, 2_000_000_000


class Bytes:
    """Reads the encodings of the format from a buffer."""

    def __init__(self, data):
        self.data, self.at = data, 0

    def raw(self, length):
        if self.at + length > len(self.data):
            raise ValueError("damaged: bytes end too early")
        self.at += length
        return self.data[self.at - length:self.at]

    def u8(self):
        return self.raw(1)[0]

    def varint(self):
        value, shift = 0, 0
        while True:
            byte = self.u8()
            value |= (byte & 0x7F) << shift
            if byte < 0x80:
                return value
            shift += 7

    def signed(self):
        value = self.varint()
        return (value >> 1) ^ -(value & 1)

    def text(self):
        return self.raw(self.varint()).decode()

    def uuid(self):
        most, least = struct.unpack("<QQ", self.raw(16))
        return str(uuid.UUID(int=most << 64 | least))

    def zstd(self):
        length, compressed = self.varint(), self.varint()
        target = ctypes.create_string_buffer(max(1, length))
        source = self.raw(compressed)
        if ZSTD.ZSTD_decompress(target, length, source, compressed) != length:
            raise ValueError("damaged: a zstd block")
        return target.raw[:length]

    def packed(self, count):
        least, width = self.signed(), self.u8()
        bits = int.from_bytes(self.raw((width * count + 7) // 8), "little")
        mask = (1 << width) - 1
        numbers = [(least + ((bits >> i * width) & mask)) % 2**64 for i in range(count)]
        return [n - 2**64 if n >= 2**63 else n for n in numbers]


class Lake:
    def __init__(self, directory):
        self.directory = directory

    def object(self, name):
        with open(os.path.join(self.directory, name), "rb") as file:
            return file.read()

    # Numbers and entries

    @staticmethod
    def digits(number):
        groups = 3
        while number >= 1000 ** groups:
            groups += 1
        letter = "" if groups == 3 else chr(ord("a") + groups - 1)
        return letter, str(number).zfill(groups * 3)

    def entry_name(self, number):
        letter, digits = self.digits(number)
        parts = [letter] if letter else []
        return "/".join(["ledger"] + parts + [digits[i:i + 3] for i in range(0, len(digits), 3)])

    def names(self, directory):
        path = os.path.join(self.directory, directory)
        return sorted(n for n in os.listdir(path) if not n.startswith(".")) if os.path.isdir(path) else []

    def newest(self):
        for first in reversed(self.names("ledger")):
            if re.fullmatch("[0-9]{3}", first):
                found = self.last("ledger/" + first, int(first), 2)
            elif re.fullmatch("[d-g]", first):
                found = self.last("ledger/" + first, 0, ord(first) - ord("a") + 1)
            else:
                continue
            if found is not None:
                return found
        raise ValueError("there is no lake in " + self.directory)

    def last(self, directory, above, levels):
        numbers = [int(n) for n in self.names(directory) if re.fullmatch("[0-9]{3}", n)]
        for number in reversed(numbers):
            if levels == 1:
                return above * 1000 + number
            found = self.last(directory + "/%03d" % number, above * 1000 + number, levels - 1)
            if found is not None:
                return found
        return None

    def floor(self):
        return max([int(re.sub("^[d-g]", "", n)) for n in self.names("floor")], default=0)

    def head(self, number):
        """The lines of an entry, its hash, and the reference of its lake page."""
        data = self.object(self.entry_name(number))
        first = json.loads(data[:data.index(b"\n")])
        if first["format"] > 1 or set(first["readers must know"]) - {"expiry"}:
            raise ValueError("a newer program wrote this lake")
        lines, start = [], 0
        while True:
            end = data.index(b"\n", start)
            line = json.loads(data[start:end])
            if next(iter(line)) == "head":
                if line["head"] != hashlib.sha256(data[:start]).hexdigest():
                    raise ValueError("damaged: entry %d" % number)
                break
            lines.append(line)
            start = end + 1
        pages = next(line for line in lines if next(iter(line)) == "pages")
        if first["number"] != number or pages["pages"] != len(data) - end - 1:
            raise ValueError("damaged: entry %d" % number)
        here = (("entry", number), len(data))
        page = self.reference(Bytes(bytes.fromhex(pages["lake page"])), here)
        return lines, hashlib.sha256(data[:end + 1]).hexdigest(), page

    # Pages

    def home(self, kind, source):
        if kind == 1:
            return ("entry", source.varint())
        if kind == 2:
            return ("lake", source.varint(), source.uuid())
        table = source.uuid()
        return (table, source.varint(), source.uuid())

    def home_name(self, home):
        if home[0] == "entry":
            return self.entry_name(home[1])
        letter, digits = self.digits(home[1])
        return "pages/%s/%s%s-%s" % (home[0], letter, digits, home[2])

    def reference(self, source, here):
        """Home, offset, length, hash of a reference in a page that stands here (home, offset)."""
        kind = source.u8()
        home = here[0] if kind == 0 else self.home(kind, source)
        told = source.varint()
        offset = here[1] - told if kind == 0 else told
        length, digest = source.varint(), source.raw(32)
        source.varint(), source.varint()
        return home, offset, length, digest

    def page(self, reference):
        home, offset, length, digest = reference
        data = self.object(self.home_name(home))[offset:offset + length]
        if hashlib.sha256(data).digest() != digest:
            raise ValueError("damaged: a page in " + self.home_name(home))
        return data, (home, offset)

    def json_page(self, reference, kind):
        data, here = self.page(reference)
        members = json.loads(data)
        if members["page"] != kind:
            raise ValueError("damaged: a page is no " + kind)
        return members, here

    def tree(self, root, here, code, values):
        """The keys and values of a tree, in order; values reads those of a leaf."""
        if root == "":
            return
        height, count, reference = root.split(" ")
        yield from self.subtree(self.reference(Bytes(bytes.fromhex(reference)), here), code, values)

    def subtree(self, reference, code, values):
        data, here = self.page(reference)
        source = Bytes(data)
        if source.u8() != code:
            raise ValueError("damaged: a page of another tree")
        inner, count = source.u8(), source.varint()
        table = [(source.varint(), source.varint()) for _ in range(source.varint())]
        sections = {number: source.raw(length) for number, length in table}
        if inner:
            for child in self.children(Bytes(sections[1]), count, here):
                yield from self.subtree(child, code, values)
            return
        keys, plain, before = [], Bytes(Bytes(sections[0]).zstd()), b""
        for _ in range(count):
            shared = plain.varint()
            before = before[:shared] + plain.raw(plain.varint())
            keys.append(before)
        yield from zip(keys, values(count, sections, here))

    def children(self, source, count, here):
        homes = []
        for _ in range(source.varint()):
            kind = source.u8()
            homes.append((kind == 0, here[0] if kind == 0 else self.home(kind, source)))
        for _ in range(count):
            own, home = homes[source.varint()]
            told = source.varint()
            yield home, here[1] - told if own else told, source.varint(), source.raw(32)

    def records(self, read):
        def values(count, sections, here):
            plain = Bytes(Bytes(sections[10]).zstd())
            return [read(Bytes(plain.raw(plain.varint())), here) for _ in range(count)]
        return values

    # Records

    @staticmethod
    def commit(source):
        names = ("entry", "ordinal")
        commit = {name: source.varint() for name in names}
        commit["id"], commit["micros"] = source.uuid(), source.signed()
        for name in ("author", "program", "note", "statement"):
            commit[name] = source.text()
        return commit

    def history(self, source, here):
        record = {"version": source.varint(), "commit": self.commit(source), "operation": source.text()}
        for name in ("files added", "rows added", "files removed", "rows removed", "files", "rows",
                     "bytes", "schema version", "rows born", "rows gone", "next serial"):
            record[name] = source.varint()
        flags = source.u8()
        record["only moved"] = bool(flags & 1)
        record["files masked"] = source.varint() if flags & 2 else 0
        if flags & 8:
            source.signed()
        record["rewound to"] = source.varint() if flags & 32 else None
        record["page"] = self.reference(source, here) if flags & 16 else None
        return record

    def listing(self, source, here):
        listing = {"table": source.uuid(), "name": source.text(), "version": source.varint()}
        listing["dropped"] = bool(source.u8() & 1)
        for name in ("files", "rows", "bytes", "next file", "next serial", "next column", "next schema",
                     "next layout"):
            listing[name] = source.varint()
        listing["page"], listing["head"] = self.reference(source, here), self.reference(source, here)
        return listing

    @staticmethod
    def position(source, here):
        position = {name: read() for name, read in (
            ("name", source.text), ("entry", source.varint), ("moves", source.varint))}
        tables = [source.uuid() for _ in range(source.varint())]
        position["versions"] = {table: source.varint() for table in tables}
        position["limit"], position["moved"] = source.signed(), source.signed()
        return position

    # File entries

    def files(self, count, sections, here):
        numbers = Bytes(sections[10])
        arrays = [numbers.packed(count) for _ in range(16)]
        hashes, files = Bytes(sections[11]), []
        for i in range(count):
            of = [array[i] for array in arrays]
            files.append({
                "number": of[0], "place": of[0] + of[1], "start": of[2], "size": of[3], "rows": of[4],
                "masked rows": of[5], "layout": of[6], "schema": of[7], "last field id": of[8],
                "birth": of[9], "since": of[9] + of[10], "least birth": of[9] - of[11],
                "greatest birth": of[9] + of[12], "order": of[13], "first serial": of[14],
                "footer length": of[15], "id": hashes.uuid(), "footer hash": hashes.raw(32).hex(),
                "hash": hashes.raw(32).hex(), "masked": [], "ranges": {}})
        if 12 in sections:
            masks = Bytes(sections[12])
            for _ in range(masks.varint()):
                file = files[masks.varint()]
                inline = masks.u8() == 0
                data = masks.raw(masks.varint()) if inline else self.page(self.reference(masks, here))[0]
                file["masked"] = roaring(data)
        self.ranges(count, sections, files)
        return files

    @staticmethod
    def ranges(count, sections, files):
        directory = Bytes(sections[20])
        parts = [(directory.varint(), directory.text()) for _ in range(directory.varint())]
        for place, (field, kind) in enumerate(parts):
            source = Bytes(sections[100 + place])
            states, nulls = source.packed(count), source.packed(count)
            bounded = [i for i in range(count) if states[i] % 4 == 3]
            bounds = read_bounds(source, kind, len(bounded)) if bounded else []
            for i in range(count):
                if states[i] == 0:
                    continue
                told = {"state": ("absent", "unknown", "null", "bounded")[states[i] % 4], "type": kind,
                        "nulls": nulls[i] - 1, "some absent": states[i] >= 4}
                if states[i] % 4 == 3:
                    told["least"], told["greatest"] = bounds[bounded.index(i)]
                files[i]["ranges"][field] = told

    def everything(self):
        """All of the newest state and, through it, of every version that is kept."""
        number = self.newest()
        lines, digest, reference = self.head(number)
        if self.floor() > number:
            raise ValueError("the newest entry is below the floor; look again")
        lake, here = self.json_page(reference, "lake")
        told = {"lake": lake["lake"], "entry": number, "hash": digest, "tables": []}
        for _, listing in self.tree(lake["tables"], here, 3, self.records(self.listing)):
            told["tables"].append(self.table(listing))
        told["positions"] = [position for _, position in
                             self.tree(lake["positions"], here, 12, self.records(self.position))]
        return told

    def table(self, listing):
        head, there = self.json_page(listing.pop("head"), "head")
        newest = listing.pop("page")
        pages = [(r["version"], r["page"])
                 for _, r in self.tree(head["history"], there, 2, self.records(self.history))]
        listing["versions"] = [self.version(page) for _, page in pages + [(listing["version"], newest)]]
        return listing

    def version(self, reference):
        page, here = self.json_page(reference, "version")
        record = self.history(Bytes(bytes.fromhex(page["record"])), here)
        del record["page"]
        schema = page.get("schema")
        if "schema page" in page:
            own = self.reference(Bytes(bytes.fromhex(page["schema page"])), here)
            schema = self.json_page(own, "schema")[0]["schema"]
        record["columns"] = [column["name"] for column in schema["columns"]]
        record["data files"] = [file for _, file in self.tree(page["files"], here, 1, self.files)]
        return record


def read_bounds(source, kind, count):
    """Least and greatest of the bounded ranges of a part."""
    text = re.match("VARCHAR|JSON|VARBINARY|UUID", kind)
    wide = re.match(r"DECIMAL\((\d+)", kind)
    if text or (wide and int(wide.group(1)) > 18):
        plain, bounds = Bytes(source.zstd()), []
        for _ in range(count):
            low = plain.raw(plain.varint())
            length = plain.varint()
            bounds.append([low.hex(), plain.raw(length - 1).hex() if length else None])
        return bounds
    scale = source.u8()
    least, spans = source.packed(count), source.packed(count)
    pairs = [(low, (low + span + 2**63) % 2**64 - 2**63) for low, span in zip(least, spans)]
    if kind not in ("REAL", "DOUBLE PRECISION"):
        return [list(pair) for pair in pairs]
    if scale:
        return [[bound / 10 ** (scale - 1) for bound in pair] for pair in pairs]
    return [[ordered_double(bound) for bound in pair] for pair in pairs]


def ordered_double(bits):
    """The double whose bits, turned into an ordered integer, these are."""
    value = struct.unpack("<d", struct.pack("<q", bits if bits >= 0 else bits ^ (2**63 - 1)))[0]
    return "NaN" if value != value else value


def roaring(data):
    """The numbers of a Roaring bitmap in the portable format."""
    source, numbers = Bytes(data), []
    cookie = struct.unpack("<I", source.raw(4))[0]
    runs = b""
    if cookie & 0xFFFF == 12347:
        count = (cookie >> 16) + 1
        runs = source.raw((count + 7) // 8)
    else:
        count = struct.unpack("<I", source.raw(4))[0]
    headers = [struct.unpack("<HH", source.raw(4)) for _ in range(count)]
    if not runs or count >= 4:
        source.raw(4 * count)
    for i, (key, cardinality) in enumerate(headers):
        above = key << 16
        if runs and runs[i // 8] >> i % 8 & 1:
            for _ in range(struct.unpack("<H", source.raw(2))[0]):
                start, length = struct.unpack("<HH", source.raw(4))
                numbers.extend(above + start + n for n in range(length + 1))
        elif cardinality + 1 <= 4096:
            low = struct.unpack("<%dH" % (cardinality + 1), source.raw(2 * (cardinality + 1)))
            numbers.extend(above + n for n in low)
        else:
            bits = int.from_bytes(source.raw(8192), "little")
            numbers.extend(above + n for n in range(65536) if bits >> n & 1)
    return numbers


if __name__ == "__main__":
    if len(sys.argv) != 2:
        sys.exit(__doc__)
    json.dump(Lake(sys.argv[1]).everything(), sys.stdout, indent=1)
