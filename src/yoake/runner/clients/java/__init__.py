"""JDKs found on this machine, and jars at hand or in local Maven repositories."""
