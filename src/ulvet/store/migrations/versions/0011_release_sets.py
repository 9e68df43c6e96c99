"""Release sets: documents with revisions of their own, and their issues"""

import sqlalchemy as sa
from alembic import op

revision = "0011"
down_revision = "0010"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "release_set_revisions",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("set_id", sa.Integer, sa.ForeignKey("release_sets.id"), nullable=False),
        sa.Column("number", sa.Integer, nullable=False),
        sa.Column("parent_id", sa.Integer, sa.ForeignKey("release_set_revisions.id")),
        sa.Column("release", sa.JSON, nullable=False),
        sa.Column("says", sa.String(400), nullable=False),
        sa.Column("created", sa.DateTime, nullable=False),
        sa.UniqueConstraint("set_id", "number"),
    )
    op.create_table(
        "release_sets",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("head_id", sa.Integer, sa.ForeignKey("release_set_revisions.id", name="fk_release_sets_head")),
        sa.Column("changes", sa.Integer, nullable=False, server_default="0"),
        sa.Column("worked", sa.DateTime, nullable=False),
        sa.Column("dropped", sa.DateTime),
    )
    op.create_table(
        "issues",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("set_id", sa.Integer, sa.ForeignKey("release_sets.id"), nullable=False),
        sa.Column("number", sa.Integer, nullable=False),
        sa.Column("date", sa.String(10), nullable=False),
        sa.Column("packs", sa.JSON, nullable=False),
        sa.Column("created", sa.DateTime, nullable=False),
        sa.UniqueConstraint("set_id", "number"),
    )
