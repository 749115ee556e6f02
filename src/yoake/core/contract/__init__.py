"""What an ecosystem brings: the contract between the engine and each folder of ``core.ecosystems``."""
