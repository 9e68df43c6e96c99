"""Versions: revisions frozen under a number"""

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "versions",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("figure_id", sa.Integer(), sa.ForeignKey("figures.id"), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("revision_id", sa.Integer(), sa.ForeignKey("revisions.id"), nullable=False),
        sa.Column("build_key", sa.String(length=64), sa.ForeignKey("builds.key"), nullable=False),
        sa.Column("says", sa.String(length=400), nullable=False),
        sa.Column("created", sa.DateTime(), nullable=False),
        sa.UniqueConstraint("figure_id", "number"),
    )
