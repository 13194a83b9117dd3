"""PostgreSQL: the pool, and one module of plain SQL per record kind."""
