"""What one transaction sees: drafts, compiled fabrics, the catalogue, and the ledger as a fabric sees it."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterator, Mapping
from dataclasses import dataclass

from barrio.app.athand import AtHand, Version
from barrio.contained.process import APART
from barrio.core import Compiled, Refused, compile
from barrio.core.brief.document import locate
from barrio.core.ledger.pool import Pool
from barrio.core.office import BARE, Office, read_office
from barrio.store import drafts, entries, models, office
from barrio.store.database import Connection
from barrio.store.drafts import Draft
from barrio.store.entries import BARRIO, Act, Author, Loaded
from barrio.store.models import Shelf
from barrio.store.occupancy import Occupancy


class PoolsGrow(Exception):
    """This change adds to pools, so it has to be alone."""


@dataclass(frozen=True, slots=True)
class Known:
    """What was worked out before from what is committed."""

    shelf: Shelf
    compiled: AtHand
    office: tuple[int, Office] = (0, BARE)


class Transaction:
    """One open transaction. `worked_out` is what it compiled, for those who come after it once it has ended well."""

    def __init__(
        self,
        connection: Connection,
        occupancy: Occupancy,
        known: Known,
        alone: bool = False,
        author: Author = BARRIO,
        reads_only: bool = False,
    ) -> None:
        self.connection, self.alone, self.author, self.reads_only = connection, alone, author, reads_only
        self.worked_out: dict[str, tuple[Version, Compiled]] = {}
        self.shelf, self.office_read = known.shelf, known.office
        self.read_own_changes = False
        self._known, self._occupancy = known.compiled, occupancy
        self._wrote = False

    def draft(self, name: str) -> Draft:
        """The draft of a fabric. Raises `Missing`."""
        return drafts.find(self.connection, name)

    def drafts(self) -> Iterator[Draft]:
        """Every draft, the one saved last first."""
        for name, *_ in drafts.names(self.connection):
            yield self.draft(name)

    def catalogue(self) -> Shelf:
        """The models there are."""
        self._stamp()
        return self.shelf

    def office(self) -> Office:
        """What holds for every fabric; what of it cannot be read any more is not there."""
        number = self.catalogue().office
        if self.office_read[0] != number:
            self.office_read = number, read_office(office.files_of(self.connection, number), APART, patient=True)
        return self.office_read[1]

    def _stamp(self) -> int:
        version, pools = models.versions(self.connection)
        if self.shelf.version != version:
            self.shelf = models.shelf(self.connection, version)
        return version + pools

    def compiled(self, draft: Draft) -> Compiled:
        """The compiled fabric of a draft; compiled again only when what is at hand is of another version.

        Raises `Refused`, with lines, for a draft that an earlier Barrio took and this one does not.
        """
        version = (draft.version, self._stamp())
        at, mine = self.worked_out.get(draft.name, ((0, 0), None))
        if mine is not None and at == version:
            return mine
        if self.reads_only:
            return self._known.of(draft.name, version, lambda: self._compile(draft))
        # What a writer sees is perhaps not committed, and so nobody else's yet.
        compiled = self._known.get(draft.name, version) or self._compile(draft)
        self.worked_out[draft.name] = (version, compiled)
        return compiled

    def _compile(self, draft: Draft) -> Compiled:
        document = draft.document
        loaded = self.ledger(draft.name)
        try:
            return compile(document.brief, loaded.stock, self.shelf.catalogue, office=self.office())
        except Refused as error:
            raise locate(error, document) from None

    def readable(self, draft: Draft) -> Compiled | None:
        """The compiled fabric of a draft; nothing when it cannot be read."""
        try:
            return self.compiled(draft)
        except Refused:
            return None

    def kept(self, at: str, version: Version, make: Callable[[], Compiled]) -> Compiled:
        """Another compiled fabric that never changes, such as an edition, kept at hand under a name of its own."""
        return self._known.of(at, version, make)

    def inputs_text(self, draft: Draft, compiled: Compiled, make: Callable[[], str]) -> str:
        """The text of what a draft is compiled from; written once for each compiled fabric."""
        written: dict[int, str] = compiled.__dict__.setdefault("inputs_written", {})
        if draft.version not in written:
            written[draft.version] = make()
        return written[draft.version]

    def at_hand(self, draft: Draft) -> Compiled | None:
        """The compiled fabric of a draft, if it was compiled before."""
        return self._known.get(draft.name, (draft.version, self._stamp()))

    def drew(self, name: str, version: int, compiled: Compiled) -> None:
        """A fabric was compiled and written, and is at this version now."""
        self._wrote = True
        self.worked_out[name] = ((version, self._stamp()), compiled)

    def ledger(
        self,
        fabric: str,
        before: Compiled | None = None,
        pools: Mapping[str, Pool] | None = None,
        with_live: bool = False,
    ) -> Loaded:
        """The ledger as one fabric sees it, as `entries.load`."""
        self.read_own_changes |= self._wrote
        return entries.load(self.connection, self._occupancy, fabric, before, pools, with_live)

    def act(self, act: Act) -> None:
        """Record what is done; all that changes from here on is its doing."""
        entries.open_change(self.connection, act, self.author)

    def end_rests(self, scopes: Collection[str]) -> None:
        """Free what has rested as long as its pool says."""
        self._wrote |= entries.end_rests(self.connection, scopes)

    def wrote(self) -> None:
        """Numbers were changed: what is read of them from now on is not committed yet."""
        self._wrote = True

    def users(self, pool: str) -> list[str]:
        """The fabrics that hold or rest numbers of a pool, or whose draft says that they draw from it."""
        taken = self.connection.execute("select distinct fabric from entries where pool = %s", [pool])
        return sorted({name for (name,) in taken} | {draft.name for draft in self.drafts() if draws_from(draft, pool)})


def draws_from(draft: Draft, pool: str) -> bool:
    """Whether a draft draws from a pool; one that cannot be read does when it names it."""
    try:
        return any(name == pool for _, name in draft.document.brief.numbers)
    except Refused:
        return pool in draft.text
