"""The catalogue: models that ship and the architect's own, as YAML; what a changed model would do is shown before."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter
from pydantic import BaseModel, Field, ValidationError

from barrio.api.desk import ERRORS, KeepingCatalogue, Looking
from barrio.app import catalogue
from barrio.app.catalogue import ModelEffect
from barrio.core.brief import reader
from barrio.core.brief.document import faults_of
from barrio.core.catalogue.model import SwitchType
from barrio.core.catalogue.text import text_of
from barrio.core.errors import Refused

router = APIRouter(prefix="/api/v1/catalogue", tags=["catalogue"], responses=ERRORS)


class ModelRow(BaseModel):
    """A model, also as the text that it can be changed in; `own` says whether it is the architect's."""

    model: SwitchType
    own: bool
    text: str


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
def get_catalogue(at: Looking) -> list[ModelRow]:
    found = catalogue.shelf(at)
    return [ModelRow(model=kind, own=kind.id in found.own, text=text_of(kind)) for kind in found.catalogue.models]


@router.get("/schema.json", operation_id="getModelSchema")
def get_model_schema() -> dict[str, Any]:
    return SwitchType.model_json_schema()


@router.post("/preview", operation_id="previewModel")
def preview_model(new: ModelText, at: KeepingCatalogue) -> ModelPreview:
    kind = _read(new.text)
    replaces, effects = catalogue.preview(at, kind)
    return ModelPreview(model=kind, replaces=replaces, effects=effects)


@router.put("", operation_id="putModel")
def put_model(new: ModelText, at: KeepingCatalogue) -> ModelPreview:
    kind = _read(new.text)
    replaces, effects = catalogue.put(at, kind)
    return ModelPreview(model=kind, replaces=replaces, effects=effects)


@router.delete("/{model}", operation_id="dropModel", status_code=204)
def drop_model(model: str, at: KeepingCatalogue) -> None:
    catalogue.drop(at, model)
