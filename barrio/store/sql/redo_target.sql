-- The revision that redo goes forward to: the newest that was made from the draft.
select child.id, child.brief, child.numbering
from fabrics join revisions as child on child.parent = fabrics.head
where fabrics.name = %(name)s
order by child.id desc
limit 1
