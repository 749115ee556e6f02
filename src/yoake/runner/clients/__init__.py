"""Package clients and runtimes of each ecosystem, a folder each: what core cannot reach."""
