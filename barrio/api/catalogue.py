"""The catalogue: models that ship and the architect's own, as YAML; what a changed model would do is shown before."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter
from pydantic import BaseModel, Field, ValidationError

from barrio.api.fabrics import ERRORS, Store
from barrio.api.people import Who
from barrio.core.brief import reader
from barrio.core.brief.document import faults_of
from barrio.core.catalogue.model import SwitchType
from barrio.core.errors import Refused
from barrio.store.drafts import ModelEffect

router = APIRouter(prefix="/api/catalogue", tags=["catalogue"])


class ModelRow(BaseModel):
    """A model; `own` says whether it is the architect's."""

    model: SwitchType
    own: bool


class ModelText(BaseModel):
    text: str = Field(max_length=64_000)


class ModelPreview(BaseModel):
    """A model as it was read, whether its id is taken already, and what it would do to each fabric that uses it."""

    model: SwitchType
    replaces: bool
    effects: list[ModelEffect]


def _read(text: str) -> SwitchType:
    fields, places = reader.load(text)
    try:
        return SwitchType.model_validate(fields)
    except ValidationError as error:
        raise Refused(faults_of(error, places)) from None


@router.get("", operation_id="getCatalogue")
def get_catalogue(store: Store) -> list[ModelRow]:
    shelf = store.catalogue()
    return [ModelRow(model=kind, own=kind.id in shelf.own) for kind in shelf.catalogue.models]


@router.get("/schema.json", operation_id="getModelSchema")
def get_model_schema() -> dict[str, Any]:
    return SwitchType.model_json_schema()


@router.post("/preview", operation_id="previewModel", responses=ERRORS)
def preview_model(new: ModelText, store: Store) -> ModelPreview:
    kind = _read(new.text)
    known = store.catalogue().catalogue.find(kind.id) is not None
    return ModelPreview(model=kind, replaces=known, effects=store.try_model(kind))


@router.put("", operation_id="putModel", responses=ERRORS)
def put_model(new: ModelText, store: Store, who: Who) -> ModelPreview:
    kind = _read(new.text)
    known = store.catalogue().catalogue.find(kind.id) is not None
    return ModelPreview(model=kind, replaces=known, effects=store.put_model(kind, who))


@router.delete("/{model}", operation_id="dropModel", status_code=204, responses=ERRORS)
def drop_model(model: str, store: Store) -> None:
    store.drop_model(model)
