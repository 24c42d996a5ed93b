"""Forms that other tests type into than `test_typed`, which asks whether each is tried somewhere."""

ELSEWHERE = {
    "ready-route": "test_projects",
    "reset-factor": "test_keys",
    "guest-receipt": "test_recipient",
    "guest-letter": "test_letters",
    "guest-submittal": "test_submittals_outside",
    "letter": "test_letters",
    "letter-look": "test_letters_checked",
    "guest-talk": "test_links",
    "absence": "test_reviews",
    "held-sender": "test_mail",
    "ask-responses": "test_outside",
    "send-again": "test_mail",
    "submittal-spec": "test_specification",
}
"""What another test has at hand is lost and found there."""
