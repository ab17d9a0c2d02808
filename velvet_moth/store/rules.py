"""Rules of placing, kept with their edits. Graphs name one by its id as a text."""

from pydantic import TypeAdapter
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from velvet_moth.core.document.values import fresh_name
from velvet_moth.core.throwing.operations import AnyRuleOperation
from velvet_moth.core.throwing.rule import FIRST_RULE, PlacingRule, checked_rule, rule_from_json, rule_to_json
from velvet_moth.store.edits import LARGEST_ID, History
from velvet_moth.store.events import News, announce
from velvet_moth.store.models import RuleRevisionRow, RuleRow


class RuleHistory(History[RuleRow, PlacingRule]):
    """The edits of rules."""

    noun, where_from = "rule", "a graph of decals"
    rows, edits, owner = RuleRow, RuleRevisionRow, "rule_id"
    operations = TypeAdapter(AnyRuleOperation)

    def document(self, session: Session, row: RuleRow) -> PlacingRule:
        return rule_of(row)

    def title(self, row: RuleRow) -> str:
        return row.name

    def write(self, session: Session, row: RuleRow, before: PlacingRule, after: PlacingRule) -> None:
        row.name, row.document = after.name, rule_to_json(after)

    def written(self, session: Session, row: RuleRow, after: PlacingRule, words: str) -> None:
        announce(session, News(rule=row.id, revision=row.revision, words=words))


HISTORY = RuleHistory()


def rule_of(row: RuleRow) -> PlacingRule:
    return rule_from_json(row.document, f"rule {row.id}")


def listed(session: Session, project_id: int) -> list[RuleRow]:
    """The rules of a project, by name."""
    found = select(RuleRow).where(RuleRow.project_id == project_id, RuleRow.deleted.is_(None))
    return list(session.scalars(found.order_by(RuleRow.name, RuleRow.id)))


def create(session: Session, project_id: int, rule: PlacingRule) -> RuleRow:
    """Keeps a new rule under a free name."""
    clean = checked_rule(rule)
    name = fresh_name(clean.name, {row.name for row in listed(session, project_id)})
    document = rule_to_json(checked_rule(PlacingRule(name, clean.curves)))
    row = RuleRow(project_id=project_id, name=name, document=document, revision=0, undo=[], redo=[])
    session.add(row)
    session.flush()
    session.refresh(row)
    return row


def keep(session: Session, project_id: int, rule: PlacingRule) -> RuleRow:
    """Keeps a rule; one of the same name and curves that is there already is that one."""
    same = (row for row in listed(session, project_id) if rule_of(row) == rule)
    return next(same, None) or create(session, project_id, rule)


def named(session: Session, key: str) -> RuleRow | None:
    """The rule that a graph names by its key; None where it names none, or that is gone."""
    number = int(key) if key.isascii() and key.isdigit() else 0
    row = session.get(RuleRow, number) if 0 < number <= LARGEST_ID else None
    return row if row is not None and row.deleted is None else None


def in_use(session: Session, key: str) -> PlacingRule:
    """The rule by which decals of a graph that names ``key`` are placed: the one it names, or the first there is."""
    row = named(session, key)
    return FIRST_RULE if row is None else rule_of(row)


def delete(session: Session, key: int) -> None:
    """Takes a rule out of the list; graphs that name it are thrown by the first one until it is brought back."""
    row = HISTORY.find(session, key, lock=True)
    row.deleted = row.deleted or func.now()
    session.flush()


def restore(session: Session, key: int) -> RuleRow:
    """Brings a deleted rule back."""
    row = HISTORY.find(session, key, lock=True)
    row.deleted = None
    session.flush()
    return row
