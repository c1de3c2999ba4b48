"""Rules for a stretch in a project file."""

from collections.abc import Sequence
from typing import Any

import msgspec

from yellow_hinge.voicing.hand_rules import HandRule, Kind, Side


class RuleIn(msgspec.Struct, omit_defaults=True):
    """A rule for a hand. ``value`` is a word, a number, or the keys of a grip."""

    side: Side
    kind: Kind
    value: str | int | tuple[int, ...] | None = None
    on: bool = True

    def __post_init__(self) -> None:
        value = self.value
        numbers = {"inversion": 3, "notes": 5, "lowest": 127, "highest": 127}
        if self.kind in numbers:
            low = 1 if self.kind == "notes" else 0
            good = isinstance(value, int) and low <= value <= numbers[self.kind]
        elif self.kind == "grip":
            keys = value if isinstance(value, tuple) else ()
            rising = list(keys) == sorted(set(keys)) and 0 < len(keys) <= 5
            good = rising and keys[0] >= 0 and keys[-1] <= 127
        elif self.kind in ("family", "top"):
            good = isinstance(value, str)
        else:
            good = value is None
        if not good:
            raise ValueError(f"a rule {self.kind!r} cannot have the value {value!r}")


def rules_in(read_in: Sequence[RuleIn]) -> tuple[HandRule, ...]:
    """The rules that were read."""
    return tuple(HandRule(rule_in.side, rule_in.kind, rule_in.value, rule_in.on) for rule_in in read_in)


def rule_out(rule: HandRule) -> dict[str, Any]:
    """A rule as it is written; what goes without saying is left out."""
    value = list(rule.value) if isinstance(rule.value, tuple) else rule.value
    out = {"side": rule.side, "kind": rule.kind, "value": value, "on": rule.on}
    return {name: one for name, one in out.items() if (name, one) not in (("value", None), ("on", True))}
