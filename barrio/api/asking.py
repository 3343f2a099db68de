"""Switches asked by hand: the list of what may be asked, asking, and the answers side by side."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated

from fastapi import APIRouter
from pydantic import BaseModel, Field

from barrio.api.desk import ERRORS, KeepingOffice, Looking, Reading, Staging
from barrio.app import asking
from barrio.store.asks import Asked

router = APIRouter(prefix="/api/v1", tags=["asking"], responses=ERRORS)
Line = Annotated[str, Field(min_length=1, max_length=200)]


class AskCommand(BaseModel):
    """A command that only looks, what it tells, and whether the office keeps it beside those that ship."""

    command: str
    words: str
    own: bool


class AskNew(BaseModel):
    """A command of the list, and the switches to ask, by name; all that were handed over where none is named."""

    command: Line
    switches: Annotated[list[str], Field(max_length=4000)] = []


class AskBegun(BaseModel):
    number: int


class AskRow(BaseModel):
    """What was asked, by whom, and whether answers are still waited for."""

    number: int
    command: str
    author: str
    at: datetime
    waits: bool


class AskAlike(BaseModel):
    """Switches that answered the same; without an answer, those that have not."""

    switches: list[str]
    answer: str | None
    code: int | None


class AskView(AskRow):
    """A command with its answers, those alike together."""

    answers: list[AskAlike]


class AskKept(BaseModel):
    """A command that the office keeps, and what it tells."""

    command: Line
    words: Annotated[str, Field(max_length=200)] = ""


@router.get("/commands", operation_id="listAskCommands")
def list_ask_commands(at: Looking) -> list[AskCommand]:
    """What switches may be asked."""
    return [AskCommand(command=one.command, words=one.words, own=own) for one, own in asking.commands(at)]


@router.put("/commands", operation_id="keepAskCommand", status_code=204)
def keep_ask_command(said: AskKept, at: KeepingOffice) -> None:
    """Keep a command that only looks for all of the office."""
    asking.keep_command(at, said.command, said.words)


@router.post("/commands/drop", operation_id="dropAskCommand", status_code=204)
def drop_ask_command(said: AskKept, at: KeepingOffice) -> None:
    """Take a command from the office's list."""
    asking.drop_command(at, said.command)


@router.post("/fabrics/{name}/asks", operation_id="askSwitches", status_code=201)
def ask_switches(name: str, said: AskNew, at: Staging) -> AskBegun:
    """Ask switches a command of the list."""
    return AskBegun(number=asking.ask(at, name, said.command, said.switches))


@router.get("/fabrics/{name}/asks", operation_id="listAsks")
def list_asks(name: str, at: Reading) -> list[AskRow]:
    """What was asked, the newest first."""
    return [AskRow.model_validate(_row(one)) for one in asking.every(at, name)]


@router.get("/fabrics/{name}/asks/{number}", operation_id="getAsk")
def get_ask(name: str, number: int, at: Reading) -> AskView:
    """What was answered, those alike together."""
    asked, found = asking.found(at, name, number)
    answers = [{"switches": list(one.switches), "answer": one.answer, "code": one.code} for one in found]
    return AskView.model_validate(_row(asked) | {"answers": answers})


def _row(one: Asked) -> dict[str, object]:
    return {"number": one.id, "command": one.command, "author": one.author, "at": one.at, "waits": one.waits}
