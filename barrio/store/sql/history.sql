-- The revisions of a fabric, newest first; one of them is the draft.
select revisions.id, note, author, saved_at, effect, revisions.id = fabrics.head as current
from revisions join fabrics on fabrics.name = revisions.fabric
where fabric = %(name)s and fabrics.head is not null
order by revisions.id desc
limit 500
