-- Numbers that go straight to another key of the same draft, as a renumbering asks.
delete from entries using unnest(%(uses)s::text[], %(keys)s::text[]) as gone (use, key)
where entries.fabric = %(fabric)s and entries.use = gone.use and entries.key = gone.key
  and entries.state in ('held', 'live') and not entries.leaving
