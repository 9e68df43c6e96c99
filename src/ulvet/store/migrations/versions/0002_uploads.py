"""Remember which upload a source came by"""

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("sources", sa.Column("upload", sa.String(length=40), nullable=True))
    op.create_index("ux_sources_upload", "sources", ["upload"], unique=True)
