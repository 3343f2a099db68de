-- Acts, newest first, through a sieve.
select id, at, author, token, address, topic, fabric, version, act, note,
       (select count(*) from altered where change = changes.id)
from changes
where (%(before)s::bigint is null or id < %(before)s)
  and (%(author)s::text is null or author = %(author)s)
  and (%(fabric)s::text is null or fabric = %(fabric)s)
  and (%(topic)s::text is null or topic = %(topic)s)
  and (%(since)s::timestamptz is null or at >= %(since)s)
  and (%(until)s::timestamptz is null or at < %(until)s)
  and (%(text)s::text is null or act ilike %(text)s or note ilike %(text)s or author ilike %(text)s
       or fabric ilike %(text)s)
order by id desc
limit %(limit)s
