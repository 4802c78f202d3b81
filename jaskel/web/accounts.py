"""Signing in and out, invitations, the people of a show, guests, and the log its owners read."""

from __future__ import annotations

from datetime import datetime, timedelta

from flask import Response
from flask import session as cookie
from flask_login import current_user, login_user, logout_user
from sqlalchemy import or_, select
from sqlalchemy.orm import Session

from jaskel.core.problem import Missing, Problem
from jaskel.core.roles import Right, Role
from jaskel.jobs.mail import start_mail
from jaskel.jobs.queue import send
from jaskel.store import accounts, second_factor
from jaskel.store.accounts import Person, digest_of, happened, person_by, person_of
from jaskel.store.models import Account, EditionRow, GuestLink, Happening, Invitation, Member, now
from jaskel.web.context import context
from jaskel.web.gate import ANYBODY, GUESSES, SignedIn, asking, limiter
from jaskel.web.resource import resource
from jaskel.web.schemas.accounts import (
    EnterIn,
    GuestLinkOut,
    GuestLinkPath,
    GuestsIn,
    HappeningOut,
    HappeningsOut,
    InvitationIn,
    InvitationOut,
    InvitationPath,
    JoinIn,
    LinkOut,
    MemberOut,
    MemberPath,
    MeOut,
    NoSecondFactorIn,
    PasswordIn,
    RoleIn,
    SecondFactorIn,
    SecondFactorOut,
    SecretIn,
    SignInIn,
    TeamOut,
    WaitingInvitationOut,
)
from jaskel.web.schemas.common import EditionPath, ShowPath
from jaskel.web.serializers import reply
from jaskel.web.shows import find_show

api = resource("accounts", __name__)

REFUSED = {"not-known": "wrong password", "wrong-code": "wrong figures of the second factor"}
"""What the log calls why somebody was not let in."""

SHOWN = 300
"""Lines of the log that are shown."""


@api.get("/me", responses={200: MeOut})
def me():  # type: ignore[no-untyped-def]
    """Who asks, and whether one has to sign in here."""
    return reply(_me(asking()))


@api.post("/sign-in", responses={200: MeOut})
@limiter.limit(GUESSES)
def sign_in(body: SignInIn):  # type: ignore[no-untyped-def]
    """Sign in with e-mail address and password."""
    _need_team()
    database = context().workshop.home.database
    with database.read() as session:
        known = session.scalar(select(Account.name).where(Account.mail == body.mail.casefold()))
    with database.write() as session:
        try:
            account = accounts.account_with(session, body.mail, body.password)
            second_factor.check(account, body.code)
        except Problem as problem:
            if problem.code != "code-needed":
                happened(session, known or "somebody", f"was refused: {REFUSED[problem.code] if known else 'no such account'}")
            refused = problem
        else:
            happened(session, account.name, "signed in")
            return _signed_in(session, accounts.sign_in(session, account))
    raise refused


@api.post("/sign-out", responses={204: None})
def sign_out():  # type: ignore[no-untyped-def]
    """Sign this browser out."""
    _need_team()
    with context().workshop.home.database.write() as session:
        accounts.sign_out(session, current_user.id)
        happened(session, asking().name, "signed out")
    return _signed_out()


@api.post("/sign-out-everywhere", responses={204: None})
def sign_out_everywhere():  # type: ignore[no-untyped-def]
    """Sign out all browsers of this account, this one too."""
    _need_team()
    with context().workshop.home.database.write() as session:
        accounts.sign_out_everywhere(session, asking().id)
        happened(session, asking().name, "signed out everywhere")
    return _signed_out()


@api.put("/me/password", responses={200: MeOut})
@limiter.limit(GUESSES)
def change_password(body: PasswordIn):  # type: ignore[no-untyped-def]
    """Change one's password; all other browsers are signed out."""
    _need_team()
    with context().workshop.home.database.write() as session:
        account = accounts.account_with(session, asking().mail, body.old)
        accounts.set_password(account, body.new)
        happened(session, account.name, "changed their password")
        job = _tell_of_password(session, account)
        answer = _signed_in_here_alone(session, account)
    if job:
        send(context().workshop.home, job)
    return answer


@api.post("/me/second-factor", responses={200: SecondFactorOut})
def new_second_factor():  # type: ignore[no-untyped-def]
    """A new secret for an authenticator app. It counts once :func:`set_second_factor` has seen figures of it."""
    _need_team()
    with context().workshop.home.database.read() as session:
        secret = second_factor.new_secret()
        address = second_factor.address_of(secret, session.get_one(Account, asking().id))
        return reply(SecondFactorOut(secret=secret, address=address))


@api.put("/me/second-factor", responses={200: MeOut})
@limiter.limit(GUESSES)
def set_second_factor(body: SecondFactorIn):  # type: ignore[no-untyped-def]
    """Sign in with the figures of an app as well from now on; all other browsers are signed out."""
    _need_team()
    with context().workshop.home.database.write() as session:
        account = accounts.account_with(session, asking().mail, body.password)
        second_factor.set_up(account, body.secret, body.code)
        happened(session, account.name, "set up a second factor")
        return _signed_in_here_alone(session, account)


@api.delete("/me/second-factor", responses={200: MeOut})
@limiter.limit(GUESSES)
def take_second_factor_off(body: NoSecondFactorIn):  # type: ignore[no-untyped-def]
    """Sign in with the password alone from now on."""
    _need_team()
    with context().workshop.home.database.write() as session:
        account = accounts.account_with(session, asking().mail, body.password)
        second_factor.check(account, body.code)
        second_factor.take_off(account)
        happened(session, account.name, "took their second factor off")
        return reply(_me(person_of(session, account)))


@api.post("/invitations/look", responses={200: InvitationOut})
@limiter.limit(GUESSES)
def look(body: SecretIn):  # type: ignore[no-untyped-def]
    """What an invitation is for."""
    _need_team()
    with context().workshop.home.database.read() as session:
        found = accounts.invitation_by(session, body.secret)
        of = found.account
        return reply(
            InvitationOut(
                show=found.show.name if found.show else "",
                role=found.role,
                name=of.name if of else "",
                mail=of.mail if of else "",
                ends=_date(found.ends),
            )
        )


@api.post("/invitations/join", responses={200: MeOut})
@limiter.limit(GUESSES)
def join(body: JoinIn):  # type: ignore[no-untyped-def]
    """Take up an invitation: with a new account, or with the one that is signed in."""
    _need_team()
    job = None
    with context().workshop.home.database.write() as session:
        found = accounts.invitation_by(session, body.secret)
        if found.account:
            account = found.account
            accounts.set_password(account, body.password)
            accounts.sign_out_everywhere(session, account.id)
            happened(session, account.name, "chose a password")
            job = _tell_of_password(session, account)
        elif current_user.is_authenticated and not asking().is_guest:
            account = session.get_one(Account, asking().id)
        else:
            account = accounts.new_account(session, body.name, body.mail, body.password or " ")
        if found.show:
            role = session.get(Member, (found.show.id, account.id))
            if role is None or role.role != Role.OWNER:  # an invitation takes nothing away
                accounts.set_role(session, found.show.id, account.id, found.role)
            happened(session, account.name, f"joined as {found.role}", found.show.id)
        session.delete(found)
        answer = _signed_in(session, accounts.sign_in(session, account))
    if job:
        send(context().workshop.home, job)
    return answer


@api.post("/guests/enter", responses={200: MeOut})
@limiter.limit(GUESSES)
def enter(body: EnterIn):  # type: ignore[no-untyped-def]
    """Come in as a guest."""
    _need_team()
    with context().workshop.home.database.write() as session:
        link = accounts.guest_link_by(session, body.secret)
        happened(session, f"{body.name} (guest)", f"came in by the link “{link.label}”", link.edition.episode.show_id)
        return _signed_in(session, accounts.enter(session, link, body.name))


@api.get("/shows/<show_id>/team", responses={200: TeamOut})
def team(path: ShowPath):  # type: ignore[no-untyped-def]
    """Who works on a show, and who was invited."""
    with context().workshop.home.database.read() as session:
        show, owns = find_show(session, path.show_id), Right.OWN in asking().rights_in(path.show_id)
        rows = session.scalars(select(Member).where(Member.show_id == show.id)).all()
        roles = {row.account_id: Role(row.role) for row in rows}
        known = session.scalars(select(Account).where(Account.keeper | Account.id.in_(roles)).order_by(Account.name))
        members = [
            MemberOut(
                id=each.id,
                name=each.name,
                mail=each.mail if owns else "",
                role=Role.OWNER if each.keeper else roles[each.id],
                keeper=each.keeper,
            )
            for each in known
        ]
        waiting = select(Invitation).where(Invitation.show_id == show.id, Invitation.ends > now()).order_by(Invitation.created)
        invitations = [
            WaitingInvitationOut(id=each.id, label=each.label, role=each.role, ends=_date(each.ends))
            for each in session.scalars(waiting)
        ]
        links = [
            GuestLinkOut(
                id=link.id,
                label=link.label,
                edition=link.edition.name,
                episode=link.edition.episode.title,
                ends=_date(link.ends),
            )
            for link in session.scalars(select(GuestLink).where(GuestLink.ends > now()).order_by(GuestLink.created))
            if link.edition.episode.show_id == show.id
        ]
        return reply(TeamOut(members=members, invitations=invitations if owns else [], guests=links if owns else []))


@api.post("/shows/<show_id>/invitations", responses={201: LinkOut})
def invite(path: ShowPath, body: InvitationIn):  # type: ignore[no-untyped-def]
    """Invite somebody; gives the link to send them."""
    _need_team()
    with context().workshop.home.database.write() as session:
        show = find_show(session, path.show_id)
        secret = accounts.invite(session, body.label, show=show, role=body.role)
        happened(session, asking().name, f"invited {body.label or 'somebody'} as {body.role}", show.id)
        return reply(LinkOut(link=_link("join", secret), ends=_date(now() + accounts.INVITED_FOR)), 201)


@api.delete("/invitations/<invitation_id>", responses={204: None})
def take_back(path: InvitationPath):  # type: ignore[no-untyped-def]
    """Take an invitation back."""
    with context().workshop.home.database.write() as session:
        found = session.get(Invitation, path.invitation_id)
        if found is None:
            raise Missing("no-invitation", "This invitation was taken up or taken back meanwhile.")
        happened(session, asking().name, f"took back an invitation as {found.role}", found.show_id)
        session.delete(found)
    return Response(status=204)


@api.put("/shows/<show_id>/members/<account_id>", responses={204: None})
def give_role(path: MemberPath, body: RoleIn):  # type: ignore[no-untyped-def]
    """Give somebody of a show another role."""
    with context().workshop.home.database.write() as session:
        name = _member(session, path)
        accounts.set_role(session, path.show_id, path.account_id, body.role)
        happened(session, asking().name, f"made {name} {body.role}", path.show_id)
    return Response(status=204)


@api.delete("/shows/<show_id>/members/<account_id>", responses={204: None})
def take_out(path: MemberPath):  # type: ignore[no-untyped-def]
    """Take somebody out of a show; what they did stays."""
    with context().workshop.home.database.write() as session:
        name = _member(session, path)
        accounts.set_role(session, path.show_id, path.account_id, None)
        happened(session, asking().name, f"took {name} out of the show", path.show_id)
    return Response(status=204)


@api.post("/editions/<edition_id>/guests", responses={201: LinkOut})
def let_in(path: EditionPath, body: GuestsIn):  # type: ignore[no-untyped-def]
    """Make a link by which guests hear an edition and write notes on it."""
    _need_team()
    with context().workshop.home.database.write() as session:
        context().workshop.home.editions.open(session, path.edition_id)
        edition, ends = session.get_one(EditionRow, path.edition_id), now() + timedelta(days=body.days)
        _, secret = accounts.let_guests_in(session, edition, body.label, ends)
        told = f"made the link “{body.label}” for guests to “{edition.name}” of “{edition.episode.title}”"
        happened(session, asking().name, told, edition.episode.show_id)
        return reply(LinkOut(link=_link("guest", secret), ends=_date(ends)), 201)


@api.delete("/guests/<guest_link_id>", responses={204: None})
def end_link(path: GuestLinkPath):  # type: ignore[no-untyped-def]
    """End a link for guests: who came by it is signed out."""
    with context().workshop.home.database.write() as session:
        link = session.get(GuestLink, path.guest_link_id)
        if link is None:
            raise Missing("no-guest-link", "This link has ended meanwhile.")
        happened(session, asking().name, f"ended the link “{link.label}” for guests", link.edition.episode.show_id)
        session.delete(link)
    return Response(status=204)


@api.get("/shows/<show_id>/log", responses={200: HappeningsOut})
def log(path: ShowPath):  # type: ignore[no-untyped-def]
    """What happened with a show, and when its people signed in; the newest first."""
    with context().workshop.home.database.read() as session:
        show = find_show(session, path.show_id)
        members = select(Member.account_id).where(Member.show_id == show.id)
        people = select(Account.name).where(Account.keeper | Account.id.in_(members))
        about = or_(Happening.show_id == show.id, Happening.show_id.is_(None) & Happening.who.in_(people))
        rows = session.scalars(select(Happening).where(about).order_by(Happening.id.desc()).limit(SHOWN))
        lines = [HappeningOut(who=row.who, told=row.told, at=f"{row.at:%Y-%m-%dT%H:%M:%SZ}") for row in rows]
        return reply(HappeningsOut(happenings=lines))


def _need_team() -> None:
    if not context().workshop.settings.team:
        raise Problem("no-team", "There are no accounts here. Whoever runs Jaskel turns them on by “jaskel serve --team”.")


def _member(session: Session, path: MemberPath) -> str:
    account = session.get(Account, path.account_id)
    if account is None or session.get(Member, (path.show_id, path.account_id)) is None:
        raise Missing("no-member", "This person is not part of the show (any more).")
    return account.name


def _me(person: Person) -> MeOut:
    if person is ANYBODY:
        return MeOut(team=False, signed_in=True, keeper=True)
    return MeOut(
        team=True,
        signed_in=bool(person.id),
        id=person.id,
        name=person.name,
        mail=person.mail,
        keeper=person.keeper,
        second=person.second,
        edition=person.edition,
        episode=person.episode,
    )


def _signed_in(session: Session, secret: str) -> Response:
    """Let this browser have the secret of a sign-in, in place of what it had."""
    person = person_by(session, digest_of(secret))
    assert person is not None
    cookie.clear()
    cookie.permanent = True
    login_user(SignedIn(secret, person))
    return reply(_me(person))


def _signed_in_here_alone(session: Session, account: Account) -> Response:
    """The same for an account, whose other browsers are signed out."""
    accounts.sign_out_everywhere(session, account.id)
    return _signed_in(session, accounts.sign_in(session, account))


def _signed_out() -> Response:
    logout_user()
    cookie.clear()
    return Response(status=204)


def _tell_of_password(session: Session, account: Account) -> str | None:
    """Whoever did not change it themself gets to know that somebody did."""
    lines = [
        f"The password of {account.name} on the Jaskel at {context().workshop.settings.reached} was changed just now.",
        "If that was not you, ask whoever runs it for a link to choose another one: that signs everybody else out.",
    ]
    return start_mail(session, context().workshop.settings, account.mail, "Your password was changed", lines)


def _link(page: str, secret: str) -> str:
    """The secret stands after the #, which browsers send to nobody: so it is in no log."""
    return f"{context().workshop.settings.reached}/{page}#{secret}"


def _date(at: datetime) -> str:
    return f"{at:%Y-%m-%dT%H:%M:%SZ}"
