"""A second factor for signing in: six figures of an authenticator app, by the time (TOTP, RFC 6238)."""

from __future__ import annotations

import re
from datetime import UTC, datetime

import pyotp
from pyotp.utils import strings_equal

from jaskel.core.problem import Problem
from jaskel.store.models import Account

DRIFT = 1
"""Steps of half a minute that the clock of a telephone may be off, to either side."""


def new_secret() -> str:
    """A secret of 160 random bits (what RFC 4226 recommends), in base 32."""
    return pyotp.random_base32()


def address_of(secret: str, account: Account) -> str:
    """What an authenticator app reads from a QR code, with the secret in it."""
    return pyotp.TOTP(secret).provisioning_uri(name=account.mail, issuer_name="Jaskel")


def set_up(account: Account, secret: str, code: str) -> None:
    """Ask for the figures of this secret from now on; ``code`` shows that an app has it.

    Raises
    ------
    Problem
        ``wrong-code``; ``has-second-factor``, which is taken off with its own figures first.
    """
    if account.second:
        raise Problem("has-second-factor", "You have a second factor already. Take it off before you set up another one.")
    if not re.fullmatch("[A-Z2-7]{32}", secret):
        raise Problem("wrong-code", "This is no secret that Jaskel made. Close this and begin again.")
    account.second_step = _step(secret, code, after=0)
    account.second = secret


def check(account: Account, code: str) -> None:
    """Let those figures through that the app shows now, once.

    Raises
    ------
    Problem
        ``code-needed`` where none were given, ``wrong-code``.
    """
    if not account.second:
        return
    if not code:
        raise Problem("code-needed", "Enter the six figures your authenticator app shows for Jaskel.")
    account.second_step = _step(account.second, code, after=account.second_step)


def take_off(account: Account) -> None:
    """Sign in with the password alone from now on."""
    account.second, account.second_step = "", 0


def _step(secret: str, code: str, *, after: int) -> int:
    """The step of time whose figures ``code`` are. Those up to ``after`` were used already: somebody may have seen them."""
    totp = pyotp.TOTP(secret)
    current = totp.timecode(datetime.now(UTC))
    given = "".join(code.split())
    for step in range(max(after + 1, current - DRIFT), current + DRIFT + 1):
        if strings_equal(totp.generate_otp(step), given):
            return step
    raise Problem("wrong-code", "Those are not the figures of this half minute. Wait for the next ones, and enter them.")
