"""Figures stand in collections, and tell when they were last worked on; bits can be put back"""

import sqlalchemy as sa
from alembic import op

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("figures", sa.Column("collection", sa.String(80), nullable=False, server_default=""))
    op.add_column("figures", sa.Column("worked", sa.DateTime, nullable=False, server_default="2026-01-01 00:00:00"))
    op.add_column("bits", sa.Column("dropped", sa.DateTime))
    op.execute(
        "UPDATE figures SET worked = coalesce("
        "(SELECT created FROM revisions WHERE revisions.id = figures.head_id), figures.created)"
    )
