"""Settings of one Barrio, from the environment (`BARRIO_PORT`) and a file (`barrio.toml`); the command line comes before both."""

from __future__ import annotations

from ipaddress import IPv4Address
from pathlib import Path
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, FilePath, IPvAnyAddress, SecretStr, model_validator
from pydantic_settings import BaseSettings, PydanticBaseSettingsSource, SettingsConfigDict, TomlConfigSettingsSource


class ProviderConfig(BaseModel):
    """The office's provider of identities (OpenID Connect): its `issuer`, and what Barrio is registered as with it.

    Its people come back to `/back` at the address that they open Barrio by. `called` stands on the door; `claim` is where the name stands
    by which people sign in here. With `welcomes` whoever it vouches for is somebody here, with no role yet. Where names are
    addresses, those of `domain` sign in without it, and no others.
    """

    model_config = ConfigDict(extra="forbid")

    issuer: Annotated[str, Field(pattern=r"^(https://|http://(127\.0\.0\.1|localhost)(:\d+)?(/|$))")]
    client: str
    secret: SecretStr
    called: Annotated[str, Field(min_length=1, max_length=40)] = "the office"
    claim: str = "preferred_username"
    welcomes: bool = False
    domain: str = ""


class Config(BaseSettings):
    """How Barrio is started. Without a `database` it starts one of its own, in `data`.

    `port` nobody named is 8710, or another when that is taken; 0 takes a free one. `database` is an address as libpq reads it
    (`postgresql://barrio@db.example/barrio`); its password may also stand in PGPASSWORD or a .pgpass file. `key_file` (`key` in `data`
    when left out) holds the key that secrets in the database are encrypted with; several servers on one database share it.

    `listen` is an address of this machine. Off loopback Barrio wants TLS, of its own (`tls_certificate` and `tls_key`) or by a proxy
    before it (`proxies` names the addresses that it comes from), and `public`, the address that people open (`https://barrio.example`).
    Switches that come by RFC 8572 show a certificate that one of `device_trust` (PEM) signed; what they are told is signed by `owner_key`, whose
    `owner_certificate` has its chain (PEM); `anchor` (PEM) is what they know this server by, where their own system does not.
    With `second_factor` everybody needs one. A `provider` vouches for people beside passwords. Without `worker` a server leaves jobs to others (`barrio work`); `reach` is the address at which other workers reach this
    one, to rehearse on several machines. `log`
    says which requests have a line in the log: `slow` and broken ones, or `all`.
    """

    model_config = SettingsConfigDict(
        env_prefix="BARRIO_", env_nested_delimiter="__", toml_file="barrio.toml", extra="forbid"
    )

    port: int | None = Field(None, ge=0, le=65535)
    data: Path = Path(".barrio")
    database: SecretStr | None = None
    demo: bool = False
    listen: IPvAnyAddress = IPv4Address("127.0.0.1")
    public: Annotated[str, Field(pattern=r"^(https://[A-Za-z0-9.-]+(:\d+)?)?$")] = ""
    tls_certificate: FilePath | None = None
    tls_key: FilePath | None = None
    proxies: list[IPvAnyAddress] = []
    device_trust: FilePath | None = None
    owner_certificate: FilePath | None = None
    owner_key: FilePath | None = None
    anchor: FilePath | None = None
    key_file: Path | None = None
    second_factor: bool = False
    provider: ProviderConfig | None = None
    worker: bool = True
    reach: IPvAnyAddress | None = None
    log: Literal["slow", "all"] = "slow"

    @model_validator(mode="after")
    def _is_safe(self) -> Config:
        if (self.tls_certificate is None) != (self.tls_key is None):
            raise ValueError("tls_certificate and tls_key go together")
        if (self.owner_certificate is None) != (self.owner_key is None):
            raise ValueError("owner_certificate and owner_key go together")
        if self.device_trust is not None and self.tls_certificate is None:
            raise ValueError("device_trust is for TLS of Barrio's own: name tls_certificate and tls_key")
        if self.listen.is_loopback:
            return self
        if self.tls_certificate is None and not self.proxies:
            raise ValueError(
                f"to listen on {self.listen}, name tls_certificate and tls_key, or in proxies the proxy that does TLS before Barrio"
            )
        if not self.public:
            raise ValueError(f"to listen on {self.listen}, say in public by which address people open it (https://…)")
        return self

    @classmethod
    def settings_customise_sources(
        cls,
        settings_cls: type[BaseSettings],
        init_settings: PydanticBaseSettingsSource,
        env_settings: PydanticBaseSettingsSource,
        dotenv_settings: PydanticBaseSettingsSource,
        file_secret_settings: PydanticBaseSettingsSource,
    ) -> tuple[PydanticBaseSettingsSource, ...]:
        return init_settings, env_settings, TomlConfigSettingsSource(settings_cls)
