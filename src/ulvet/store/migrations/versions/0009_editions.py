"""A revision holds a list of editions; versions and releases are of editions; the bench is a document of its own"""

import json

import sqlalchemy as sa
from alembic import op

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None

_FIRST, _NAME = "e1", "First edition"
"""Id and name of the one edition that a figure had before."""


def upgrade() -> None:
    connection = op.get_bind()
    op.add_column("revisions", sa.Column("editions", sa.JSON, nullable=False, server_default="[]"))
    rows = connection.execute(sa.text("SELECT id, recipe, edition FROM revisions")).all()
    for number, recipe, edition in rows:
        held, made = json.loads(recipe), _with_setting(json.loads(edition))
        shown = held.pop("variant", "") if isinstance(held, dict) else ""
        named = {"id": _FIRST, "name": _NAME, "sized_by": "", "made": {**made, "variant": shown}}
        connection.execute(
            sa.text("UPDATE revisions SET recipe = :recipe, editions = :editions WHERE id = :id"),
            {"id": number, "recipe": json.dumps(held), "editions": json.dumps([named])},
        )
    op.drop_column("revisions", "edition")

    frozen = connection.execute(sa.text("SELECT id, build_key FROM versions")).all()
    with op.batch_alter_table("versions") as versions:
        versions.drop_column("build_key")
    editions = op.create_table(
        "version_editions",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("version_id", sa.Integer, sa.ForeignKey("versions.id"), nullable=False),
        sa.Column("edition", sa.String(20), nullable=False),
        sa.Column("name", sa.String(60), nullable=False),
        sa.Column("build_key", sa.String(64), sa.ForeignKey("builds.key")),
        sa.UniqueConstraint("version_id", "edition"),
    )
    of_first = {"edition": _FIRST, "name": _NAME}
    op.bulk_insert(editions, [{"version_id": version, "build_key": key, **of_first} for version, key in frozen])

    op.add_column("releases", sa.Column("edition", sa.String(20), nullable=False, server_default=_FIRST))
    op.add_column("releases", sa.Column("edition_name", sa.String(60), nullable=False, server_default=_NAME))

    op.create_table(
        "bench_revisions",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("bench_id", sa.Integer, sa.ForeignKey("benches.id"), nullable=False),
        sa.Column("number", sa.Integer, nullable=False),
        sa.Column("parent_id", sa.Integer, sa.ForeignKey("bench_revisions.id")),
        sa.Column("bench", sa.JSON, nullable=False),
        sa.Column("says", sa.String(400), nullable=False),
        sa.Column("created", sa.DateTime, nullable=False),
        sa.UniqueConstraint("bench_id", "number"),
    )
    op.create_table(
        "benches",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("head_id", sa.Integer, sa.ForeignKey("bench_revisions.id", name="fk_benches_head", use_alter=True)),
        sa.Column("changes", sa.Integer, nullable=False, server_default="0"),
        sa.Column("worked", sa.DateTime, nullable=False),
    )


def _with_setting(made: dict[str, object]) -> dict[str, object]:
    """A printer with a material was what is their fine setting now."""
    printer, material = made.pop("printer", "lantern-6"), made.pop("material", "tough-grey")
    return {**made, "setting": f"{printer}-{material}"}
