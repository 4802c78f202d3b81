"""``jaskel account``: who may sign in, from the command line. Here the first account is made, and new passwords are let in."""

from __future__ import annotations

import argparse
from pathlib import Path

from jaskel.core.problem import Problem
from jaskel.settings import Settings


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """What the command takes."""
    parser.add_argument("--data", type=Path, help="folder of the database (default: JASKEL_DATA or ./data)")
    what = parser.add_subparsers(dest="what", required=True)
    add = what.add_parser("add", help="make an account; the first one keeps this Jaskel and owns every show")
    add.add_argument("name")
    add.add_argument("mail", help="the e-mail address to sign in with")
    add.add_argument("--keeper", action="store_true", help="owns every show, and looks after weights")
    link = what.add_parser(
        "link", help="a new link to choose a password by; signs the account out everywhere, and takes its second factor off"
    )
    link.add_argument("mail")
    remove = what.add_parser("remove", help="delete an account; what it did stays")
    remove.add_argument("mail")
    what.add_parser("list", help="all accounts")


def run(options: argparse.Namespace) -> int:
    """Carry it out, whether or not Jaskel is running.

    Raises
    ------
    Problem
        ``no-account``, ``last-keeper``, or what is wrong with a name or an address.
    """
    from sqlalchemy import func, select
    from sqlalchemy.orm import Session

    from jaskel.store import second_factor
    from jaskel.store.accounts import happened, invite, new_account, sign_out_everywhere
    from jaskel.store.home import Home
    from jaskel.store.models import Account

    settings = Settings.from_environment(options.data and options.data.resolve())
    home = Home(settings)
    home.database.migrate()

    def known(session: Session) -> Account:
        account = session.scalar(select(Account).where(Account.mail == options.mail.strip().casefold()))
        if account is None:
            raise Problem("no-account", f"Nobody has an account with {options.mail}. See jaskel account list.")
        return account

    def tell_link(session: Session, account: Account) -> None:
        secret = invite(session, account.name, account=account)
        print(f"{account.name} chooses a password within a week at\n{settings.reached}/join#{secret}")

    try:
        with home.database.write() as session:
            if options.what == "list":
                for each in session.scalars(select(Account).order_by(Account.name)):
                    about = [
                        *(["keeper"] if each.keeper else []),
                        *(["second factor"] if each.second else []),
                        *([] if each.password else ["no password yet"]),
                    ]
                    print(f"{each.name} <{each.mail}>", f"({', '.join(about)})" if about else "")
            elif options.what == "add":
                first = not session.scalar(select(func.count()).select_from(Account))
                account = new_account(session, options.name, options.mail, keeper=first or options.keeper)
                happened(session, "The command line", f"made the account of {account.name}")
                tell_link(session, account)
            elif options.what == "link":
                account = known(session)
                account.password = ""
                second_factor.take_off(account)
                sign_out_everywhere(session, account.id)
                tell_link(session, account)
            else:
                account = known(session)
                keepers = session.scalar(select(func.count()).where(Account.keeper)) or 0
                if account.keeper and keepers < 2:
                    raise Problem("last-keeper", "One account has to keep this Jaskel. Add another with --keeper first.")
                happened(session, "The command line", f"deleted the account of {account.name}")
                session.delete(account)
    finally:
        home.close()
    return 0
