-- When a run was armed is told by the clock, not by the transaction: two that are armed in one keep their order.
ALTER TABLE run ALTER COLUMN armed_at SET DEFAULT clock_timestamp();
