"""All features, loaded so that what each registers is there. Whoever does the work of others loads this."""

from __future__ import annotations

from nod.services.access import replays as access_replays
from nod.services.compare import arrival_comparisons
from nod.services.intake import archives, file_contents, scans, split_sets
from nod.services.letters import by_link as letters_by_link
from nod.services.letters import by_mail as letters_by_mail
from nod.services.letters import kind as letters
from nod.services.letters import replays as letter_replays
from nod.services.letters import work_kinds as letter_work
from nod.services.mail import mails
from nod.services.mail_in import bounces, reading
from nod.services.marks import kind as marks
from nod.services.marks import live_marks
from nod.services.marks import replays as mark_replays
from nod.services.notices import followers
from nod.services.people import replays as people_replays
from nod.services.register import by_link, folder_packs, list_packs, search, shared_lists, standing
from nod.services.register import kind as documents
from nod.services.register import replays as document_replays
from nod.services.reviews import kind as reviews
from nod.services.reviews import open_steps, succession
from nod.services.reviews import replays as review_replays
from nod.services.sessions import guests as session_guests
from nod.services.sessions import kind as sessions
from nod.services.sessions import opening as session_times
from nod.services.sessions import records as session_records
from nod.services.sessions import replays as session_replays
from nod.services.submittals import by_link as submittals_by_link
from nod.services.submittals import by_mail as submittals_by_mail
from nod.services.submittals import filing as submittal_filing
from nod.services.submittals import kind as submittals
from nod.services.submittals import on_route as submittals_on_route
from nod.services.submittals import replays as submittal_replays
from nod.services.submittals import succession as submittal_succession
from nod.services.submittals import work_kinds as submittal_work
from nod.services.transmittals import (
    acknowledgements,
    by_itself,
    by_mail,
    guests,
    packages,
    proposals,
    received_bags,
    recipients,
    telling_holders,
)
from nod.services.transmittals import kind as transmittals
from nod.services.transmittals import replays as transmittal_replays

FEATURES = (
    access_replays, people_replays, acknowledgements, archives, arrival_comparisons, bounces, by_link, by_mail,
    documents, file_contents, folder_packs, followers, guests, list_packs, live_marks, mails, marks, open_steps,
    packages, reading, recipients, reviews, scans, search, shared_lists, split_sets, standing, succession, transmittals,
    mark_replays, document_replays, review_replays, transmittal_replays, proposals, received_bags, telling_holders,
    by_itself, session_guests, sessions, session_times, session_records, session_replays,
    submittals, submittals_by_mail, submittals_by_link, submittal_filing, submittals_on_route,
    submittal_replays, submittal_work, submittal_succession,
    letters, letters_by_link, letters_by_mail, letter_replays, letter_work,
)  # fmt: skip


def load() -> None:
    """Loading this module has done it; whoever calls this says that it is wanted."""
