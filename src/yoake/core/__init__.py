"""Pure computation: no HTTP, SQL, child process, clock or interface is touched from here."""
