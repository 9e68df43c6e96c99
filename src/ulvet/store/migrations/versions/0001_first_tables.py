"""First tables"""

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "builds",
        sa.Column("key", sa.String(length=64), nullable=False),
        sa.Column("record", sa.JSON(), nullable=False),
        sa.Column("finished", sa.DateTime(), nullable=False),
        sa.PrimaryKeyConstraint("key"),
    )
    op.create_table(
        "figures",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(length=120), nullable=False),
        sa.Column("created", sa.DateTime(), nullable=False),
        sa.Column("head_id", sa.Integer(), nullable=True),
        sa.ForeignKeyConstraint(["head_id"], ["revisions.id"], name="fk_figures_head", use_alter=True),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_table(
        "revisions",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("figure_id", sa.Integer(), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("parent_id", sa.Integer(), nullable=True),
        sa.Column("recipe", sa.JSON(), nullable=False),
        sa.Column("edition", sa.JSON(), nullable=False),
        sa.Column("says", sa.String(length=400), nullable=False),
        sa.Column("created", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(
            ["figure_id"],
            ["figures.id"],
        ),
        sa.ForeignKeyConstraint(
            ["parent_id"],
            ["revisions.id"],
        ),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("figure_id", "number"),
    )
    op.create_table(
        "sources",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("figure_id", sa.Integer(), nullable=False),
        sa.Column("file_name", sa.String(length=255), nullable=False),
        sa.Column("file_hash", sa.String(length=64), nullable=False),
        sa.Column("file_bytes", sa.Integer(), nullable=False),
        sa.Column("mesh_hash", sa.String(length=64), nullable=False),
        sa.Column("brought", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(
            ["figure_id"],
            ["figures.id"],
        ),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_table(
        "releases",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("figure_id", sa.Integer(), nullable=False),
        sa.Column("revision_id", sa.Integer(), nullable=False),
        sa.Column("file_name", sa.String(length=255), nullable=False),
        sa.Column("zip_hash", sa.String(length=64), nullable=False),
        sa.Column("zip_bytes", sa.Integer(), nullable=False),
        sa.Column("files", sa.JSON(), nullable=False),
        sa.Column("created", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(
            ["figure_id"],
            ["figures.id"],
        ),
        sa.ForeignKeyConstraint(
            ["revision_id"],
            ["revisions.id"],
        ),
        sa.PrimaryKeyConstraint("id"),
    )


def downgrade() -> None:
    op.drop_table("releases")
    op.drop_table("sources")
    op.drop_table("revisions")
    op.drop_table("figures")
    op.drop_table("builds")
