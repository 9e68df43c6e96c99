"""A first look at a source, until it is measured"""

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("sources", sa.Column("look", sa.String(length=64), nullable=True))
