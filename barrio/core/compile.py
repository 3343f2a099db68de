"""The front door of `core`: brief, catalogue and ledger in; one compiled fabric out.

`compile` expands the brief, draws its numbers, and builds the model of every switch. Files are rendered when they are
asked for; a switch whose model equals the one in `previous` keeps the files it had there. Pure: no I/O, no clock, no
randomness, and nothing shared that changes.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import fields, replace
from itertools import chain

from barrio.core.attach.attachments import attach, differing
from barrio.core.brief.model import Brief
from barrio.core.cabling.plan import Lead
from barrio.core.catalogue.made import MADE
from barrio.core.catalogue.model import Catalogue
from barrio.core.checks.attached import check_attached
from barrio.core.checks.brief import check_brief
from barrio.core.checks.claims import check_claims
from barrio.core.checks.derived import derive
from barrio.core.checks.impossible import contradictions, impossible
from barrio.core.checks.ladder import check_ladder
from barrio.core.checks.place import check_place
from barrio.core.checks.pools import check_pools_of
from barrio.core.checks.structure import check_structure
from barrio.core.compiled import Asked, Compiled, Stock
from barrio.core.errors import Refused
from barrio.core.ledger.allocate import allocate
from barrio.core.ledger.demand import FURTHER, demands_of, pools_of
from barrio.core.ledger.pool import Pool
from barrio.core.ledger.vlans import racks_choose
from barrio.core.ledger.wanted import Allocation, ByKey, Holdings, Taken, differing_numbers
from barrio.core.model.build import build, plug, shared_anew
from barrio.core.model.carried import made_anew
from barrio.core.model.devices import DEVICES
from barrio.core.model.kept import NOTHING, Kept, State, keep
from barrio.core.model.switch import SwitchModel
from barrio.core.office import BARE, Office
from barrio.core.render.engine import Stale
from barrio.core.render.target import Target
from barrio.core.settings.ladder import Ladder
from barrio.core.structure.expand import expand
from barrio.core.targets.choice import chosen, refused


def compile(
    brief: Brief,
    stock: Stock | None = None,
    catalogue: Catalogue = MADE,
    previous: Compiled | None = None,
    office: Office = BARE,
) -> Compiled:
    """The fabric that a brief describes, with every number drawn.

    Raises `Refused` with all faults found at the first stage that has any: structure, pools, numbers.
    """
    stock = stock or Stock()
    return complete(ask(brief, stock.pools, catalogue, previous, office), stock.holdings)


def ask(
    brief: Brief,
    pools: Mapping[str, Pool],
    catalogue: Catalogue = MADE,
    previous: Compiled | None = None,
    office: Office = BARE,
) -> Asked:
    """The first half of `compile`: all that can be said before anybody's numbers are looked at."""
    ladder = Ladder(brief, office.given)
    brief = ladder.whole
    others = _others(brief, catalogue, previous, office)
    touched = others if others is not None and others <= OF_HOSTS | OF_ALL else None
    was = previous if touched is not None else None
    known = previous.structure if previous and others is not None else None
    structure = was.structure if was else expand(brief, catalogue, known)
    if was is not None and touched is not None and not touched & OF_HOSTS:
        attachments = was.attachments
    else:
        attachments = attach(brief, structure, (was.brief, was.attachments) if was else None)
    findings = (
        check_brief(brief)
        + check_structure(brief, structure)
        + check_place(brief, structure)
        + tuple(check_attached(brief, structure, attachments))
        + check_ladder(ladder, structure, catalogue)
        + tuple(check_claims(brief, structure, attachments))
    )
    blocking = [finding for finding in findings if finding.code in BLOCKING]
    if touched is None or not touched <= OF_HOSTS:
        blocking += impossible(ladder, structure, DEVICES)
    if blocking:
        raise Refused(blocking)
    targets = chosen(ladder, structure, office.target)
    drawn_from = pools_of(brief, pools)
    drawn_alike = attachments.carried == was.attachments.carried or not racks_choose(brief) if was else False
    same_hosts = was is not None and ("hosts" not in brief.cabling.plans or attachments is was.attachments)
    if was and was.pools == drawn_from and drawn_alike and same_hosts:
        demands = was.demands
    else:
        demands = tuple(demands_of(brief, structure, drawn_from, attachments))
    return Asked(
        brief, ladder, targets, catalogue, structure, attachments, drawn_from, demands, findings, previous, touched,
        others == OF_RACKS,
    )  # fmt: skip


def complete(asked: Asked, holdings: Holdings) -> Compiled:
    """The second half of `compile`: numbers drawn beside what is taken, and a model for every switch."""
    brief, structure, pools = asked.brief, asked.structure, asked.pools
    attachments, touched = asked.attachments, asked.touched
    was = asked.previous if touched is not None else None
    leads_before: dict[str, Lead] = {}
    if was and asked.demands is was.demands and holdings.are(was.allocation.numbers) and holdings.pinned == was.pinned:
        allocation = Allocation(was.allocation.numbers)
    else:
        allocation = allocate(asked.demands, holdings)
    numbers = allocation.numbers
    if (
        touched is not None
        and was is not None
        and pools == was.pools
        and _printed(numbers) == _printed(was.allocation.numbers)
    ):
        ends, origins, models = was.ends, was.origins, was.models
        leaves = differing(was.attachments, attachments) if attachments is not was.attachments else ()
        if leaves:
            models = made_anew(brief, structure, numbers, DEVICES, attachments, models, leaves)
        if not touched <= OF_HOSTS:
            models, origins = shared_anew(asked.ladder, structure, numbers, pools, models)
    else:
        was, kept = None, _stays(asked, holdings, allocation)
        if kept.same and asked.previous and "leads" in asked.previous.__dict__:
            leads_before = {one.key: one for one in asked.previous.leads if not _told_anew(one, kept)}
        ends = plug(brief, structure, numbers, kept.ends, kept.settled)
        models, origins = build(asked.ladder, structure, allocation, pools, ends, DEVICES, attachments, kept)
    against = contradictions(brief, allocation.numbers, models)
    if against:
        raise Refused(against)
    without = refused(brief, structure, attachments, asked.targets)
    findings = asked.findings + tuple(dict.fromkeys(without.values()))
    if was is not None and touched is not None and touched <= OF_ALL:
        site_wide, twice = was.site_wide, was.twice
    else:
        site_wide, twice = derive(models)
    findings += check_pools_of(brief, pools) + twice
    files, stale = _rendered(asked.previous, models, asked.targets) if asked.previous else ({}, {})
    compiled = Compiled(
        brief, asked.ladder, asked.targets, asked.catalogue, structure, attachments, pools, asked.demands, allocation, ends, models, findings, holdings.pinned, without,
        origins, site_wide, twice, files, stale, leads_before,
    )  # fmt: skip
    hosts_alike = was is not None and ("hosts" not in brief.cabling.plans or attachments is was.attachments)
    for name in ("leads", "laid"):
        if was is not None and hosts_alike and name in was.__dict__:
            compiled.__dict__[name] = was.__dict__[name]
    return compiled


def _stays(asked: Asked, holdings: Holdings, allocation: Allocation) -> Kept:
    """What stays of the models of before."""
    was = asked.previous
    if was is None or not asked.grown or asked.pools != was.pools:
        return NOTHING
    known = was.allocation.numbers
    moved = (
        chain(allocation.added, allocation.returned, allocation.claimed, allocation.given_back)
        if holdings.held is known
        else differing_numbers(known, allocation.numbers)
    )
    before, now = (State(one.structure, one.attachments) for one in (was, asked))
    return keep(before, now, [key for use, key in moved if use != FURTHER], was.models, was.ends)


def _told_anew(lead: Lead, kept: Kept) -> bool:
    """Whether it has to be said anew what a cable is: it is another, or shares a plug, or goes through a trunk."""
    return lead.use != "fabric" or bool(lead.plug) or lead.via is not None or lead.key in kept.gone


def _printed(numbers: ByKey) -> dict[str, Mapping[str, Taken]]:
    """The numbers that files print: all but those of further cables."""
    return {use: held for use, held in numbers.items() if use != FURTHER}


def _rendered(
    before: Compiled, models: Mapping[str, SwitchModel], targets: Mapping[str, Target]
) -> tuple[dict[str, Mapping[str, str]], dict[str, Stale]]:
    """What is kept of the files that were rendered before: those of switches that are what they were, and those of switches that share other
    values and are else the same."""
    files: dict[str, Mapping[str, str]] = {}
    stale: dict[str, Stale] = {}
    shared: dict[tuple[int, int], frozenset[str]] = {}
    for key, model in models.items():
        was, known = before.models.get(key), before._stale.get(key)
        if key in before._files:
            known = Stale(before._files[key], frozenset())
        if was is None or known is None or targets[key] != before.targets[key]:
            continue
        if model is not was and model != was:
            if replace(was, common=model.common) != model:
                continue
            pair = id(was.common), id(model.common)
            if pair not in shared:
                names = (one.name for one in fields(model.common))
                shared[pair] = frozenset(
                    name for name in names if getattr(was.common, name) != getattr(model.common, name)
                )
            known = Stale(known.files, known.changed | shared[pair])
        if known.changed:
            stale[key] = known
        else:
            files[key] = known.files
    return files, stale


OF_HOSTS = frozenset({"hosts", "plugs", "sets", "default_plug", "leaf_plugs"})
"""The fields of a brief that say who is attached how, and nothing else."""
OF_ALL = frozenset({"title", "services", "rungs", "additions", "target", "variables", "vars", "claims"})
"""The fields of a brief that say what switches share with others, or nothing of them at all."""
OF_RACKS = frozenset({"racks"})
"""The field of a brief that says which leaves there are."""


def _others(brief: Brief, catalogue: Catalogue, previous: Compiled | None, office: Office) -> frozenset[str] | None:
    """The fields of a brief that are other than before; None where there is no before, or the catalogue is another."""
    if previous is None or catalogue != previous.catalogue:
        return None
    others = frozenset(one for one in Brief.model_fields if getattr(brief, one) != getattr(previous.brief, one))
    if office.given != previous.ladder.given:
        others |= {"rungs"}
    return others


BLOCKING = frozenset({"mtu.overlay", "routing.overlay", "routing.tunnel-ends"})
"""Findings that stop a compile: the fabric would not carry what it promises."""
