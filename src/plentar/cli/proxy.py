"""plentar proxy: the configuration of the proxy in front."""

from __future__ import annotations

import click

from plentar.cli.command import Failed, command, refusing
from plentar.operate.proxy import REFUSED, configuration, refused_pages
from plentar.words import phrase


@command("proxy --name plentar.example > /etc/nginx/nginx.conf")
@click.option("--name", default="plentar.example", show_default=True, help="The name that it is called by.")
@click.option(
    "--port", type=click.IntRange(1, 65535), default=8000, show_default=True, help="Where Plentar listens."
)
@click.option("--certificate", default="/etc/plentar/certificate.pem", show_default=True)
@click.option("--key", default="/etc/plentar/key.pem", show_default=True)
@click.option("--pages", is_flag=True, help="Write the pages of its refusals anew instead.")
@click.option("--check", is_flag=True, help="With --pages: say whether they are as they would be written.")
def proxy(name: str, port: int, certificate: str, key: str, pages: bool, check: bool) -> None:
    """nginx's configuration for this installation, on standard output."""
    if not pages:
        with refusing("proxy"):
            click.echo(configuration(name, port, certificate, key), nl=False)
        return
    REFUSED.mkdir(exist_ok=True)
    for file, page in refused_pages():
        if check:
            if not file.is_file() or file.read_text(encoding="utf-8") != page:
                raise Failed(phrase("cli.proxy.stale", file=file.name))
        else:
            file.write_text(page, encoding="utf-8")
