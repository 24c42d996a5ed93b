"""All tables, so that one import knows them."""

from nod.store.tables.base import Base
from nod.store.tables.intake import ArrivalRow, BatchRow, BlockReaderRow, ComparisonRow, UploadRow
from nod.store.tables.journal import (
    AuditEntryRow,
    AuditSubjectRow,
    LiveEventFolderRow,
    LiveEventRow,
    OutboxRow,
    TrailHeadRow,
)
from nod.store.tables.marks import MarkRow, ReplyRow
from nod.store.tables.people import (
    CompanyRow,
    FailedSignInRow,
    FolderRow,
    GrantRow,
    HolidayRow,
    KeyLinkRow,
    MembershipRow,
    PersonRow,
    ProjectRow,
    SeriesRow,
    SignInRow,
    StarterRow,
    SummaryLineRow,
)
from nod.store.tables.register import BlobRow, DocumentRow, PageRow, PageWordsRow, RevisionRow
from nod.store.tables.reviews import AnswerRow, ReviewDocumentRow, ReviewRow, ReviewStepRow, RouteRow, StepPersonRow
from nod.store.tables.transmittals import RecipientRow, TransmittalDocumentRow, TransmittalRow

__all__ = [
    "AnswerRow",
    "ArrivalRow",
    "AuditEntryRow",
    "AuditSubjectRow",
    "Base",
    "BatchRow",
    "BlobRow",
    "BlockReaderRow",
    "CompanyRow",
    "ComparisonRow",
    "DocumentRow",
    "FailedSignInRow",
    "FolderRow",
    "GrantRow",
    "HolidayRow",
    "KeyLinkRow",
    "LiveEventFolderRow",
    "LiveEventRow",
    "MarkRow",
    "MembershipRow",
    "OutboxRow",
    "PageRow",
    "PageWordsRow",
    "PersonRow",
    "ProjectRow",
    "RecipientRow",
    "ReplyRow",
    "ReviewDocumentRow",
    "ReviewRow",
    "ReviewStepRow",
    "RevisionRow",
    "RouteRow",
    "SeriesRow",
    "SignInRow",
    "StarterRow",
    "StepPersonRow",
    "SummaryLineRow",
    "TrailHeadRow",
    "TransmittalDocumentRow",
    "TransmittalRow",
    "UploadRow",
]  # fmt: skip
