"""What a stall has on sale: a short program of its own, as a game's server would have it.

    python stall.py STALL.json 2031-04-01T12:00:00Z 30

STALL.json holds {"seed", "slots", "period_seconds", "starts_at", "way", "goods": [[name, weight], ...]} and,
where slots are fixed, "fixed": [{"slot", "goods": [names]}].
"""

import json
import sys
from datetime import UTC, datetime
from pathlib import Path

WORD = 2**64 - 1
GOLDEN = 0x9E3779B97F4A7C15
MIX_1 = 0xBF58476D1CE4E5B9
MIX_2 = 0x94D049BB133111EB


def mix(z):
    z = ((z ^ (z >> 30)) * MIX_1) & WORD
    z = ((z ^ (z >> 27)) * MIX_2) & WORD
    return z ^ (z >> 31)


def turned(word, by):
    return ((word << by) | (word >> (64 - by))) & WORD


def stream(seed, number):
    """Numbers in [0, 1), one after another."""
    at = mix((seed + GOLDEN) & WORD) ^ mix((number * GOLDEN + MIX_1) & WORD)
    words = []
    for _ in range(4):
        at = (at + GOLDEN) & WORD
        words.append(mix(at))
    a, b, c, d = words
    while True:
        result = (turned((a + d) & WORD, 23) + a) & WORD
        shifted = (b << 17) & WORD
        c ^= a
        d ^= b
        b ^= c
        a ^= d
        c ^= shifted
        d = turned(d, 45)
        yield (result >> 11) * 2.0**-53


def picked(numbers, left):
    """The first whose running sum over the sum of all that are left is above the next number."""
    total = 0.0
    for _, weight in left:
        total += weight
    number, running = next(numbers), 0.0
    for name, weight in left:
        running += weight
        if number < running / total:
            return name
    return left[-1][0]


def drawn(stall, period):
    numbers, left, slots = stream(stall["seed"], period), [tuple(good) for good in stall["goods"]], {}

    def fill(slot, among):
        slots[slot] = picked(numbers, among)
        left[:] = [good for good in left if good[0] != slots[slot]]

    for fixed in stall.get("fixed", []):
        fitting = [good for good in left if good[0] in fixed["goods"]]
        if fitting:
            fill(fixed["slot"], fitting)
    for slot in range(1, stall["slots"] + 1):
        if slot not in slots:
            fill(slot, left)
    return [slots[slot] for slot in range(1, stall["slots"] + 1)]


def dealt(stall, period):
    slots = stall["slots"]
    rounds = -(-len(stall["goods"]) // slots)
    numbers, left, order = stream(stall["seed"], period // rounds), [tuple(g) for g in stall["goods"]], []
    while left:
        order.append(picked(numbers, left))
        left = [good for good in left if good[0] != order[-1]]
    place = period % rounds * slots
    part = order[place : place + slots]
    return part + [name for name in order if name not in part][: slots - len(part)]


def on_sale(stall, period):
    if period < 0:
        return []
    return dealt(stall, period) if stall["way"] == "deal" else drawn(stall, period)


def period_at(stall, seconds):
    return int((seconds - stall["starts_at"]) // stall["period_seconds"])


if __name__ == "__main__":
    path, moment, count = sys.argv[1], sys.argv[2], int(sys.argv[3])
    chosen = json.loads(Path(path).read_text(encoding="utf-8"))
    at = datetime.fromisoformat(moment)
    at = at if at.tzinfo else at.replace(tzinfo=UTC)
    first = period_at(chosen, at.timestamp())
    print(json.dumps([on_sale(chosen, one) for one in range(first, first + count)]))
