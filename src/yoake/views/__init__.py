"""What a screen reads: queries and sentences. Nothing is written from here."""
