"""`python -m zugzwang.standins`: the simulated services over HTTP, and the mail server, until stopped."""

import os
import sys

import waitress

from zugzwang.standins.app import application, standins
from zugzwang.standins.mail import serve_mail

PORT, MAIL_PORT = int(os.environ.get("STANDINS_PORT", "8010")), int(os.environ.get("STANDINS_MAIL_PORT", "8025"))


def main() -> None:
    current = standins()
    try:
        serve_mail(current.mail_folder, MAIL_PORT, lambda: current.spoil("mail_refuse"))
    except OSError as error:
        sys.exit(
            f"The simulated mail server cannot listen at {MAIL_PORT} ({error}). Set another port: STANDINS_MAIL_PORT=8026."
        )
    try:
        waitress.serve(application, listen=f"127.0.0.1:{PORT}", threads=4)
    except OSError as error:
        sys.exit(f"The simulated services cannot listen at port {PORT} ({error}). Set another: STANDINS_PORT=8011.")


if __name__ == "__main__":
    main()
