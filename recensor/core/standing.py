"""How a reading stands beside the others of its measurement: the newest stands, and none is lost.

Readings of one measurement form groups: trials that were taken together. A reading that was taken anew, after others
or otherwise, opens a group, and the last group stands; unless it only confirms what stands, or is by another meter.
Where everything is read in rounds, the newest of each round stand together.
"""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import replace
from enum import StrEnum

from recensor.core.circuit import Sheet, Target
from recensor.core.record import Reading

# What the reason of a strike begins with where a reading typed at once took the other's place.
READ_AGAIN = "read again"


class Standing(StrEnum):
    """How a reading stands in the books; the words are those of a run document's assessment."""

    COUNTED = "counted"
    LATER = "later"
    EARLIER = "earlier"
    CONFIRMS = "confirms"
    BESIDE = "beside"
    LOOK = "look"
    REPLACED = "replaced"
    STRUCK = "struck"

    @property
    def stands(self) -> bool:
        """Whether it is what its measurement comes to."""
        return self in (Standing.COUNTED, Standing.LATER)

    @property
    def was_read(self) -> bool:
        """Whether it says something of the circuit: all but what shows nothing yet, and what was struck."""
        return self not in (Standing.LOOK, Standing.REPLACED, Standing.STRUCK)


def confirms(stands: Reading, reading: Reading) -> bool:
    """Whether a reading is coarser than what stands, and that lies within its last digit."""
    apart = difference(stands, reading)
    digit, finer = float(reading.value.resolution or 0), float(stands.value.resolution or 0)
    return apart is not None and digit > finer * (1 + 1e-9) and abs(apart) <= digit * (1 + 1e-9)


def difference(stands: Reading, reading: Reading) -> float | None:
    """How far a reading lies above another of its measurement, in the SI unit; None where either is over-range."""
    if stands.value.value is None or reading.value.value is None:
        return None
    turned = reading.target.reversed_against(stands.target)
    return (-1 if turned else 1) * float(reading.value.value) - float(stands.value.value)


def only_turned(before: Reading, after: Reading) -> bool:
    """Whether a reading is another with the other sign, digit for digit."""
    if before.value.value is None or after.value.value is None or not float(before.value.value):
        return False
    turned = 1 if after.target.reversed_against(before.target) else -1
    same = after.value.value == turned * before.value.value
    return same and after.value.resolution == before.value.resolution


def _own_meter(reading: Reading) -> str | None:
    return reading.meter


def grouped(
    readings: Sequence[Reading], places: Iterable[int], meter: Callable[[Reading], str | None] = _own_meter
) -> tuple[list[list[int]], dict[int, Standing]]:
    """The groups that counted readings of one measurement form, by their places, in order; the last one stands.

    And how each of them stands: by another meter than what stands, or coarser, a later one is in no group. `meter` says
    which meter a reading was taken with.
    """
    rounds: dict[int | None, list[int]] = {}
    for k in places:
        rounds.setdefault(readings[k].round, []).append(k)
    found = [_grouped_in_round(readings, members, meter) for members in rounds.values()]
    if len(found) == 1:
        return found[0]
    before = [group for groups, _ in found for group in groups[:-1]]
    newest = [k for groups, _ in found for k in groups[-1]] if found else []
    standings = {k: standing for _, standings in found for k, standing in standings.items()}
    standings.update(dict.fromkeys(newest, Standing.COUNTED))
    return [*before, newest] if newest else [], standings


def _grouped_in_round(
    readings: Sequence[Reading], places: Iterable[int], meter: Callable[[Reading], str | None]
) -> tuple[list[list[int]], dict[int, Standing]]:
    """The groups of one round, and how each reading stands in it."""
    groups: list[list[int]] = []
    standings: dict[int, Standing] = {}
    for k in places:
        reading, stands = readings[k], readings[groups[-1][-1]] if groups else None
        if stands is not None and not reading.later:
            groups[-1].append(k)
        elif stands is not None and meter(reading) != meter(stands):
            standings[k] = Standing.BESIDE
        elif stands is not None and confirms(stands, reading):
            standings[k] = Standing.CONFIRMS
        else:
            groups.append([k])
    for number, group in enumerate(groups, 1):
        now = Standing.EARLIER if number < len(groups) else Standing.LATER if number > 1 else Standing.COUNTED
        standings.update(dict.fromkeys(group, now))
    return groups, standings


def standing_at(readings: Sequence[Reading], target: Target, in_round: int | None = None) -> int | None:
    """The place of the last reading of a measurement that stands, perhaps in one round; None where there is none."""
    key = target.key
    places = [
        k
        for k, other in enumerate(readings)
        if other.struck is None and other.counted is not False and other.target.key == key
    ]
    if in_round is not None:
        places = [k for k in places if readings[k].round == in_round]
    numbers = [k for k in places if not readings[k].value.over_range]
    groups, _ = grouped(readings, numbers or places)
    return groups[-1][-1] if groups else None


def others_read(readings: Sequence[Reading], since: int) -> list[Target]:
    """What else was read since the measurement at a place in the order; touched leads are nothing else.

    What documents call later is `was_left`.
    """
    key = readings[since].target.key
    after = (other.target for other in readings[since + 1 :] if other.struck is None)
    return [target for target in after if target.key != key and not target.is_leads]


class Rounds:
    """Which round is being read: the next opens once everything that is asked for was read in this one."""

    def __init__(self, sheet: Sheet) -> None:
        self._wanted = {target.key for target in sheet.wanted}
        self._most = sheet.rounds
        self.number = 1
        self.read: set[Target] = set()

    def add(self, reading: Reading) -> Reading:
        """The next reading, in its round: the one that it names, else the one that is being read."""
        if self._most == 1:
            return reading
        self._go_on()
        if reading.round is not None and reading.round > self.number:
            self._open(reading.round)
        if reading.struck is None and reading.counted is not False and reading.round in (None, self.number):
            self.read.add(reading.target.key)
        return reading if reading.round is not None else replace(reading, round=self.number)

    def _go_on(self) -> None:
        """Open the next round where this one is complete, and is not the last."""
        if self._wanted and self._wanted <= self.read and self.number < self._most:
            self._open(self.number + 1)

    def _open(self, number: int) -> None:
        self.number, self.read = number, set()

    @classmethod
    def of(cls, sheet: Sheet, readings: Iterable[Reading]) -> "Rounds":
        """The round that comes after these readings; the last one stays once it was read."""
        rounds = cls(sheet)
        for reading in readings:
            rounds.add(reading)
        rounds._go_on()
        return rounds


def was_left(readings: Sequence[Reading], target: Target) -> bool:
    """Whether others were read since a measurement was first: what is read there next is then read again, later."""
    stretches = Stretches()
    for reading in readings:
        if reading.struck is None:
            stretches.is_later(reading)
    return stretches.was_left(target)


class Stretches:
    """Says of each reading, in order, whether others were read since its measurement was first.

    Documents that were signed say so of each; whoever asks this otherwise breaks their signatures.
    """

    def __init__(self) -> None:
        self._first: dict[Target, int] = {}
        self._at, self._other = 0, -1
        self._key: Target | None = None

    def was_left(self, target: Target) -> bool:
        """Whether a reading of this that came next would be later than others."""
        key = target.key
        # `_other` is where the present stretch of one measurement began: others were read before that.
        other = self._other if key == self._key else self._at
        return key in self._first and self._first[key] < other

    def is_later(self, reading: Reading) -> bool:
        """Whether the next reading, which is not struck, is later than others."""
        later, key = self.was_left(reading.target), reading.target.key
        if key != self._key:
            self._key, self._other = key, self._at
        self._at += 1
        if reading.counted is not False:
            self._first.setdefault(key, self._at - 1)
        return later
