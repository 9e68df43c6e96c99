"""Painted copies as documents with revisions; mixes that were made"""

import sqlalchemy as sa
from alembic import op

revision = "0013"
down_revision = "0012"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "painted_copy_revisions",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("copy_id", sa.Integer, sa.ForeignKey("painted_copies.id"), nullable=False),
        sa.Column("number", sa.Integer, nullable=False),
        sa.Column("parent_id", sa.Integer, sa.ForeignKey("painted_copy_revisions.id")),
        sa.Column("painted", sa.JSON, nullable=False),
        sa.Column("says", sa.String(400), nullable=False),
        sa.Column("created", sa.DateTime, nullable=False),
        sa.UniqueConstraint("copy_id", "number"),
    )
    op.create_table(
        "painted_copies",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("head_id", sa.Integer, sa.ForeignKey("painted_copy_revisions.id", name="fk_painted_copies_head")),
        sa.Column("changes", sa.Integer, nullable=False, server_default="0"),
        sa.Column("worked", sa.DateTime, nullable=False),
        sa.Column("dropped", sa.DateTime),
    )
    op.create_table(
        "mixes",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("mix", sa.JSON, nullable=False),
        sa.Column("struck", sa.DateTime),
        sa.Column("created", sa.DateTime, nullable=False),
    )
