"""Who decides, and why: kept beside what is decided."""

import click

who_option = click.option("--who", envvar="USER", default="", help="Who says so.  [default: $USER]")
why_option = click.option("--why", default="", help="The reason, kept beside it.")
