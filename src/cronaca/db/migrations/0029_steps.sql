-- Steps are found by when and by whom they were made.
ALTER TABLE setup_change ADD KEY by_step (created_us, person);
