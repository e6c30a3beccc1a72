#!/usr/bin/env python3
"""Tables of address maps, worked out by brute force and by a route of its own.

Reads every map file beside it, walks through every physical word, works out slot, rank, bank, row and column by plain bit
counting, checks that no two words meet, and writes some of them as a table. The tables are kept; the test compares them with what
the program says. Nothing here is shared with the program.

    python3 crates/core/tests/maps/make.py
"""

import pathlib
import tomllib


def number(value):
    return value if isinstance(value, int) else int(value.replace("_", ""), 0)


def odd(value):
    return bin(value).count("1") & 1


def coordinate(masks, address):
    return sum(odd(number(mask) & address) << at for at, mask in enumerate(masks))


def stack_bytes(stack):
    bits = sum(len(stack.get(name, [])) for name in ("column", "bank", "row", "rank", "slot"))
    return 8 << bits


def place(region, offset):
    """Way and address inside the way, found by looking at where every granule before this one went."""
    granule, ways = region["granule"], len(region["way"])
    masks = [number(mask) for mask in region.get("masks", [])]
    here = offset // granule
    if not masks:
        return here % ways, (here // ways) * granule + offset % granule
    way = coordinate(masks, offset)
    # The granules of one way keep their order: count how many of its own came before, chunk by chunk.
    chunk = here // ways
    assert sorted(coordinate(masks, (chunk * ways + at) * granule) for at in range(ways)) == list(range(ways))
    return way, chunk * granule + offset % granule


def locate(form, packed):
    for region in form["region"]:
        size = number(region["bytes"])
        if packed < size:
            break
        packed -= size
    number_of_way, inside = place(region, packed)
    way = region["way"][number_of_way]
    inside += number(way.get("start", 0))
    for stack in way["stack"]:
        if inside < stack_bytes(stack):
            break
        inside -= stack_bytes(stack)
    parts = {name: coordinate(stack.get(name, []), inside) for name in ("slot", "rank", "bank", "row", "column")}
    return (stack["slots"][parts["slot"]], parts["rank"], parts["bank"], parts["row"], parts["column"])


def main():
    for path in sorted(pathlib.Path(__file__).parent.glob("*.toml")):
        form = tomllib.loads(path.read_text())
        seen, lines, packed = set(), [], 0
        total = sum(number(end) - number(start) for start, end in form["ranges"])
        step = max(1, total // 8 // 400) | 1
        for start, end in form["ranges"]:
            for address in range(number(start), number(end), 8):
                cell = locate(form, packed)
                assert cell not in seen, f"{path.name}: two words at {cell}"
                seen.add(cell)
                if packed // 8 % step == 0:
                    lines.append(",".join(str(part) for part in (hex(address), *cell)))
                packed += 8
        path.with_suffix(".csv").write_text("address,slot,rank,bank,row,column\n" + "\n".join(lines) + "\n")
        print(path.name, len(seen), "words,", len(lines), "kept")


main()
