"""What a password has to be (OWASP ASVS 5.0, 6.2, from memory: length over rules of composition)."""

from __future__ import annotations

from nod.core.acts.refusals import RuleBroken

SHORTEST, LONGEST = 12, 128


def check_password(password: str, email: str) -> None:
    """Raises RuleBroken for one that is too short, too long, all alike, or made of the person's own address."""
    if len(password) < SHORTEST:
        raise RuleBroken("password_short", f"A password has at least {SHORTEST} characters. Several words do well.")
    if len(password) > LONGEST:
        raise RuleBroken("password_long", f"A password has at most {LONGEST} characters.")
    plain, own = password.casefold(), email.partition("@")[0].casefold()
    # A short name is found by chance in many a good sentence.
    if len(set(plain)) < 5 or (len(own) >= 4 and own in plain):
        raise RuleBroken("password_weak", "This password is easily guessed. Take several words that do not name you.")
