"""Raw bodies, piece by piece."""

from __future__ import annotations

from collections.abc import Iterator

from flask import request
from werkzeug.exceptions import ClientDisconnected

from nod.core.refusals import RuleBroken

_CHUNK_BYTES = 1024 * 1024


def body_pieces() -> Iterator[bytes]:
    """The body piece by piece. Raises RuleBroken if the line broke before all of it came."""
    left = request.content_length
    if left is None:
        raise RuleBroken("length_missing", "The upload does not say how long it is.")
    while left:
        try:
            chunk = request.stream.read(min(left, _CHUNK_BYTES))
        except ClientDisconnected as error:
            raise RuleBroken("upload_broken_off", "The upload broke off. Send the file again.") from error
        left -= len(chunk)
        yield chunk
