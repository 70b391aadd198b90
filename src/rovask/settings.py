"""Settings, from the environment: every name begins with ROVASK_."""

from __future__ import annotations

from datetime import UTC, datetime
from ipaddress import ip_address
from pathlib import Path
from typing import Literal

from pydantic import AwareDatetime
from pydantic_settings import BaseSettings, SettingsConfigDict


class Settings(BaseSettings):
    """What a process needs to know about where it runs.

    database_url: a PostgreSQL that is yours; without one Rovask starts a private one.
    host, port: where the pages are served; loopback unless asked otherwise.
    state: where the private database and caches lie. now: a clock that stands still, for tests and pictures.
    secure_cookies: set when a proxy serves the pages over https; beyond loopback it is so anyway.
    search_seconds: how long the worker looks for a better plan after a change; solver_workers: threads it may use.
    surer_seconds: how long it looks after that, for a plan worth as much by which the launch is surer.
    choice_seconds: how long each way on the desk of choices is searched; date_seconds: how long it is looked for what makes the date.
    settling_seconds: how long it is searched, on each side, what a change does.
    helpers: processes that work out beside the pages what takes many plans; with none a page waits for it.
    memory_mb: what a process may hold of refits and plans so that it need not read them again.
    photos_url: where photos and papers are kept: "" for a folder of the state, or s3://bucket/prefix of an object store
    (photos_endpoint, photos_region; its keys are read from AWS_ACCESS_KEY_ID and AWS_SECRET_ACCESS_KEY).
    trusted_proxies: addresses, parted by commas, that may say where a request came from; hosts: names the pages are served
    under, parted by commas; "" for any. log: "words" for people or "json" for machines. metrics_token: what /metrics asks for; without one it isn't there.
    statement_seconds, lock_seconds: after which the database gives up a statement, or waiting for a lock.
    idle_days: after so many days without a page a session ends. refit_mb, account_mb, link_mb: how much of photos and papers a refit,
    all refits of one skipper, and one link may hold or send.
    copies: the folder of backups; copy_hours: how often one is made by the worker, 0 for never; copies_kept: how many are kept.
    weather_url: the weather service; without one there is only what is typed or read from a file. supplier_url,
    carrier_url, rates_url: services that take orders, know where parcels are, and know rates of exchange.
    """

    model_config = SettingsConfigDict(env_prefix="ROVASK_")

    database_url: str = ""
    host: str = "127.0.0.1"
    port: int = 8800
    state: Path = Path(".rovask")
    now: AwareDatetime | None = None
    secure_cookies: bool = False
    search_seconds: float = 60
    surer_seconds: float = 20
    choice_seconds: float = 0.4
    date_seconds: float = 20
    solver_workers: int = 2
    settling_seconds: float = 2.4
    helpers: int = 2
    memory_mb: int = 180
    photos_url: str = ""
    photos_endpoint: str = ""
    photos_region: str = "us-east-1"
    trusted_proxies: str = "127.0.0.1, ::1"
    hosts: str = ""
    log: Literal["words", "json"] = "words"
    metrics_token: str = ""
    statement_seconds: float = 60
    lock_seconds: float = 20
    idle_days: int = 14
    refit_mb: int = 2000
    account_mb: int = 10000
    link_mb: int = 150
    copies: Path | None = None
    copy_hours: float = 24
    copies_kept: int = 7
    weather_url: str = ""
    supplier_url: str = ""
    carrier_url: str = ""
    rates_url: str = ""

    @property
    def beyond_loopback(self) -> bool:
        """Whether others on the network can reach the pages."""
        try:
            return self.host != "localhost" and not ip_address(self.host).is_loopback
        except ValueError:
            return True

    @property
    def copies_folder(self) -> Path:
        """Where backups lie."""
        return self.copies or self.state / "copies"

    def clock(self) -> datetime:
        """The present moment: the only place in Rovask that asks for it."""
        return (self.now or datetime.now(UTC)).astimezone(UTC)
