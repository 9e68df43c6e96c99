"""Figures can be deleted and count their changes; the studio has settings"""

import sqlalchemy as sa
from alembic import op

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("figures", sa.Column("changes", sa.Integer, nullable=False, server_default="0"))
    op.add_column("figures", sa.Column("deleted", sa.DateTime))
    op.create_table(
        "settings",
        sa.Column("name", sa.String(40), primary_key=True),
        sa.Column("value", sa.JSON, nullable=False),
    )
