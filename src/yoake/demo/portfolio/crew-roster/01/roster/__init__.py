"""Who sails when."""
