"""The only ways to change a kept rule of placing."""

from abc import abstractmethod
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Annotated, Any, Literal

from velvet_moth.core.base.operation import AnyOf, BatchOf, DocumentOperation
from velvet_moth.core.base.records import Text
from velvet_moth.core.throwing.curve import RuleCurve
from velvet_moth.core.throwing.rule import PARTS, PartKey, PlacingRule, checked_rule


class RuleOperation(DocumentOperation[PlacingRule], family=True):
    """A change of a rule of placing."""

    @abstractmethod
    def apply(self, rule: PlacingRule) -> "tuple[PlacingRule, RuleOperation]":
        """The changed rule and what takes the change back; OperationRefused where it does not fit."""

    @abstractmethod
    def words(self, rule: PlacingRule) -> str:
        """What it does to the rule as it is before, as a line of the history."""


AnyRuleOperation = Annotated[RuleOperation, AnyOf(RuleOperation)]


@dataclass(frozen=True)
class SetRulePart(RuleOperation):
    """Gives a part another curve; None for the one it has at first."""

    part: PartKey
    curve: RuleCurve | None = None
    op: Literal["set_rule_part"] = "set_rule_part"

    def apply(self, rule: PlacingRule) -> tuple[PlacingRule, RuleOperation]:
        return rule.with_curve(self.part, self.curve), SetRulePart(self.part, rule.curves.get(self.part))

    def words(self, rule: PlacingRule) -> str:
        name = PARTS[self.part].name if self.part in PARTS else "a part"
        return f"changed {name.lower()}" if self.curve else f"put {name.lower()} back as at first"


@dataclass(frozen=True)
class SetRuleName(RuleOperation):
    """Renames the rule."""

    name: Text
    op: Literal["set_rule_name"] = "set_rule_name"

    def apply(self, rule: PlacingRule) -> tuple[PlacingRule, RuleOperation]:
        return checked_rule(replace(rule, name=self.name)), SetRuleName(rule.name)

    def words(self, rule: PlacingRule) -> str:
        return f"renamed the rule {self.name}"


@dataclass(frozen=True)
class RuleBatch(BatchOf[PlacingRule], RuleOperation):
    """Several operations as one step: all of them or none."""

    operations: tuple[AnyRuleOperation, ...]
    summary: Text = ""
    op: Literal["batch"] = "batch"

    @classmethod
    def of(cls, operations: Sequence[Any], summary: str = "") -> "RuleBatch":
        return cls(tuple(operations), summary)
