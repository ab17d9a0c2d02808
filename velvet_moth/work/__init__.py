"""The worker: takes jobs from the queue of the database and does each in a process of its own."""
