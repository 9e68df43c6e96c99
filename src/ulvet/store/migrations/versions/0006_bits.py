"""The shelf of bits and stamps"""

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "bits",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("name", sa.String(length=80), nullable=False),
        sa.Column("tags", sa.JSON(), nullable=False),
        sa.Column("mesh_hash", sa.String(length=64), nullable=True),
        sa.Column("picture", sa.String(length=64), nullable=False),
        sa.Column("stamp", sa.JSON(), nullable=True),
        sa.Column("size", sa.JSON(), nullable=True),
        sa.Column("credit", sa.JSON(), nullable=True),
        sa.Column("figure", sa.String(length=120), nullable=False),
        sa.Column("created", sa.DateTime(), nullable=False),
    )
