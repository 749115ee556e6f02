"""HTTP: routers, schemas, jobs and their progress."""
