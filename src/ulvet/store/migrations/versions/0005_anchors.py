"""Anchors: the points of a step carry a normal and a source"""

import json
from typing import Any

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None

_HELD = (("revisions", "id", "recipe"), ("builds", "key", "record"))


def upgrade() -> None:
    connection = op.get_bind()
    for table, key, column in _HELD:
        rows = connection.execute(sa.text(f"SELECT {key}, {column} FROM {table} WHERE {column} LIKE '%\"thicken\"%'"))
        for row, held in rows.all():
            said = json.dumps(_anchored(json.loads(held)))
            connection.execute(
                sa.text(f"UPDATE {table} SET {column} = :said WHERE {key} = :row"), {"said": said, "row": row}
            )


def _anchored(value: Any) -> Any:
    if isinstance(value, list):
        return [_anchored(inner) for inner in value]
    if not isinstance(value, dict):
        return value
    if value.get("kind") == "thicken" and "places" in value:
        return {**value, "places": [_anchor(place) for place in value["places"]]}
    return {name: _anchored(inner) for name, inner in value.items()}


def _anchor(place: Any) -> Any:
    return {"point": place, "normal": None, "source": ""} if isinstance(place, list) else place
