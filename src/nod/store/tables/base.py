"""The declarative base and the column types all tables share."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Any

from sqlalchemy import JSON, String
from sqlalchemy.engine import Dialect
from sqlalchemy.orm import DeclarativeBase, mapped_column
from sqlalchemy.types import TypeDecorator

from nod.core.trail.entries import instant_text
from nod.store.ids import new_id


class Instant(TypeDecorator[datetime]):
    """An instant as RFC 3339 text in UTC with microseconds, so that it sorts as text."""

    impl = String(27)
    cache_ok = True

    def process_bind_param(self, value: datetime | None, dialect: Dialect) -> str | None:
        return None if value is None else instant_text(value)

    def process_result_value(self, value: str | None, dialect: Dialect) -> datetime | None:
        return None if value is None else datetime.fromisoformat(value)


class Base(DeclarativeBase):
    """All tables."""

    type_annotation_map = {  # noqa: RUF012 - SQLAlchemy reads it off the class
        datetime: Instant,
        dict[str, Any]: JSON,
        list[Any]: JSON,
    }


Id = Annotated[str, mapped_column(String(16), primary_key=True, default=new_id)]
Version = Annotated[int, mapped_column(default=1)]
