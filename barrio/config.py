"""Settings of one Barrio, from the environment (`BARRIO_PORT`) and a file (`barrio.toml`); the command line comes before both."""

from __future__ import annotations

from pathlib import Path

from pydantic import Field, SecretStr
from pydantic_settings import BaseSettings, PydanticBaseSettingsSource, SettingsConfigDict, TomlConfigSettingsSource


class Config(BaseSettings):
    """How Barrio is started. Without a `database` it starts one of its own, in `data`.

    `port` nobody named is 8710, or another when that is taken; 0 takes a free one. `database` is an address as libpq reads it
    (`postgresql://barrio@db.example/barrio`); its password may also stand in PGPASSWORD or a .pgpass file.
    """

    model_config = SettingsConfigDict(env_prefix="BARRIO_", toml_file="barrio.toml", extra="forbid")

    port: int | None = Field(None, ge=0, le=65535)
    data: Path = Path(".barrio")
    database: SecretStr | None = None
    demo: bool = False

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
