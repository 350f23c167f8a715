"""What displays show under each of many hypotheses, and how that hangs on everything that is not known.

The unknowns are the true value of each part, of each source and its drift, the gains of the meter's functions and
ranges, its leads, its burden, and the numbers of a hypothesis's own. All are told in standard deviations from where
they lie beforehand, so that each is drawn from a normal distribution of mean 0 and variance 1.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from recensor.core.faults.model.batch import SLOTS, Batch, Names
from recensor.core.faults.model.networks import FaultNetwork, networks
from recensor.core.faults.model.observations import Observations, ObservedTarget, noise
from recensor.core.faults.model.priors import Priors
from recensor.core.judgement import SHARED_GAIN
from recensor.core.quantity import CURRENT, RESISTANCE, VOLTAGE, Measurand
from recensor.core.solving import MovedLead
from recensor.core.uncertainty import Array

# What stands behind a current limit, in ohms.
_BEHIND_LIMIT = 1e7

# What a meter meets, in ohms, beside lamps and diodes: what blocks without a meter does not with one.
_MET_AT_MOST = 1e5

# No display shows more than so much of its unit.
_LARGEST = 1e12


@dataclass(frozen=True)
class Predicted:
    """What each reading would show (hypotheses, readings), its slopes by every unknown, and its own variance.

    `at_points` (hypotheses, points) is what a perfect meter would find at every point.
    """

    shown: Array
    slopes: Array
    variances: Array
    at_points: Array


class FaultModel:
    """A run as a model: its unknowns, and what it predicts under a batch of hypotheses."""

    def __init__(self, observed: Observations) -> None:
        sheet = observed.run.sheet
        self.observed = observed
        self.sheet = sheet
        self.names = Names.of(sheet)
        read = {*observed.rows.tolist(), *(over_range.row for over_range in observed.over_range)}
        self._read = len(read | {row for light in observed.seen for row in (light.volts, light.amperes)})
        self._networks = list(networks(observed, self.names, len(observed.points)))
        self._networks_read = list(networks(observed, self.names, self._read))
        self._kind_of_row = np.array([list(Measurand).index(point.target.measurand) for point in observed.points], int)
        self._place_of_row = np.array([self._place(point) for point in observed.points], int)
        self._parts_alone, self._sources_alone = map(self._rows_alone, (self.names.parts, self.names.sources))
        self._known = Priors.of(observed, self.names)
        self._at = self._known.columns
        self.unknowns = self._at.slots + SLOTS

    @property
    def spreads(self) -> Array:
        """The standard deviations of all unknowns but a hypothesis's own."""
        return self._known.spreads

    def _place(self, point: ObservedTarget) -> int:
        setup = point.target.setup
        return self.names.alone if setup is None else self.names.setups.index(setup)

    def ohms_beforehand(self, part: str) -> float:
        """What stands for a part out of every circuit before anything is fitted, in ohms."""
        return float(self._known.ohms[self.names.alone, self.names.parts.index(part)])

    @cached_property
    def points_beforehand(self) -> tuple[Array, Array]:
        """What every point should be, as a display of no error would show it, and its slopes by every unknown."""
        there, slopes, _ = self._at_points(self.batch(1), np.zeros((1, self.unknowns)), True, every=True)
        return there[0], slopes[0, :, : len(self.spreads)] * self.spreads

    def points_under(self, batch: Batch, at: Array, covariance: Array) -> tuple[Array, Array]:
        """What every point is under the only hypothesis of a batch, and how far it may be off."""
        spreads = self.spreads_of(batch)
        there, slopes, _ = self._at_points(batch, (at * spreads[0])[None], False, every=True)
        slopes = slopes[0] * spreads[0]
        return there[0], np.sqrt(np.maximum(((slopes @ covariance) * slopes).sum(axis=1), 0.0))

    def batch(self, count: int) -> Batch:
        """So many hypotheses that change nothing yet."""
        return Batch.of(self.observed, self.names, count)

    def spreads_of(self, batch: Batch) -> Array:
        """The standard deviation of every unknown beforehand, (hypotheses, unknowns); 0 for a number not used."""
        return np.concatenate([np.tile(self.spreads, (len(batch), 1)), batch.spread], axis=1)

    def start_of(self, batch: Batch) -> Array:
        """Where the search begins, in standard deviations: at what was known, and at the starts of own numbers."""
        begin = np.zeros((len(batch), self.unknowns))
        own = np.divide(batch.start - batch.mean, batch.spread, out=np.zeros_like(batch.mean), where=batch.spread > 0)
        begin[:, self._at.slots :] = own
        begin[:, : self._at.sources] = batch.begin / self.spreads[: self._at.sources]
        return begin

    def own_numbers(self, batch: Batch, at: Array) -> Array:
        """The logarithms of the hypotheses' own numbers, (hypotheses, slots)."""
        return np.asarray(batch.mean + batch.spread * at[:, self._at.slots :])

    def own_places(self) -> slice:
        """Where the hypotheses' own numbers stand among the unknowns."""
        return slice(self._at.slots, self.unknowns)

    def meter_ohms(self, at: Array, place: int) -> float:
        """What the meter is to the circuit at a reading, with the unknowns at these places: its own ohms."""
        observed = self.observed
        if observed.measurands[place] is not CURRENT:
            return 1.0 / max(float(observed.input_siemens[place]), 1e-12)
        off = float(at[self._at.burden + observed.ranges[place]])
        return float(observed.burden[place] * np.exp(observed.burden_spread[place] * off))

    def predict(self, batch: Batch, at: Array, *, common: bool = False) -> Predicted:
        """What is shown with the unknowns at these places, (hypotheses, unknowns), in standard deviations.

        `common`: all hypotheses have the same unknowns but for numbers of their own, so that a circuit that none of
        them changes is solved once.
        """
        spreads = self.spreads_of(batch)
        unknowns = at * spreads
        there, slopes, meets = self._at_points(batch, unknowns, common)
        at_points = there
        shown, slopes, meets = (self._of_readings(batch, one) for one in (there, slopes, meets))
        late = np.flatnonzero(batch.since > 0)
        if len(late):
            every = there.shape[1] > self._read
            found = self._at_points(self.batch(len(late)), unknowns[late], common, every=every)
            before = np.arange(self.observed.count) < batch.since[late, None]
            for now, plain in zip((shown, slopes, meets), found, strict=True):
                then = plain[np.arange(len(late))[:, None], batch.rows[late]]
                now[late] = np.where(before[..., None] if then.ndim == 3 else before, then, now[late])
        slopes = self._displayed(batch, unknowns, shown, slopes, meets)
        sizes = np.abs(shown)
        variances = noise(self.observed, batch.by_digits, sizes, self.observed.gain) + (batch.loose * sizes) ** 2
        return Predicted(shown, slopes * spreads[:, None, :], np.maximum(variances, 1e-24), at_points)

    def glance(self, batch: Batch) -> Array:
        """What each reading would be where the search begins, (hypotheses, readings): circuits alone, meters ideal."""
        unknowns = self.start_of(batch) * self.spreads_of(batch)
        logs, emf, inner = self._values(batch, unknowns)
        volts, inner, _ = self._limited(batch, unknowns, emf, inner)
        count, ohms = len(batch), np.exp(logs)
        there = np.zeros((count, self._read))
        for network in self._networks_read:
            chosen, which = self._changed(batch, network.place)
            values, own = self._elements(network, chosen, ohms, volts, inner)
            plain = self._plain(batch, network, chosen)
            found = network.variants.glance(values, own, self._moved(batch, network, chosen), plain=plain)
            there[:, network.rows] = found[which]
        self._alone(ohms, emf, there, None, None)
        known, expected = np.minimum(batch.rows, self._read - 1), self.points_beforehand[0]
        shown = np.where(batch.rows < self._read, np.take_along_axis(there, known, axis=1), expected[batch.rows])
        late = np.flatnonzero(batch.since > 0)
        if len(late):
            before = np.arange(self.observed.count) < batch.since[late, None]
            shown[late] = np.where(before, expected[batch.rows[late]], shown[late])
        shown *= batch.shares
        self._as_found(shown)
        return np.asarray(shown)

    def _as_found(self, shown: Array) -> None:
        """Let the meter show what it was found to show, in place."""
        shown *= self.observed.found_gains
        shown += self.observed.found_offsets

    def _changed(self, batch: Batch, place: int) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
        """One hypothesis that leaves a place alone, and all that change it; and which of these each one is."""
        changed = np.flatnonzero(batch.touched[:, place])
        plain = np.flatnonzero(~batch.touched[:, place])[:1]
        chosen = np.concatenate([plain, changed])
        which = np.zeros(len(batch), int)
        which[chosen] = np.arange(len(chosen))
        return chosen, which

    def _elements(
        self, network: FaultNetwork, chosen: NDArray[np.int64], ohms: Array, volts: Array, inner: Array
    ) -> tuple[Array, Array]:
        """Values and sources' own resistances of a network's elements, for the chosen hypotheses."""
        elements, place = len(network.variants.elements), network.place
        values, own = np.empty((len(chosen), elements)), np.zeros((len(chosen), elements))
        values[:] = [element.value for element in network.variants.elements]
        for (columns, which), known in ((network.parts, ohms), (network.sources, volts)):
            values[:, columns] = known[chosen, place][:, which]
        columns, which = network.sources
        own[:, columns] = inner[chosen, place][:, which]
        return values, own

    def _plain(self, batch: Batch, network: FaultNetwork, chosen: NDArray[np.int64]) -> NDArray[np.bool_]:
        """Which elements stand for ohms that a hypothesis gives them, in the chosen variants of a network."""
        plain = np.zeros((len(chosen), len(network.variants.elements)), bool)
        columns, which = network.parts
        plain[:, columns] = ~np.isnan(batch.fixed[chosen, network.place][:, which])
        return plain

    def _of_readings(self, batch: Batch, by_point: Array) -> Array:
        """What belongs to each reading's point."""
        if (batch.rows == self.observed.rows).all():
            return by_point[:, self.observed.rows]
        return by_point[np.arange(len(batch))[:, None], batch.rows]

    def _at_points(self, batch: Batch, unknowns: Array, common: bool, *, every: bool = False) -> list[Array]:
        """At the points that are asked for: what is there, its slopes by every unknown, and what a meter meets."""
        logs, emf, inner = self._values(batch, unknowns)
        volts, inner, is_limited = self._limited(batch, unknowns, emf, inner)
        only_read = not every and bool((batch.rows < self._read).all())
        points = self._read if only_read else len(self._place_of_row)
        count, p, s = len(batch), len(self.names.parts), len(self.names.sources)
        there, meets = np.zeros((count, points)), np.zeros((count, points))
        by_part, by_source, by_inner = (np.zeros((count, points, n)) for n in (p, s, s))
        ohms = np.exp(logs)
        for network in self._networks_read if only_read else self._networks:
            chosen = take = np.arange(count)
            if common:
                chosen, take = self._changed(batch, network.place)
            values, own = self._elements(network, chosen, ohms, volts, inner)
            plain = self._plain(batch, network, chosen)
            responses = network.variants.respond(values, own, self._moved(batch, network, chosen), plain=plain)
            rows = network.rows[:, None]
            there[:, network.rows], meets[:, network.rows] = responses.answers[take], responses.meets[take]
            if network.variants.is_nonlinear:
                meets[:, network.rows] = np.minimum(meets[:, network.rows], _MET_AT_MOST)
            by_value, inside = responses.by_value[take], responses.by_inner[take]
            by_part[:, rows, network.parts[1]] = by_value[:, :, network.parts[0]]
            by_source[:, rows, network.sources[1]] = by_value[:, :, network.sources[0]]
            by_inner[:, rows, network.sources[1]] = inside[:, :, network.sources[0]]
        self._alone(ohms, emf, there, by_part, by_source)
        return [there, self._slopes(batch, unknowns, by_part, by_source, by_inner, is_limited), meets]

    def _values(self, batch: Batch, unknowns: Array) -> tuple[Array, Array, Array]:
        """The logarithms of ohms (hypotheses, places, parts), what sources give, and their own resistances."""
        places, s = len(self.names.setups) + 1, len(self.names.sources)
        own = unknowns[:, self._at.slots :] + batch.mean
        base = np.log(self._known.ohms)
        parts = unknowns[:, None, : self._at.sources] + base
        logs = np.take_along_axis(parts, batch.stands, axis=2)
        logs = np.where(np.isnan(batch.fixed), logs, np.log(batch.fixed)) + np.log(batch.factor)
        logs = logs + np.einsum("hj,hjlp->hlp", own, batch.of_parts)
        off = unknowns[:, None, self._at.sources : self._at.drift]
        off = off + unknowns[:, self._at.drift : self._at.gains].reshape(-1, places, s)
        emf = self._known.emf * (1.0 + off)
        emf = emf * np.exp(np.einsum("hj,hjls->hls", own, batch.of_emf))
        inner = np.where(np.isnan(batch.inner), self._known.inner, batch.inner)
        inner = inner * np.exp(np.einsum("hj,hjls->hls", own, batch.of_inner))
        return np.clip(logs, -20.0, 27.0), emf, inner

    def _limited(
        self, batch: Batch, unknowns: Array, emf: Array, inner: Array
    ) -> tuple[Array, Array, NDArray[np.bool_]]:
        """Sources with those that are in their limit: a large voltage behind a large resistance."""
        is_limited = np.asarray(batch.of_limit.any(axis=1), bool)
        emf = emf * batch.turned
        if not is_limited.any():
            return emf, inner, is_limited
        own = unknowns[:, self._at.slots :] + batch.mean
        amperes = np.exp(np.einsum("hj,hjls->hls", own, batch.of_limit))
        sign = np.where(emf < 0, -1.0, 1.0)
        volts = np.where(is_limited, sign * amperes * _BEHIND_LIMIT, emf)
        return volts, np.where(is_limited, _BEHIND_LIMIT, inner), is_limited

    def _moved(self, batch: Batch, network: FaultNetwork, chosen: NDArray[np.int64]) -> list[MovedLead]:
        """The leads that are elsewhere in the chosen variants of a network."""
        moved = batch.moved.get(network.place)
        if not moved:
            return []
        at = {int(h): k for k, h in enumerate(chosen)}
        variants = network.variants
        return [
            MovedLead(at[lead.variant], lead.element, lead.lead, lead.node if variants.has_node(lead.node) else None)
            for lead in moved
            if lead.variant in at and variants.has_element(lead.element)
        ]

    def _alone(self, ohms: Array, emf: Array, there: Array, by_part: Array | None, by_source: Array | None) -> None:
        """What parts are by themselves, with their slopes where these are asked for."""
        points = there.shape[1]
        for (rows, which), known, slopes in ((self._parts_alone, ohms, by_part), (self._sources_alone, emf, by_source)):
            here = rows < points
            rows, which = rows[here], which[here]
            there[:, rows] = known[:, self._place_of_row[rows], which]
            if slopes is not None:
                slopes[:, rows, which] = there[:, rows]

    def _rows_alone(self, names: Sequence[str]) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
        """The rows of what these are by themselves, and which of them each is."""
        index = {name: k for k, name in enumerate(names)}
        found = [
            (row, index[point.target.part])
            for row, point in enumerate(self.observed.points)
            if point.target.is_part_alone and point.target.part in index
        ]
        rows, which = np.array(found, int).reshape(-1, 2).T
        return rows, which

    def _slopes(
        self,
        batch: Batch,
        unknowns: Array,
        by_part: Array,
        by_source: Array,
        by_inner: Array,
        is_limited: NDArray[np.bool_],
    ) -> Array:
        """The slopes of every point by every unknown but the meter's."""
        count, points = by_part.shape[:2]
        place, s = self._place_of_row[: by_part.shape[1]], len(self.names.sources)
        slopes = np.zeros((count, points, self.unknowns))
        own = np.where(np.isnan(batch.fixed), 1.0, 0.0)[:, place] * by_part
        if (batch.stands != np.arange(len(self.names.parts))).any():
            own = np.take_along_axis(own, np.argsort(batch.stands, axis=2)[:, place], axis=2)
        slopes[:, :, : self._at.sources] = own
        drift = unknowns[:, self._at.drift : self._at.gains].reshape(count, -1, s)
        off = 1.0 + unknowns[:, None, self._at.sources : self._at.drift] + drift
        by_share = np.where(is_limited[:, place], 0.0, by_source / off[:, place])
        slopes[:, :, self._at.sources : self._at.drift] = by_share
        for k in range(s):
            slopes[:, np.arange(points), self._at.drift + place * s + k] = by_share[:, :, k]
        for j in range(SLOTS):
            if (batch.used > j).any():
                slopes[:, :, self._at.slots + j] = (
                    (by_part * batch.of_parts[:, j][:, place]).sum(axis=2)
                    + (by_source * (batch.of_emf + batch.of_limit)[:, j][:, place]).sum(axis=2)
                    + (by_inner * batch.of_inner[:, j][:, place]).sum(axis=2)
                )
        return slopes

    def _displayed(self, batch: Batch, unknowns: Array, shown: Array, slopes: Array, meets: Array) -> Array:
        """Let the meter disturb, read and err: `shown` in place, its slopes in return."""
        own = unknowns[:, self._at.slots :] + batch.mean
        burden, by_burden, of_own = self._disturbance(batch, unknowns, own, meets)
        damp = 1.0 / (1.0 + burden)
        shown *= damp
        slopes *= damp[:, :, None]
        readings = np.arange(self.observed.count)
        slopes[:, readings, self._at.burden + self.observed.ranges] = -shown * by_burden * damp
        for j in range(SLOTS):
            slopes[:, :, self._at.slots + j] += shown * burden * damp * of_own[:, j]
        for slot, source in np.argwhere(batch.of_drift.any(axis=(0, 3))).tolist():
            by_share = slopes[:, :, self._at.sources + source] * batch.of_drift[:, slot, source]
            shown += own[:, slot, None] * by_share
            slopes[:, :, self._at.slots + slot] += by_share
        ohms = self._is(RESISTANCE)
        shown[:, ohms] += self._known.leads + unknowns[:, self._at.leads, None]
        slopes[:, ohms, self._at.leads] = 1.0
        shown *= batch.shares
        slopes *= (batch.shares * self.observed.found_gains)[:, :, None]
        self._as_found(shown)
        self._gained(batch, unknowns, own, shown, slopes)
        np.nan_to_num(np.clip(shown, -_LARGEST, _LARGEST, out=shown), copy=False)
        return np.nan_to_num(slopes, nan=0.0, posinf=_LARGEST, neginf=-_LARGEST)

    def _is(self, *measurands: Measurand) -> NDArray[np.bool_]:
        return np.array([measurand in measurands for measurand in self.observed.measurands], bool)

    def _disturbance(self, batch: Batch, unknowns: Array, own: Array, meets: Array) -> tuple[Array, Array, Array]:
        """By what share meters disturb each reading, how that hangs on the burden, and on own numbers."""
        observed = self.observed
        volts, amps = self._is(VOLTAGE), self._is(CURRENT)
        meets = np.maximum(meets, 0.0)
        puts = np.where(volts, observed.input_siemens, 0.0) * np.ones((len(batch), 1))
        ohms = batch.burden * np.exp(observed.burden_spread * unknowns[:, self._at.burden + observed.ranges])
        puts = puts + np.where(amps, ohms, 0.0)
        varies = np.where(amps, ohms * observed.burden_spread, 0.0)
        of_own = np.zeros((len(batch), SLOTS, observed.count))
        full = np.where(batch.full > 0, batch.full, 1.0)
        for j in range(SLOTS):
            h = np.flatnonzero(batch.of_burden[:, j])
            if len(h):
                by = np.where(batch.same_ohms[h, None], 1.0, full[h])
                puts[h] = np.where(amps, np.exp(own[h, j, None]) / by, puts[h])
                varies[h] = np.where(amps, 0.0, varies[h])
                of_own[h, j] = np.where(amps, -1.0, 0.0)
            h = np.flatnonzero(batch.of_loading[:, j])
            if len(h):
                puts[h] = np.where(volts, np.exp(-own[h, j, None]), puts[h])
                of_own[h, j] += np.where(volts, 1.0, 0.0)
        silent = batch.ideal[:, None] | (self._kind_of_row[batch.rows] != self._kind_of_row[observed.rows])
        puts, varies = np.where(silent, 0.0, puts), np.where(silent, 0.0, varies)
        return puts * meets, varies * meets, of_own

    def _gained(self, batch: Batch, unknowns: Array, own: Array, shown: Array, slopes: Array) -> None:
        """The gains of the meter's functions and ranges, and gains and offsets of a hypothesis's own."""
        factor = np.ones_like(shown)
        shares = SHARED_GAIN * self.observed.gain
        h, n = np.arange(len(batch))[:, None], np.arange(self.observed.count)
        h, n = np.broadcast_arrays(h, n)
        for k in range(2):
            column = self._at.gains + batch.gains[:, :, k]
            has = batch.gains[:, :, k] >= 0
            factor += np.where(has, shares * np.take_along_axis(unknowns, np.where(has, column, 0), axis=1), 0.0)
            slopes[h[has], n[has], column[has]] = (shares * shown)[has]
        shown *= factor
        for j in range(SLOTS):
            if batch.of_gain[:, j].any():
                by_gain = np.exp(own[:, j, None] * batch.of_gain[:, j])
                shown *= by_gain
                slopes *= by_gain[:, :, None]
                slopes[:, :, self._at.slots + j] += shown * batch.of_gain[:, j]
        for j in range(SLOTS):
            if batch.of_offset[:, j].any():
                shown += own[:, j, None] * batch.of_offset[:, j]
                slopes[:, :, self._at.slots + j] += batch.of_offset[:, j]
