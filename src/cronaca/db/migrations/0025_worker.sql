-- The process in the background is the worker: it has more to do than compaction.

UPDATE background_state SET role = 'worker' WHERE role = 'compactor';
