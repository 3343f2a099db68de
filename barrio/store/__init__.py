"""PostgreSQL through psycopg: fabrics, their drafts' history, pools, and every number that is taken from them.

Statements live in `sql/`; Python binds and maps. What must never be wrong is guarded by the schema itself.
"""
