"""One's own account over HTTP: password, sign-ins, second factor, notices; mailed links; seeing as another."""

from __future__ import annotations

from flask import Response, make_response, request

from nod.services.acts.answers import FromOutside
from nod.services.people import account, key_links, second_factor, see_as
from nod.services.people.account import Account, ChangePassword, SetNotices
from nod.services.people.key_links import AskForPassword, KeyLinkShown, UseKeyLink
from nod.services.people.second_factor import ConfirmSecondFactor, RecoveryCodes, SecondFactorBegun
from nod.services.people.see_as import SeeAs
from nod.web.answers import answers, feature
from nod.web.guard import COOKIE, context, permission, set_cookie, signed_in, tells_a_secret

api = feature("account")


class LinkPath(FromOutside):
    token: str


class SignInPath(FromOutside):
    sign_in_id: str


def _token() -> str:
    return request.cookies.get(COOKIE, "")


@api.get("/api/account", responses=answers(Account))
@permission("signed in")
def read_account() -> Account:
    """One's own account."""
    return account.read_account(context(), signed_in(), _token())


@api.post("/api/account/password", responses=answers())
@permission("signed in")
def change_password(body: ChangePassword) -> None:
    """Change one's own password; ends all other sign-ins."""
    account.change_password(context(), signed_in(), _token(), body)


@api.delete("/api/account/sign-ins/<sign_in_id>", responses=answers())
@permission("signed in")
def end_sign_in(path: SignInPath) -> None:
    """End one of one's own sign-ins."""
    account.end_sign_in(context(), signed_in(), path.sign_in_id)


@api.put("/api/account/notices", responses=answers())
@permission("signed in")
def set_notices(body: SetNotices) -> None:
    """How one is told of what."""
    account.set_notices(context(), signed_in(), body)


@api.post("/api/account/second-factor", responses=answers(SecondFactorBegun))
@permission("signed in")
@tells_a_secret
def begin_second_factor() -> SecondFactorBegun:
    """A secret for an authenticator app, to be confirmed with a code."""
    return second_factor.begin(context(), signed_in().own)


@api.post("/api/account/second-factor/confirm", responses=answers(RecoveryCodes))
@permission("signed in")
@tells_a_secret
def confirm_second_factor(body: ConfirmSecondFactor) -> RecoveryCodes:
    """From now on a code is asked for; ten recovery codes for when the app is lost."""
    return second_factor.confirm(context(), signed_in().own, body)


@api.post("/api/account/second-factor/recovery-codes", responses=answers(RecoveryCodes))
@permission("signed in")
@tells_a_secret
def draw_recovery_codes(body: ConfirmSecondFactor) -> RecoveryCodes:
    """Ten new recovery codes in place of those from before."""
    return second_factor.draw_codes(context(), signed_in().own, body)


@api.post("/api/account/second-factor/off", responses=answers())
@permission("signed in")
def switch_off_second_factor(body: ConfirmSecondFactor) -> None:
    """No code is asked for any more."""
    second_factor.switch_off(context(), signed_in().own, body)


@api.post("/api/forgotten-password", responses=answers())
@permission("public")
def ask_for_password(body: AskForPassword) -> None:
    """Mail a link, if there is such a person. The answer is the same for everybody."""
    key_links.ask_for_password(context(), body, request.remote_addr or "")


@api.get("/api/key-links/<token>", responses=answers(KeyLinkShown))
@permission("link")
def read_key_link(path: LinkPath) -> KeyLinkShown:
    """Whose link this is and what for."""
    return key_links.read_link(context(), path.token)


@api.post("/api/key-links/<token>", responses=answers())
@permission("link")
def use_key_link(path: LinkPath, body: UseKeyLink) -> Response:
    """Set a password, once; signs in."""
    token = key_links.use_link(context(), path.token, body, request.remote_addr or "")
    response = make_response("", 204)
    if token:
        set_cookie(response, token)
    return response


@api.post("/api/see-as", responses=answers())
@permission("signed in")
def begin_seeing_as(body: SeeAs) -> None:
    """Look through another's eyes. For leads."""
    see_as.begin(context(), signed_in(), _token(), body)


@api.post("/api/see-as/end", responses=answers())
@permission("signed in")
def end_seeing_as() -> None:
    """Back to one's own eyes."""
    see_as.end(context(), signed_in(), _token())
