"""A mail says which secret address it carries, and what is to be done when it is sent."""

import json

import sqlalchemy as sa
from alembic import op

revision = "0015"
down_revision = "0014"


def upgrade() -> None:
    rows = op.get_bind().execute(sa.text("SELECT seq, payload FROM outbox WHERE kind = 'mail' AND done_at IS NULL"))
    for seq, kept in rows.all():
        payload = json.loads(kept)
        recipient, key_link = payload.pop("recipient_id", ""), payload.pop("key_link_id", "")
        payload |= {"link": None, "then": None}
        if recipient:
            payload["link"] = {"path": "/t/", "of": f"recipient:{recipient}"}
            payload["then"] = {"kind": "note_mailed", "payload": {"recipient_id": recipient}}
        elif key_link:
            payload["link"] = {"path": f"/k/{key_link}.", "of": f"key link:{key_link}"}
        update = sa.text("UPDATE outbox SET payload = :payload WHERE seq = :seq")
        op.get_bind().execute(update, {"seq": seq, "payload": json.dumps(payload)})
