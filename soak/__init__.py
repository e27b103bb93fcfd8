"""Looking for what nobody thought of: seeded, resumable, stopping by itself. `make soak`; figures in docs/reliability.md."""
