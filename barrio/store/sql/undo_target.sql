-- The revision that undo goes back to.
select parent.id, parent.brief, head.numbering
from fabrics
join revisions as head on head.id = fabrics.head
join revisions as parent on parent.id = head.parent
where fabrics.name = %(name)s
