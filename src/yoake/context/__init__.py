"""What everything above the records has at hand: records, knowledge, home and clock."""
