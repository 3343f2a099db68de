-- The draft of a fabric, with what undo would take back and redo would bring back.
select fabrics.title, fabrics.version, head.brief, parent.brief as before, head.note, head.saved_at, head.effect, head.fresh, fabrics.sealed,
       case when head.parent is not null then head.note end as undo,
       (select note from revisions as child where child.parent = head.id order by child.id desc limit 1) as redo
from fabrics
join revisions as head on head.id = fabrics.head
left join revisions as parent on parent.id = head.parent
where fabrics.name = %(name)s
