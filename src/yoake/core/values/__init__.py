"""Values that everything speaks of: frozen records without behaviour beyond their own."""
