"""Proofs: documents with revisions of their own"""

import sqlalchemy as sa
from alembic import op

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "proof_revisions",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("proof_id", sa.Integer, sa.ForeignKey("proofs.id"), nullable=False),
        sa.Column("number", sa.Integer, nullable=False),
        sa.Column("parent_id", sa.Integer, sa.ForeignKey("proof_revisions.id")),
        sa.Column("proof", sa.JSON, nullable=False),
        sa.Column("says", sa.String(400), nullable=False),
        sa.Column("created", sa.DateTime, nullable=False),
        sa.UniqueConstraint("proof_id", "number"),
    )
    op.create_table(
        "proofs",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("head_id", sa.Integer, sa.ForeignKey("proof_revisions.id", name="fk_proofs_head")),
        sa.Column("changes", sa.Integer, nullable=False, server_default="0"),
        sa.Column("worked", sa.DateTime, nullable=False),
        sa.Column("dropped", sa.DateTime),
    )
