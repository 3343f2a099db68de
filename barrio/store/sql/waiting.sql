-- How long nobody is listened to under some digests, in seconds.
select coalesce(max(ceil(extract(epoch from
           last + least(interval '15 minutes', interval '1 second' * power(2, least(count - free, 20))) - now()))), 0)
from failures join unnest(%(who)s::bytea[], %(free)s::integer[]) as asked (digest, free) on digest = who
where count >= free and last > now() - interval '15 minutes'
