-- Every fabric, the one saved last first.
select fabrics.name, fabrics.title, fabrics.version, revisions.saved_at
from fabrics join revisions on revisions.id = fabrics.head
order by revisions.saved_at desc, fabrics.name
