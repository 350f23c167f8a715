"""An assessment that was kept: read back over today's, and where the two differ.

What is kept is the tree that ``recensor judge`` prints. Whatever it does not say, and whatever cannot be read any more,
stays as today's rules have it.
"""

from collections.abc import Callable, Hashable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Any, TypeVar

from recensor.core import plan
from recensor.core.circuit import MEASURED, NOMINAL
from recensor.core.judgement import (
    Account,
    AccountVerdict,
    Assessment,
    Calculated,
    Judged,
    PartAssessment,
    PartVerdict,
    ReadingAssessment,
    SanityCheck,
    SetupsCompared,
    TargetAssessment,
    Warned,
)
from recensor.core.uncertainty import Spread
from recensor.formats.documents.assessment import HOLDS, verdict_of
from recensor.formats.documents.sheet import target_tree

Tree = Mapping[str, Any]
_Assessed = TypeVar("_Assessed")

# What is uncertain about a value that was kept is known as a whole only.
_KEPT = "kept"


@dataclass(frozen=True)
class ChangedVerdict:
    """Something that is judged otherwise today: what it is in words, the verdict that was kept, and today's."""

    words: str
    then: str
    now: str


@dataclass(frozen=True)
class KeptCause:
    """A cause that was kept: its text, and its share of all weight."""

    text: str
    score: float


@dataclass(frozen=True)
class _KeptAssessment(Assessment):
    """An assessment whose readings, each by itself, are as they were kept."""

    kept_readings: Mapping[int, Tree] = field(default_factory=dict, repr=False, compare=False)

    @cached_property
    def readings(self) -> list[ReadingAssessment]:
        """Each reading by itself."""
        return [_as_kept(today, self.kept_readings.get(today.index), _reading) for today in super().readings]


def as_it_was(today: Assessment, kept: Tree) -> Assessment:
    """An assessment with the values, verdicts and reasons that were kept."""
    parts = {name: _as_kept(part, kept["parts"].get(name), _part) for name, part in today.parts.items()}
    targets = _by(kept.get("targets", ()), _key_of_tree)
    accounts = _by(kept.get("laws", ()), lambda tree: (tree["setup"], tree.get("at"), tuple(tree.get("around", ()))))
    rules = _by(kept.get("sanity", ()), lambda tree: (tree["rule"], tree["setup"], tuple(tree["indexes"])))
    compared = _by(kept.get("comparisons", ()), lambda tree: (tree["rule"], str(tree["setups"]), str(tree["targets"])))
    return _KeptAssessment(
        kept_readings={tree["index"]: tree for tree in kept.get("readings", ())},
        parts=parts,
        alone={key: parts[part.name] if part is today.parts[part.name] else part for key, part in today.alone.items()},
        targets={key: _as_kept(one, targets.get(_key(one)), _target) for key, one in today.targets.items()},
        laws=[
            _as_kept(account, accounts.get((account.setup, account.at, account.around)), _account)
            for account in today.laws
        ],
        claims=today.claims,
        calculations=today.calculations,
        against=today.against,
        sanity=[_as_kept(check, rules.get((check.rule, check.setup, check.indexes)), _rule) for check in today.sanity],
        comparisons=[_as_kept(one, compared.get(_names(one)), _compared) for one in today.comparisons],
        disagreements=[],  # it is signed: what was open then is among the warnings
        warnings=[Warned(warning["at"], warning["text"]) for warning in kept.get("warnings", ())],
    )


def changed_verdicts(today: Assessment, then: Assessment) -> Iterator[ChangedVerdict]:
    """Whatever is judged otherwise today than it was."""
    sheet = today.against.run.sheet
    for name, part in today.parts.items():
        yield from _changed(name, then.parts[name].verdict.value, part.verdict.value)
    for key, target in today.targets.items():
        words = plan.title(target.measurement.target, sheet)
        yield from _changed(words, then.targets[key].judged.verdict.value, target.judged.verdict.value)
    for account, before in zip(today.laws, then.laws, strict=True):
        words = f"node {account.at}" if account.at is not None else f"loop {' · '.join(account.around)}"
        yield from _changed(words, before.verdict.value, account.verdict.value)
    for check, was in zip(today.sanity, then.sanity, strict=True):
        yield from _changed(check.rule, verdict_of(was), verdict_of(check))
    for one, other in zip(today.comparisons, then.comparisons, strict=True):
        yield from _changed(" and ".join(one.comparison.setups), other.verdict, one.verdict)


def kept_causes(kept: Tree) -> list[KeptCause]:
    """What would have explained it, the likeliest first."""
    return [KeptCause(tree["text"], tree["score"]) for tree in kept.get("faults", ())]


def _changed(words: str, then: str, now: str) -> Iterator[ChangedVerdict]:
    if then != now:
        yield ChangedVerdict(words, then, now)


def _by(trees: Sequence[Tree], key: Callable[[Tree], Hashable]) -> dict[Hashable, Tree]:
    return {key(tree): tree for tree in trees}


def _key_of_tree(tree: Tree) -> str:
    return str([tree.get(name) for name in ("setup", "quantity", "of", "across", "through", "at", "step")])


def _key(assessed: TargetAssessment) -> str:
    target = assessed.measurement.target
    return _key_of_tree({"setup": target.setup, "quantity": target.measurand.value, **target_tree(target)})


def _names(one: SetupsCompared) -> tuple[str, str, str]:
    targets = [target_tree(target) for target in one.targets]
    return one.comparison.rule.value, str(list(one.comparison.setups)), str(targets)


def _as_kept(today: _Assessed, kept: Tree | None, change: Callable[[_Assessed, Tree], _Assessed]) -> _Assessed:
    """What was kept; as it is today where nothing was, or it cannot be read any more."""
    if kept is None:
        return today
    try:
        return change(today, kept)
    except (KeyError, TypeError, ValueError):
        return today


def _part(today: PartAssessment, kept: Tree) -> PartAssessment:
    return replace(
        today,
        nominal=kept["nominal"],
        measured=kept["measured"],
        percent_error=kept["percent_error"],
        tolerance_percent=kept["tolerance_percent"],
        verdict=PartVerdict(kept["verdict"]),
        reason=kept["reason"],
    )


def _target(today: TargetAssessment, kept: Tree) -> TargetAssessment:
    """A measurement by the readings that stood then, which need not be those that stand by today's rules."""
    measurement, indexes = today.measurement, tuple(kept["indexes"])
    if indexes != measurement.indexes:
        others = {*measurement.indexes, *measurement.earlier} - set(indexes)
        measurement = replace(measurement, indexes=indexes, values=(kept["mean"],) * kept["n"], mean=kept["mean"],
                              deviation=kept["s"], earlier=tuple(sorted(others)), far=())  # fmt: skip
    return replace(today, measurement=measurement, judged=replace(_judged(today.judged, kept), value=kept["mean"]))


def _reading(today: ReadingAssessment, kept: Tree) -> ReadingAssessment:
    return replace(today, judged=_judged(today.judged, kept))


def _judged(today: Judged, kept: Tree) -> Judged:
    verdict = type(today.verdict)(kept["verdict"])
    return replace(
        today,
        expanded=kept["uncertainty"]["reading"],
        nominal=_calculated(today.nominal, kept, NOMINAL.value),
        measured=_calculated(today.measured, kept, MEASURED.value),
        percent_error={basis: kept["percent_error"][basis.value] for basis in (NOMINAL, MEASURED)},
        normalised_error={basis: kept["normalised_error"][basis.value] for basis in (NOMINAL, MEASURED)},
        verdict=verdict,
        reason=kept["reason"],
        outcome=today.outcome if verdict is today.verdict else verdict.outcome,
    )


def _calculated(today: Calculated, kept: Tree, basis: str) -> Calculated:
    value, expanded = kept["calculated"][basis], kept["uncertainty"]["calculated"][basis]
    if value == today.value:
        return today
    return replace(today, value=value, spread=None if expanded is None else Spread({_KEPT: expanded / 2.0}))


def _account(today: Account, kept: Tree) -> Account:
    return replace(
        today,
        rises=kept["rises"],
        drops=kept["drops"],
        residual=kept["residual"],
        residual_percent=kept["residual_percent"],
        expanded=kept["uncertainty"],
        normalised_error=kept["normalised_error"],
        verdict=AccountVerdict(kept["verdict"]),
        reason=kept["reason"],
    )


def _rule(today: SanityCheck, kept: Tree) -> SanityCheck:
    return replace(today, holds=kept["verdict"] == HOLDS, reason=kept["reason"])


def _compared(today: SetupsCompared, kept: Tree) -> SetupsCompared:
    then = replace(today, verdict=kept["verdict"], reason=kept["reason"])
    return then if then.outcome else today  # a verdict that is none has no outcome
