#!/usr/bin/env python3
"""Machines with memory controllers, from the channel outwards: what their registers hold, and where a word of a channel is.

Written against the documents, without a look at the decoder, which goes the other way. Prints machines one after the other:

    machine N            expected: decoded | refused
    PLACE VALUE ...      registers, and their sum
    at ADDRESS CHANNEL INSIDE SLOTS
    end

    encoder.py FAMILY COUNT SEED
"""

import random
import sys

MIB = 1 << 20
GIB = 1 << 30
FOUR_GIB = 4 * GIB

TABLE = []
for entry in range(256):
    for _ in range(8):
        entry = entry >> 1 ^ (0x82F63B78 if entry & 1 else 0)
    TABLE.append(entry)


def crc32c(data):
    rest = 0xFFFFFFFF
    for byte in data:
        rest = rest >> 8 ^ TABLE[(rest ^ byte) & 0xFF]
    return rest ^ 0xFFFFFFFF


def insert_bit(value, bit, what):
    """The value with one more bit in between."""
    return value >> bit << (bit + 1) | what << bit | value & ((1 << bit) - 1)


def parity(value):
    return bin(value).count("1") & 1


class Machine:
    def __init__(self, rng):
        self.rng = rng
        self.lines = {}
        self.expected = "decoded"
        # For each channel, its bytes.
        self.bytes = [0, 0]

    def put(self, place, value):
        self.lines[place] = value & 0xFFFFFFFF

    def print(self, number):
        out = sys.stdout
        out.write(f"machine {number} {self.expected}\n")
        lines = "".join(f"{place} {value:08x}\n" for place, value in self.lines.items())
        out.write(lines + f"sum {crc32c(lines.encode()):08x}\n")
        if self.expected == "decoded":
            for channel, size in enumerate(self.bytes):
                for inside in self.places(size):
                    address = self.address(channel, inside)
                    if address is not None:
                        slots = ",".join(map(str, self.slots(channel, inside)))
                        out.write(f"at {address:x} {channel} {inside:x} {slots}\n")
        out.write("end\n")

    def places(self, size):
        if size == 0:
            return []
        edges = [0, size - 64, size // 2, size // 2 - 64]
        return edges + [self.rng.randrange(size // 64) * 64 for _ in range(10)]


class Client(Machine):
    """Two channels: the smaller one is interleaved with as much of the larger one; devices hide memory below 4 GiB."""

    HOSTS = {
        "client-2011": [0x0100, 0x0104, 0x0108, 0x0150, 0x0154, 0x0158, 0x0C00, 0x0C04, 0x0C08, 0x0A04],
        "client-2015": [0x1904, 0x190F, 0x1910, 0x1918, 0x191F, 0x5904, 0x590F, 0x591F, 0x3E10, 0x3E1F, 0x3E30, 0x3EC2],
    }
    # What was measured: bits 6 and up, and the bit that is left out.
    MEASURED = {"client-2011": (0x30CE, 2), "client-2015": (0x30CC, 2)}

    def __init__(self, family, rng):
        super().__init__(rng)
        unit = 256 * MIB if family == "client-2011" else GIB
        sizes = [1, 2, 4, 8, 16, 32] if family == "client-2011" else [1, 2, 4, 8, 16, 32]
        self.modules = [[0, 0], [0, 0]]
        while not any(map(sum, self.modules)):
            shape = rng.choice(["one", "pair", "pair", "four", "any", "any"])
            size = rng.choice(sizes)
            for channel in range(2):
                for slot in range(2):
                    if shape == "four" or (shape == "pair" and slot == 0):
                        self.modules[channel][slot] = size
                    elif shape == "any" and rng.random() < 0.6:
                        self.modules[channel][slot] = rng.choice(sizes)
            if shape == "one":
                self.modules[rng.randrange(2)][rng.randrange(2)] = size
        self.bytes = [sum(modules) * unit for modules in self.modules]
        self.larger = 0 if self.bytes[0] >= self.bytes[1] else 1
        if self.bytes[0] == self.bytes[1] and rng.random() < 0.3:
            self.larger = 1
        self.smaller_bytes = self.bytes[1 - self.larger]
        self.host(family, sum(self.bytes))
        self.bit, self.mask = 6, 1 << 6
        self.measured = self.MEASURED[family]
        if family == "client-2011":
            self.registers_2011()
        else:
            self.registers_2015()

    def host(self, family, top):
        rng = self.rng
        self.device = rng.choice(self.HOSTS[family])
        keeps = rng.choice([0, 0, 2 * MIB, 16 * MIB, 33 * MIB])
        end = top - keeps
        self.low = min(end, rng.randrange(512, 4000) * MIB)
        # What is in reach above 4 GiB without the window, and the window behind it.
        self.reach = max(end, FOUR_GIB)
        hidden = min(end, FOUR_GIB) - self.low
        self.window = (self.reach, hidden) if hidden > 0 else None
        high = self.reach + hidden
        base, limit = (self.reach, high - MIB) if hidden else (0x7FFFF00000, 0)
        config = lambda offset: f"config 00.0 {offset:03x}"
        self.put(config(0), self.device << 16 | 0x8086)
        for offset, value in ((0x90, base), (0x98, limit), (0xA0, top), (0xA8, high)):
            value |= rng.randrange(2)
            self.put(config(offset), value)
            self.put(config(offset + 4), value >> 32)
        kept_mask = 0x7FFFF00000 | 1 << 11 if keeps else rng.choice([0, 1 << 10])
        for offset, value in ((0x70, end if keeps else 0), (0x78, kept_mask)):
            self.put(config(offset), value)
            self.put(config(offset + 4), value >> 32)
        self.put(config(0xBC), self.low | rng.randrange(2))

    @staticmethod
    def sorted_modules(modules):
        """The larger one first, and whether it sits in the second slot."""
        return (modules[1], modules[0], 1) if modules[1] > modules[0] else (modules[0], modules[1], 0)

    def registers_2011(self):
        rng = self.rng
        self.put("mapped 05000", 0x24 if self.larger == 0 else 0x21)
        for channel, modules in enumerate(self.modules):
            first, second, swapped = self.sorted_modules(modules)
            ranks = rng.randrange(4) << 17 | rng.randrange(4) << 19 | rng.randrange(4) << 21
            self.put(f"mapped {0x5004 + 4 * channel:05x}", first | second << 8 | swapped << 16 | ranks)
        units = self.smaller_bytes // (256 * MIB)
        self.put("mapped 05014", units << 24 | 2 * units << 16)
        hash_value = 0
        if self.device not in (0x0100, 0x0104, 0x0108) and rng.random() < 0.7:
            hash_value = self.hash_of(rng, 0, 20, 23)
        self.put("mapped 05024", hash_value)

    def registers_2015(self):
        rng = self.rng
        self.put("mapped 05000", self.larger << 4 | (self.smaller_bytes // GIB) << 12 | rng.randrange(4))
        for channel, modules in enumerate(self.modules):
            first, second, _ = self.sorted_modules(modules)
            ranks = rng.randrange(4) << 8 | rng.randrange(2) << 10 | rng.randrange(4) << 24
            self.put(f"mapped {0x500C + 4 * channel:05x}", first | second << 16 | ranks)
        hash_value = self.hash_of(rng, 6, 24, 28) if rng.random() < 0.8 else 0
        self.put("mapped 05024", hash_value)

    def hash_of(self, rng, mask_at, bit_at, on_at):
        mask, bit = self.measured
        on = 1
        if rng.random() < 0.05:
            # Any other function, or one that is set up and switched off.
            self.expected = "refused"
            mask, bit, on = rng.choice([(mask ^ 1 << rng.randrange(14), bit, 1), (mask, bit ^ 1, 1), (mask, bit, 0)])
        self.bit, self.mask = bit + 6, mask << 6
        return mask << mask_at | bit << bit_at | on << on_at

    def slots(self, channel, _):
        # Counted by size, the larger one first: which slot it sits in does not matter for addresses.
        return [slot for slot, size in enumerate(sorted(self.modules[channel], reverse=True)) if size]

    def address(self, channel, inside):
        if inside < self.smaller_bytes:
            memory = insert_bit(inside, self.bit, 0)
            if parity(memory & self.mask) != channel:
                memory |= 1 << self.bit
        else:
            memory = inside + self.smaller_bytes
        if memory < self.low:
            return memory
        if memory < FOUR_GIB:
            if not self.window or memory - self.low >= self.window[1]:
                return None
            return memory - self.low + self.window[0]
        return memory if memory < self.reach else None


class Selects:
    """Ranks of the modules of one channel, one behind the other or, where all are alike, taking turns."""

    def __init__(self, rng, modules, low_bit):
        # modules: for each slot (ranks, bytes of a rank)
        ranks = [(size, slot, rank) for slot, (count, size) in enumerate(modules) for rank in range(count)]
        ranks.sort(key=lambda one: -one[0])
        self.rows = []
        alike = len({size for size, _, _ in ranks}) == 1
        power = len(ranks) in (2, 4, 8)
        if alike and power and rng.random() < 0.5:
            bits = len(ranks).bit_length() - 1
            whole = ranks[0][0] << bits
            turns = ((1 << bits) - 1) << low_bit
            for number, (size, slot, rank) in enumerate(ranks):
                self.rows.append((number << low_bit, (whole - 1) & ~turns, slot, rank))
        else:
            at = 0
            for size, slot, rank in ranks:
                self.rows.append((at, size - 1, slot, rank))
                at += size
        self.bytes = sum(size for size, _, _ in ranks)

    def slots(self, inside):
        return [slot for base, mask, slot, _ in self.rows if (inside ^ base) & ~mask == 0]


def some_modules(rng, slots, sizes):
    """For each slot (ranks, bytes of a rank)."""
    found = [(0, 0)] * slots
    while not any(count for count, _ in found):
        alike = (rng.choice([1, 2]), rng.choice(sizes))
        for slot in range(slots):
            if rng.random() < 0.55:
                found[slot] = alike if rng.random() < 0.6 else (rng.choice([1, 2]), rng.choice(sizes))
            else:
                found[slot] = (0, 0)
    return found


class Northbridge(Machine):
    """One node, two controllers with up to four modules each."""

    def __init__(self, family, rng):
        super().__init__(rng)
        sizes = [128 * MIB << shift for shift in range(6)]
        shape = rng.choice(["first", "turns", "turns", "stacked"])
        first = some_modules(rng, 4, sizes)
        second = first if shape == "turns" else some_modules(rng, 4, sizes)
        if shape == "first":
            second = [(0, 0)] * 4
        self.selects = [Selects(rng, modules, 13) for modules in (first, second)]
        self.bytes = [one.bytes for one in self.selects]
        total = sum(self.bytes)
        self.shape = shape
        self.hole = None
        if total > 2 * GIB and rng.random() < 0.9 or total > 3 * GIB:
            self.hole = rng.randrange(96, 240) * 16 * MIB
            if self.hole >= total:
                self.hole = None
        if self.hole and shape == "stacked":
            # The border between both controllers is told in units of 128 MiB.
            self.hole = self.hole >> 27 << 27
        hole_size = FOUR_GIB - self.hole if self.hole else 0
        end = total + hole_size
        nb = lambda function, offset: f"config 18.{function} {offset:03x}"
        self.put(nb(0, 0), {"northbridge-2007": 0x1200, "northbridge-2011": 0x1600}[family] << 16 | 0x1022)
        self.put("config 00.0 000", 0x9600_1022)
        self.put(nb(1, 0x40), 3)
        self.put(nb(1, 0x44), ((end >> 24) - 1) << 16)
        for number in range(1, 8):
            self.put(nb(1, 0x40 + 8 * number), 0)
        low = high = 0
        offset = hole_size
        self.mode = None
        if shape == "turns":
            self.mode = rng.randrange(4)
            low = 4 | self.mode << 6
        elif shape == "stacked":
            self.upper = rng.randrange(2)
            border = self.bytes[1 - self.upper]
            if self.hole and border >= self.hole:
                self.border = border + hole_size
                self.upper_offset = self.border
            else:
                self.border = self.upper_offset = border
                offset += border
            low = 1 | self.upper << 1 | (self.border >> 27) << 11
            high = (self.upper_offset >> 26) << 10
        self.put(nb(1, 0xF0), (self.hole or 0) | (offset >> 23) << 7 | 1 if self.hole else 0)
        self.put(nb(2, 0x110), low)
        self.put(nb(2, 0x114), high)
        self.put(nb(2, 0x10C), 0)
        if rng.random() < 0.05:
            self.spoil(nb, low)
        for controller, selects in enumerate(self.selects):
            for number in range(8):
                self.put(self.of(family, controller, 0x40 + 4 * number), 0)
            for pair in range(4):
                self.put(self.of(family, controller, 0x60 + 4 * pair), 0)
            for base, mask, slot, rank in selects.rows:
                number = 2 * slot + rank
                bits = 0x7FF83FE0 if family == "northbridge-2011" else 0x1FF83FE0
                self.put(self.of(family, controller, 0x40 + 4 * number), base >> 8 & bits | 1)
                self.put(self.of(family, controller, 0x60 + 4 * slot), mask >> 8 & bits)

    def spoil(self, nb, low):
        """Something that no document is certain of."""
        self.expected = "refused"
        what = self.rng.randrange(4)
        if what == 0:
            self.put(nb(2, 0x110), low | 5)
        elif what == 1:
            self.put(nb(2, 0x110), low | 16)
        elif what == 2:
            self.put(nb(1, 0x48), 3)
        else:
            self.put(nb(1, 0x44), self.lines[nb(1, 0x44)] | 1)

    @staticmethod
    def of(family, controller, offset):
        if family == "northbridge-2007":
            return f"config 18.2 {offset + 0x100 * controller:03x}"
        return f"chosen {controller} 2 {offset:03x}"

    def slots(self, channel, inside):
        return self.selects[channel].slots(inside)

    def address(self, channel, inside):
        hoist = lambda at: at + FOUR_GIB - self.hole if self.hole and at >= self.hole else at
        if self.shape == "turns":
            bit = {0: 6, 1: 12, 2: 6, 3: 9}[self.mode]
            mask = 1 << bit | (0x1F0000 if self.mode >= 2 else 0)
            plain = insert_bit(inside, bit, 0)
            if parity(plain & mask) != channel:
                plain |= 1 << bit
            return hoist(plain)
        if self.shape == "stacked" and channel == self.upper:
            return hoist(inside + self.bytes[1 - channel])
        return hoist(inside)


class Fabric(Machine):
    """One die, two channels with up to two modules each."""

    def __init__(self, _, rng):
        super().__init__(rng)
        sizes = [GIB << shift for shift in range(5)]
        shape = rng.choice(["one", "equal", "equal", "unequal"])
        first = some_modules(rng, 2, sizes)
        second = first if shape == "equal" else some_modules(rng, 2, sizes)
        modules = [first, second]
        if shape == "one":
            modules[rng.randrange(2)] = [(0, 0)] * 2
        self.selects = [Selects(rng, one, rng.choice([9, 12, 13, 14, 17])) for one in modules]
        self.bytes = [one.bytes for one in self.selects]
        self.both = min(self.bytes)
        total = sum(self.bytes)
        self.hole = rng.randrange(96, 240) * 16 * MIB if total > 3 * GIB or rng.random() < 0.3 else None
        if self.hole and self.hole >= total:
            self.hole = None
        hole_size = FOUR_GIB - self.hole if self.hole else 0
        # Ranges end at multiples of 256 MiB.
        if hole_size % (256 * MIB):
            self.hole = self.hole >> 28 << 28
            hole_size = FOUR_GIB - self.hole
        self.bit = 8 + rng.randrange(4)
        self.hashed = rng.random() < 0.5
        self.put("config 00.0 000", 0x1450_1022)
        self.put("config 18.0 000", rng.choice([0x1460, 0x15E8]) << 16 | 0x1022)
        turns = rng.sample(range(2), 2)
        self.turn = turns
        spoiled = rng.random() < 0.05
        for channel in range(2):
            fabric = lambda offset: f"fabric {channel:02x} 0 {offset:03x}"
            self.put(fabric(0x50), (turns[channel] | rng.randrange(4) << 1) << 8)
            self.put(fabric(0x104), (self.hole or 0) | (1 if self.hole else 0))
            for offset in (0x110, 0x114, 0x118, 0x11C, 0x1B4):
                self.put(fabric(offset), 0)
            at = 0
            number = 0
            if self.both:
                mode = 8 if self.hashed else 1
                self.range(fabric, 0, 0, 2 * self.both, mode << 4 | (self.bit - 8) << 8)
                at, number = 2 * self.both, 1
            if self.bytes[channel] > self.both:
                self.range(fabric, number, at, total, rng.randrange(4) << 8 if number == 0 else 0)
                if number:
                    self.put(fabric(0x1B4), (self.both >> 28) << 20 | 1)
            if spoiled:
                self.expected = "refused"
                if self.bytes[channel]:
                    self.put(fabric(0x114), self.lines[fabric(0x114)] | rng.choice([1 << 8, 1 << 10]))
            self.controller(channel)

    def range(self, fabric, number, start, end, more):
        """Start and end count memory; above the hole addresses are higher."""
        hole_size = FOUR_GIB - self.hole if self.hole else 0
        flag = 0
        if self.hole and end > self.hole:
            end += hole_size
            # A range that lies above altogether can be told in two ways.
            if start < self.hole or self.rng.random() < 0.5:
                flag = 2
            else:
                start += hole_size
        self.put(fabric(0x110 + 8 * number), (start >> 28) << 12 | flag | 1 | more)
        self.put(fabric(0x114 + 8 * number), ((end >> 28) - 1) << 12 | self.rng.randrange(256))

    def controller(self, channel):
        place = lambda offset: f"management {0x50000 + 0x100000 * channel + offset:08x}"
        self.put(place(0x104), (1 << 31) if self.bytes[channel] else 0)
        for number in range(4):
            self.put(place(4 * number), 0)
            self.put(place(0x10 + 4 * number), 0)
        for pair in range(2):
            self.put(place(0x20 + 4 * pair), 0)
        for base, mask, slot, rank in self.selects[channel].rows:
            self.put(place(4 * (2 * slot + rank)), base >> 8 | 1)
            self.put(place(0x20 + 4 * slot), mask >> 8 & ~1)

    def slots(self, channel, inside):
        return self.selects[channel].slots(inside)

    def address(self, channel, inside):
        hoist = lambda at: at + FOUR_GIB - self.hole if self.hole and at >= self.hole else at
        if inside >= self.both:
            return hoist(inside - self.both + 2 * self.both)
        for chosen in range(2):
            address = hoist(insert_bit(inside, self.bit, chosen))
            mask = 1 << self.bit
            if self.hashed:
                mask |= 1 << 12 | 1 << 18 | 1 << 21 | 1 << 30
            if parity(address & mask) == self.turn[channel]:
                return address
        return None


FAMILIES = {
    "client-2011": Client,
    "client-2015": Client,
    "northbridge-2007": Northbridge,
    "northbridge-2011": Northbridge,
    "fabric-2017": Fabric,
}

if __name__ == "__main__":
    family, count, seed = sys.argv[1], int(sys.argv[2]), int(sys.argv[3])
    rng = random.Random(f"{family} {seed}")
    for number in range(count):
        FAMILIES[family](family, rng).print(number)
