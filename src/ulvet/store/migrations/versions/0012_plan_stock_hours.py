"""The plan as a document with revisions; the ledger of stock; hours that were logged"""

import json
from datetime import UTC, datetime

import sqlalchemy as sa
from alembic import op

revision = "0012"
down_revision = "0011"
branch_labels = None
depends_on = None


def upgrade() -> None:
    revisions = op.create_table(
        "plan_revisions",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("plan_id", sa.Integer, sa.ForeignKey("plans.id"), nullable=False),
        sa.Column("number", sa.Integer, nullable=False),
        sa.Column("parent_id", sa.Integer, sa.ForeignKey("plan_revisions.id")),
        sa.Column("plan", sa.JSON, nullable=False),
        sa.Column("says", sa.String(400), nullable=False),
        sa.Column("created", sa.DateTime, nullable=False),
        sa.UniqueConstraint("plan_id", "number"),
    )
    plans = op.create_table(
        "plans",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("head_id", sa.Integer, sa.ForeignKey("plan_revisions.id", name="fk_plans_head")),
        sa.Column("changes", sa.Integer, nullable=False, server_default="0"),
        sa.Column("worked", sa.DateTime, nullable=False),
        sa.Column("dropped", sa.DateTime),
    )
    op.create_table(
        "stock_entries",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("entry", sa.JSON, nullable=False),
        sa.Column("struck", sa.DateTime),
        sa.Column("created", sa.DateTime, nullable=False),
    )
    op.create_table(
        "logged_hours",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("figure_id", sa.Integer, sa.ForeignKey("figures.id"), nullable=False),
        sa.Column("kind", sa.String(20), nullable=False),
        sa.Column("began", sa.DateTime, nullable=False),
        sa.Column("minutes", sa.Float),
        sa.Column("says", sa.String(200), nullable=False),
        sa.Column("struck", sa.DateTime),
    )
    _take_over(plans, revisions)


def _take_over(plans: sa.Table, revisions: sa.Table) -> None:
    """What was planned before there were revisions is the first of them."""
    link = op.get_bind()
    held = link.execute(sa.text("SELECT value FROM settings WHERE name = 'plan'")).scalar()
    if held is None:
        return
    now = datetime.now(UTC).replace(tzinfo=None)
    link.execute(sa.insert(plans).values(id=1, changes=1, worked=now))
    plan = json.loads(held) if isinstance(held, str) else held
    link.execute(sa.insert(revisions).values(id=1, plan_id=1, number=1, plan=plan, says="begun", created=now))
    link.execute(sa.update(plans).values(head_id=1))
    link.execute(sa.text("DELETE FROM settings WHERE name = 'plan'"))
