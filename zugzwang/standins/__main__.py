"""`python -m zugzwang.standins`: the simulated services over HTTP, and the mail server, until stopped."""

import os

import waitress

from zugzwang.standins.app import application, standins
from zugzwang.standins.mail import serve_mail

PORT, MAIL_PORT = int(os.environ.get("STANDINS_PORT", "8010")), int(os.environ.get("STANDINS_MAIL_PORT", "8025"))


def main() -> None:
    held = standins()
    serve_mail(held.mail_folder, MAIL_PORT, lambda: held.spoil("mail_refuse"))
    waitress.serve(application, listen=f"127.0.0.1:{PORT}", threads=4)


if __name__ == "__main__":
    main()
