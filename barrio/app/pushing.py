"""A brief that was changed in a clone and pushed: it becomes the draft, offered for review, if it compiles."""

from __future__ import annotations

from collections.abc import Sequence

from barrio.app import drafts as use_drafts
from barrio.app import editions as use_editions
from barrio.app import reviews
from barrio.app.desk import Desk
from barrio.core import Refused
from barrio.sending.serving import Answer, Pushed
from barrio.store.errors import Missing, Raced, Stale, Unreachable

DRAFT = "refs/heads/draft"


def pushed(desk: Desk, name: str, branches: Sequence[Pushed]) -> Answer:
    """Whether a push is taken. What is taken is the draft, and offered, when this returns; else nothing is changed."""
    if len(branches) != 1 or branches[0]["ref"] != DRAFT:
        return (
            False,
            "Push to the branch draft, and to no other: git push origin HEAD:draft. Branch main holds editions, which are sealed in Barrio.",
        )
    one = branches[0]
    if one["goes"]:
        return (
            False,
            "The branch draft goes by itself with the next edition. To give the draft up, discard it in Barrio.",
        )
    if not one["after_newest"]:
        return (
            False,
            f"What you push does not stand on the newest edition of {name}. Fetch, put your change on top of main, and push again.",
        )
    if one["brief"] is None:
        return (
            False,
            "There is no brief.yaml in what you push. Keep it at the top of the repository; it is all that Barrio reads.",
        )
    try:
        return True, _take(desk, name, one)
    except Refused as refused:
        rows = [f"brief.yaml:{fault.line or 1}: {fault.message}" for fault in refused.faults]
        return False, "\n".join(["This brief cannot be had:", *rows[:40]])
    except (Missing, Stale, Raced, Unreachable) as error:
        return False, str(error)


def _take(desk: Desk, name: str, one: Pushed) -> str:
    draft = use_drafts.draft(desk, name)
    newest = use_editions.every(desk, name)
    sealed = use_editions.files(desk, name, newest[0].number)["brief.yaml"].decode() if newest else None
    if draft.text not in (sealed, one["before"], one["brief"]):
        raise Stale(
            name,
            draft.version,
            draft.version,
            f"{draft.note}”, which is not sealed. Have that sealed or discarded first. It is “{draft.note}",
        )
    title, _, why = (one["message"] or "pushed").strip().partition("\n")
    opened = use_drafts.save(desk, name, draft.version, lambda _: one["brief"], title[:200])
    found = reviews.offer(desk, name, title[:200] or "pushed", why.strip()[:4000], opened.draft.version)
    lacking = " ".join(found.lacking)
    return f"It is the draft of {name} now, and offered for review. {lacking}"
